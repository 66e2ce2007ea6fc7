import { randomUUID } from 'node:crypto';
import { Router } from 'express';
import { IsNull, Not } from 'typeorm';
import { validatePreset, type Preset } from '../../core/index.ts';
import { DropRecordRow, OWNER, PresetRow, PresetVersionRow, SessionRow, TagRow } from '../db/entities.ts';
import { presetRow, putPreset, putTags, searchText } from '../db/store.ts';
import { NewPresetDto, PresetMetaDto, ShelfQueryDto, check } from './dto.ts';
import { idOf, ifMatch, type Context } from './context.ts';
import { HttpProblem, invalid, notFound } from './problem.ts';

export function presetRoutes({ db }: Context): Router {
  const router = Router();
  const repo = db.getRepository(PresetRow);

  const load = async (id: string): Promise<PresetRow> => {
    const row = await repo.findOneBy({ id, owner: OWNER, deletedAt: IsNull() });
    if (!row) throw notFound('This preset');
    return row;
  };
  const version = async (id: string, n: number): Promise<Preset> => {
    const v = await db.getRepository(PresetVersionRow).findOne({ where: { preset: id, version: n, owner: OWNER }, select: { preset: true, version: true, document: true } });
    if (!v) throw notFound(`Version ${n} of this preset`);
    return v.document as Preset;
  };

  /** Search: FULLTEXT for words (each a beginning), indexed columns for the rest; paged by key (name and id, or last use and id). */
  router.get('/', async (req, res) => {
    const q = check(ShelfQueryDto, req.query, 'query');
    const limit = q.limit ?? 50;
    const b = repo.createQueryBuilder('p').where('p.owner = :o AND p.deletedAt IS NULL', { o: OWNER });
    const words = (q.q ?? '').toLowerCase().split(/[^\p{L}\p{N}]+/u).filter(Boolean).slice(0, 8);
    if (words.length) b.andWhere('MATCH(p.search) AGAINST (:words IN BOOLEAN MODE)', { words: words.map((w) => `+${w}*`).join(' ') });
    if (q.kind) b.andWhere('p.kind = :kind', { kind: q.kind });
    if (q.category) b.andWhere('(p.category = :cat OR p.category LIKE :below)', { cat: q.category, below: q.category.replace(/[%_\\]/g, '\\$&') + '/%' });
    if (q.tag) b.andWhere('EXISTS (SELECT 1 FROM tag t WHERE t.preset = p.id AND t.name = :tag)', { tag: q.tag });
    if (q.pinned === 'true') b.andWhere('p.pinned = 1');
    const used = q.sort === 'used';
    if (q.after) {
      const [key, id] = cursor(q.after);
      if (used) b.andWhere("(COALESCE(p.lastUsedAt, '1970-01-01') < :k OR (COALESCE(p.lastUsedAt, '1970-01-01') = :k AND p.id > :i))", { k: key, i: id });
      else b.andWhere('(p.name > :k OR (p.name = :k AND p.id > :i))', { k: key, i: id });
    }
    if (used) b.orderBy("COALESCE(p.lastUsedAt, '1970-01-01')", 'DESC').addOrderBy('p.id', 'ASC'); else b.orderBy('p.name', 'ASC').addOrderBy('p.id', 'ASC');
    const rows = await b.limit(limit + 1).getMany();
    const page = rows.slice(0, limit);
    const last = page.at(-1);
    const next = rows.length > limit && last ? Buffer.from(JSON.stringify([used ? sqlDate(last.lastUsedAt) : last.name, last.id])).toString('base64url') : null;
    res.json({ items: page.map(shown), next });
  });

  router.get('/facets', async (_req, res) => {
    const [categories, tags, kinds] = await Promise.all([
      db.query('SELECT category AS name, COUNT(*) AS n FROM preset WHERE owner = ? AND deletedAt IS NULL AND category <> "" GROUP BY category ORDER BY category LIMIT 500', [OWNER]),
      db.query('SELECT t.name AS name, COUNT(*) AS n FROM tag t JOIN preset p ON p.id = t.preset WHERE t.owner = ? AND p.deletedAt IS NULL GROUP BY t.name ORDER BY n DESC, t.name LIMIT 60', [OWNER]),
      db.query('SELECT kind AS name, COUNT(*) AS n FROM preset WHERE owner = ? AND deletedAt IS NULL GROUP BY kind', [OWNER]),
    ]) as { name: string; n: string }[][];
    const numbers = (list: { name: string; n: string }[]) => list.map((x) => ({ name: x.name, n: Number(x.n) }));
    res.json({ categories: numbers(categories), tags: numbers(tags), kinds: numbers(kinds) });
  });

  router.post('/', async (req, res) => {
    const { preset } = check(NewPresetDto, req.body) as { preset: Preset };
    const p: Preset = { ...preset, id: preset.id || randomUUID(), version: 1 };
    checkPreset(p);
    if (await repo.existsBy({ id: p.id })) throw new HttpProblem(409, 'Exists', `A preset with the id “${p.id}” is on the shelf already.`);
    await db.transaction((m) => putPreset(m, p));
    res.status(201).location(`/api/presets/${p.id}`).json({ id: p.id, version: 1 });
  });

  router.get('/:id', async (req, res) => {
    const row = await load(idOf(req));
    const versions = await db.getRepository(PresetVersionRow).find({ where: { preset: row.id }, select: { version: true, hash: true, createdAt: true }, order: { version: 'DESC' } });
    res.setHeader('ETag', `"${row.currentVersion}"`);
    res.json({ ...shown(row), versions, preset: await version(row.id, row.currentVersion) });
  });

  router.get('/:id/versions/:version', async (req, res) => {
    const row = await load(idOf(req));
    const n = Number(req.params.version);
    if (!Number.isInteger(n) || n < 1) throw new HttpProblem(400, 'Not valid', `“${req.params.version}” is not a version number.`);
    res.json(await version(row.id, n));
  });

  /** Saving again: always a new version; the earlier ones never change. */
  router.post('/:id/versions', async (req, res) => {
    const row = await load(idOf(req));
    const based = ifMatch(req);
    const { preset } = check(NewPresetDto, req.body) as { preset: Preset };
    if (row.currentVersion !== based) throw new HttpProblem(412, 'Changed elsewhere', `“${row.name}” has version ${row.currentVersion} by now; this was based on ${based}. Look at what differs and save again.`, [], { version: row.currentVersion });
    const p: Preset = { ...preset, id: row.id, version: based + 1, parent: { preset: row.id, version: based } };
    checkPreset(p);
    const before = await version(row.id, based);
    if (before.hash === p.hash && before.name === p.name && before.note === p.note) throw new HttpProblem(409, 'Nothing changed', `“${row.name}” would be the same as version ${based}; no new version was made.`);
    await db.transaction(async (m) => {
      const { pinned: _p, lastUsedAt: _l, ...fields } = presetRow(p);
      const r = await m.update(PresetRow, { id: row.id, currentVersion: based }, fields);
      if (r.affected !== 1) throw new HttpProblem(412, 'Changed elsewhere', `“${row.name}” was saved in another window at the same moment. Save again.`);
      await m.insert(PresetVersionRow, { preset: row.id, version: p.version, owner: OWNER, hash: p.hash, document: p });
      await putTags(m, row.id, p.tags);
    });
    res.status(201).json({ id: row.id, version: p.version });
  });

  /** Name, category, tags and pin belong to the shelf, not to a version. */
  router.patch('/:id', async (req, res) => {
    const row = await load(idOf(req));
    const dto = check(PresetMetaDto, req.body);
    const p = await version(row.id, row.currentVersion);
    const summary = { ...(row.summary as { tags: string[] }), ...(dto.tags ? { tags: dto.tags } : {}) };
    const name = dto.name ?? row.name, category = dto.category ?? row.category;
    await db.transaction(async (m) => {
      await m.update(PresetRow, { id: row.id }, { name, category, summary, pinned: dto.pinned === undefined ? row.pinned : dto.pinned ? 1 : 0, search: searchText({ ...p, name, category, tags: summary.tags }) });
      if (dto.tags) await putTags(m, row.id, dto.tags);
    });
    res.json(shown(await load(row.id)));
  });

  router.delete('/:id', async (req, res) => {
    const r = await repo.update({ id: idOf(req), owner: OWNER, deletedAt: IsNull() }, { deletedAt: new Date() });
    if (!r.affected) throw notFound('This preset');
    res.status(204).end();
  });

  router.post('/:id/restore', async (req, res) => {
    const r = await repo.update({ id: idOf(req), owner: OWNER, deletedAt: Not(IsNull()) }, { deletedAt: null });
    if (!r.affected) throw notFound('This preset');
    res.status(204).end();
  });

  /** Where it is used: the drops that were made, newest first. */
  router.get('/:id/uses', async (req, res) => {
    const row = await load(idOf(req));
    const drops = await db.getRepository(DropRecordRow).find({ where: { preset: row.id, owner: OWNER }, order: { createdAt: 'DESC' }, take: 100 });
    const names = new Map((await db.getRepository(SessionRow).find({ where: { owner: OWNER }, select: { id: true, name: true, deletedAt: true } })).filter((s) => !s.deletedAt).map((s) => [s.id, s.name]));
    res.json(drops.filter((d) => names.has(d.session)).map((d) => ({ id: d.id, session: d.session, name: names.get(d.session), version: d.version, at: d.createdAt })));
  });

  router.get('/:id/tags', async (req, res) => { res.json((await db.getRepository(TagRow).findBy({ preset: idOf(req) })).map((t) => t.name)); });

  return router;
}

function checkPreset(p: Preset): void {
  const bad = validatePreset(p);
  if (typeof p.name !== 'string' || !p.name.trim() || p.name.length > 200) bad.unshift({ path: '/name', rule: 'text', message: 'A preset’s name has 1 to 200 characters.' });
  if (typeof p.category !== 'string' || p.category.length > 200) bad.unshift({ path: '/category', rule: 'text', message: 'A category has at most 200 characters.' });
  if (!Array.isArray(p.tags) || p.tags.length > 30 || p.tags.some((t) => typeof t !== 'string' || t.length > 60)) bad.unshift({ path: '/tags', rule: 'tags', message: 'A preset has at most 30 tags of at most 60 characters.' });
  if (typeof p.note !== 'string' || p.note.length > 20000) bad.unshift({ path: '/note', rule: 'text', message: 'A note is a text.' });
  if (bad.length) throw invalid('This preset', bad);
}

const shown = (r: PresetRow) => ({
  id: r.id, kind: r.kind, name: r.name, category: r.category, colour: r.colour, pinned: r.pinned === 1, version: r.currentVersion, summary: r.summary, lastUsedAt: r.lastUsedAt, createdAt: r.createdAt, updatedAt: r.updatedAt,
});

const sqlDate = (d: Date | null) => (d ? d.toISOString().slice(0, 23).replace('T', ' ') : '1970-01-01 00:00:00.000');

function cursor(text: string): [string, string] {
  try {
    const v = JSON.parse(Buffer.from(text, 'base64url').toString()) as unknown;
    if (Array.isArray(v) && v.length === 2 && v.every((x) => typeof x === 'string')) return v as [string, string];
  } catch { /* answered below */ }
  throw new HttpProblem(400, 'Not valid', 'The page marker is not one that this server gave out.');
}
