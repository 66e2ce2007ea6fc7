import { randomUUID } from 'node:crypto';
import { Router } from 'express';
import jsonpatch from 'fast-json-patch';
import { In, IsNull, Not, type DataSource } from 'typeorm';
import {
  rootAgain,
  rootsOf,
  updateFromShelf,
  validatePreset,
  validateSession,
  type Preset,
  type Session,
} from '../../core/index.ts';
import { DropRecordRow, OWNER, PresetRow, PresetVersionRow, SessionRow, TagRow } from '../db/entities.ts';
import { presetRow, putPreset, putRevision, putTags, searchText } from '../db/store.ts';
import { NewPresetDto, PresetMetaDto, ShelfQueryDto, UpdateSessionsDto, VersionsDto, check } from './dto.ts';
import { idOf, ifMatch, type Context } from './context.ts';
import { HttpProblem, invalid, notFound } from './problem.ts';

/** The latest version of a preset that is on the shelf, under the name that it has there. */
export async function currentVersion(db: DataSource, id: string): Promise<Preset> {
  const row = await db.getRepository(PresetRow).findOneBy({ id, owner: OWNER, deletedAt: IsNull() });
  const v =
    row &&
    (await db.getRepository(PresetVersionRow).findOne({
      where: { preset: id, version: row.currentVersion, owner: OWNER },
      select: { preset: true, version: true, document: true },
    }));
  if (!v) throw notFound('This preset');
  return { ...(v.document as Preset), name: row.name };
}

export function presetRoutes({ db, events }: Context): Router {
  const router = Router();
  const repo = db.getRepository(PresetRow);

  const load = async (id: string): Promise<PresetRow> => {
    const row = await repo.findOneBy({ id, owner: OWNER, deletedAt: IsNull() });
    if (!row) throw notFound('This preset');
    return row;
  };
  const version = async (id: string, n: number): Promise<Preset> => {
    const v = await db.getRepository(PresetVersionRow).findOne({
      where: { preset: id, version: n, owner: OWNER },
      select: { preset: true, version: true, document: true },
    });
    if (!v) throw notFound(`Version ${n} of this preset`);
    return v.document as Preset;
  };

  /**
   * Search: FULLTEXT for words (each a beginning), indexed columns for the rest; paged by key (name and id,
   * or last use and id).
   */
  router.get('/', async (req, res) => {
    const q = check(ShelfQueryDto, req.query, 'query');
    const limit = q.limit ?? 50;
    const b = repo.createQueryBuilder('p').where('p.owner = :o AND p.deletedAt IS NULL', { o: OWNER });
    const words = (q.q ?? '')
      .toLowerCase()
      .split(/[^\p{L}\p{N}]+/u)
      .filter(Boolean)
      .slice(0, 8);
    if (words.length) {
      b.andWhere('MATCH(p.search) AGAINST (:words IN BOOLEAN MODE)', {
        words: words.map((w) => `+${w}*`).join(' '),
      });
    }
    if (q.kind) b.andWhere('p.kind = :kind', { kind: q.kind });
    if (q.category) {
      b.andWhere('(p.category = :cat OR p.category LIKE :below)', {
        cat: q.category,
        below: q.category.replace(/[%_\\]/g, '\\$&') + '/%',
      });
    }
    if (q.tag) {
      b.andWhere('EXISTS (SELECT 1 FROM tag t WHERE t.preset = p.id AND t.name = :tag)', { tag: q.tag });
    }
    if (q.parent) b.andWhere('p.parent = :parent', { parent: q.parent });
    if (q.pinned === 'true') b.andWhere('p.pinned = 1');
    const used = q.sort === 'used';
    if (q.after) {
      const [key, id] = cursor(q.after);
      if (used) {
        b.andWhere(
          "(COALESCE(p.lastUsedAt, '1970-01-01') < :k OR (COALESCE(p.lastUsedAt, '1970-01-01') = :k AND p.id > :i))",
          { k: key, i: id },
        );
      } else b.andWhere('(p.name > :k OR (p.name = :k AND p.id > :i))', { k: key, i: id });
    }
    if (used) b.orderBy("COALESCE(p.lastUsedAt, '1970-01-01')", 'DESC').addOrderBy('p.id', 'ASC');
    else b.orderBy('p.name', 'ASC').addOrderBy('p.id', 'ASC');
    const rows = await b.limit(limit + 1).getMany();
    const page = rows.slice(0, limit);
    const last = page.at(-1);
    const next =
      rows.length > limit && last
        ? Buffer.from(JSON.stringify([used ? sqlDate(last.lastUsedAt) : last.name, last.id])).toString(
            'base64url',
          )
        : null;
    res.json({ items: page.map(shown), next });
  });

  router.get('/facets', async (_req, res) => {
    const [categories, tags, kinds] = (await Promise.all([
      db.query(
        'SELECT category AS name, COUNT(*) AS n FROM preset WHERE owner = ? AND deletedAt IS NULL AND category <> "" GROUP BY category ORDER BY category LIMIT 500',
        [OWNER],
      ),
      db.query(
        'SELECT t.name AS name, COUNT(*) AS n FROM tag t JOIN preset p ON p.id = t.preset WHERE t.owner = ? AND p.deletedAt IS NULL GROUP BY t.name ORDER BY n DESC, t.name LIMIT 60',
        [OWNER],
      ),
      db.query(
        'SELECT kind AS name, COUNT(*) AS n FROM preset WHERE owner = ? AND deletedAt IS NULL GROUP BY kind',
        [OWNER],
      ),
    ])) as { name: string; n: string }[][];
    const numbers = (list: { name: string; n: string }[]) =>
      list.map((x) => ({ name: x.name, n: Number(x.n) }));
    res.json({ categories: numbers(categories), tags: numbers(tags), kinds: numbers(kinds) });
  });

  /**
   * Where the shelf stands now, for the origins in a session; what is not on the shelf any more is left out.
   */
  router.post('/current', async (req, res) => {
    const { ids } = check(VersionsDto, req.body);
    const rows = ids.length
      ? await repo.find({
          where: { id: In(ids), owner: OWNER, deletedAt: IsNull() },
          select: { id: true, name: true, currentVersion: true },
        })
      : [];
    res.json(Object.fromEntries(rows.map((r) => [r.id, { version: r.currentVersion, name: r.name }])));
  });

  /** All sessions with lines or pieces of this preset, those behind the shelf first. */
  router.get('/:id/sessions', async (req, res) => {
    const row = await load(idOf(req));
    const uses = (await db.query(
      'SELECT u.session AS id, s.name AS name, s.updatedAt AS updatedAt, SUM(u.places) AS places, SUM(IF(u.version < ?, u.places, 0)) AS behind, MIN(u.version) AS oldest FROM session_use u JOIN session s ON s.id = u.session WHERE u.owner = ? AND u.preset = ? AND s.deletedAt IS NULL GROUP BY u.session, s.name, s.updatedAt ORDER BY behind DESC, s.name LIMIT 1000',
      [row.currentVersion, OWNER, row.id],
    )) as Record<string, string>[];
    res.json({
      version: row.currentVersion,
      sessions: uses.map((u) => ({
        id: u.id,
        name: u.name,
        updatedAt: u.updatedAt,
        places: Number(u.places),
        behind: Number(u.behind),
        oldest: Number(u.oldest),
      })),
    });
  });

  /**
   * Brings sessions to the latest version, three-way; where both sides changed a value the session keeps its
   * own. With `look` nothing is written.
   */
  router.post('/:id/update', async (req, res) => {
    const row = await load(idOf(req));
    const { sessions, look } = check(UpdateSessionsDto, req.body);
    const versions = new Map<number, Preset>();
    const at = async (n: number) => {
      let v = versions.get(n);
      if (!v) versions.set(n, (v = { ...(await version(row.id, n)), name: row.name }));
      return v;
    };
    const next = await at(row.currentVersion);
    const out: object[] = [];
    for (const id of sessions) {
      const s = await db.getRepository(SessionRow).findOne({
        where: { id, owner: OWNER, deletedAt: IsNull() },
        select: { id: true, name: true, revision: true, document: true },
      });
      if (!s) {
        out.push({ id, error: 'This session is not there any more.' });
        continue;
      }
      let doc = s.document as Session;
      const said = {
        id,
        name: s.name,
        updated: 0,
        taken: 0,
        kept: 0,
        conflicts: [] as string[],
        notes: [] as string[],
      };
      try {
        for (const o of rootsOf(doc).filter(
          (r) => r.origin.preset === row.id && r.origin.version < row.currentVersion,
        )) {
          const root = rootAgain(doc, o)!;
          const u = updateFromShelf(doc, root, await at(root.origin.version), next);
          doc = u.session;
          said.updated++;
          said.taken += u.taken.length;
          said.kept += u.kept.length;
          said.conflicts.push(
            ...u.conflicts.map(
              (c) => `${root.track.name} · ${c.label}: ${c.mine} stays, the shelf has ${c.theirs}`,
            ),
          );
          said.notes.push(...u.notes);
        }
        const bad = validateSession(doc);
        if (bad.length) throw new Error(bad[0].message);
      } catch (e) {
        out.push({ id, name: s.name, error: `Left as it was: ${(e as Error).message}` });
        continue;
      }
      if (!look && said.updated) {
        const patch = jsonpatch.compare(s.document, doc);
        if (!(await db.transaction((m) => putRevision(m, id, s.revision, doc, patch, 'shelf')))) {
          out.push({ id, name: s.name, error: 'It was changed at this moment; try again.' });
          continue;
        }
        events.changed({ session: id, revision: s.revision + 1, client: 'shelf' });
      }
      out.push(said);
    }
    res.json({ version: row.currentVersion, sessions: out });
  });

  router.post('/', async (req, res) => {
    const { preset } = check(NewPresetDto, req.body) as { preset: Preset };
    const p: Preset = { ...preset, id: preset.id || randomUUID(), version: 1 };
    checkPreset(p);
    if (await repo.existsBy({ id: p.id })) {
      throw new HttpProblem(409, 'Exists', `A preset with the id “${p.id}” is on the shelf already.`);
    }
    await db.transaction((m) => putPreset(m, p));
    res.status(201).location(`/api/presets/${p.id}`).json({ id: p.id, version: 1 });
  });

  router.get('/:id', async (req, res) => {
    const row = await load(idOf(req));
    const versions = await db.getRepository(PresetVersionRow).find({
      where: { preset: row.id },
      select: { version: true, hash: true, createdAt: true },
      order: { version: 'DESC' },
    });
    res.setHeader('ETag', `"${row.currentVersion}"`);
    res.json({ ...shown(row), versions, preset: await version(row.id, row.currentVersion) });
  });

  router.get('/:id/versions/:version', async (req, res) => {
    const row = await load(idOf(req));
    const n = Number(req.params.version);
    if (!Number.isInteger(n) || n < 1) {
      throw new HttpProblem(400, 'Not valid', `“${req.params.version}” is not a version number.`);
    }
    res.json(await version(row.id, n));
  });

  /** Saving again: always a new version; the earlier ones never change. */
  router.post('/:id/versions', async (req, res) => {
    const row = await load(idOf(req));
    const based = ifMatch(req);
    const { preset } = check(NewPresetDto, req.body) as { preset: Preset };
    if (row.currentVersion !== based) {
      throw new HttpProblem(
        412,
        'Changed elsewhere',
        `“${row.name}” has version ${row.currentVersion} by now; this was based on ${based}. Look at what differs and save again.`,
        [],
        { version: row.currentVersion },
      );
    }
    const p: Preset = {
      ...preset,
      id: row.id,
      version: based + 1,
      parent: { preset: row.id, version: based },
    };
    checkPreset(p);
    const before = await version(row.id, based);
    if (before.hash === p.hash && before.name === p.name && before.note === p.note) {
      throw new HttpProblem(
        409,
        'Nothing changed',
        `“${row.name}” would be the same as version ${based}; no new version was made.`,
      );
    }
    await db.transaction(async (m) => {
      const { pinned: _p, lastUsedAt: _l, parent: _v, ...fields } = presetRow(p);
      const r = await m.update(PresetRow, { id: row.id, currentVersion: based }, fields);
      if (r.affected !== 1) {
        throw new HttpProblem(
          412,
          'Changed elsewhere',
          `“${row.name}” was saved in another window at the same moment. Save again.`,
        );
      }
      await m.insert(PresetVersionRow, {
        preset: row.id,
        version: p.version,
        owner: OWNER,
        hash: p.hash,
        document: p,
      });
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
    const name = dto.name ?? row.name;
    const category = dto.category ?? row.category;
    await db.transaction(async (m) => {
      await m.update(
        PresetRow,
        { id: row.id },
        {
          name,
          category,
          summary,
          pinned: dto.pinned === undefined ? row.pinned : dto.pinned ? 1 : 0,
          search: searchText({ ...p, name, category, tags: summary.tags }),
        },
      );
      if (dto.tags) await putTags(m, row.id, dto.tags);
    });
    res.json(shown(await load(row.id)));
  });

  router.delete('/:id', async (req, res) => {
    const r = await repo.update(
      { id: idOf(req), owner: OWNER, deletedAt: IsNull() },
      { deletedAt: new Date() },
    );
    if (!r.affected) throw notFound('This preset');
    res.status(204).end();
  });

  router.post('/:id/restore', async (req, res) => {
    const r = await repo.update(
      { id: idOf(req), owner: OWNER, deletedAt: Not(IsNull()) },
      { deletedAt: null },
    );
    if (!r.affected) throw notFound('This preset');
    res.status(204).end();
  });

  /** Where it is used: the drops that were made, newest first. */
  router.get('/:id/uses', async (req, res) => {
    const row = await load(idOf(req));
    const drops = await db
      .getRepository(DropRecordRow)
      .find({ where: { preset: row.id, owner: OWNER }, order: { createdAt: 'DESC' }, take: 100 });
    const names = new Map(
      (
        await db
          .getRepository(SessionRow)
          .find({ where: { owner: OWNER }, select: { id: true, name: true, deletedAt: true } })
      )
        .filter((s) => !s.deletedAt)
        .map((s) => [s.id, s.name]),
    );
    res.json(
      drops
        .filter((d) => names.has(d.session))
        .map((d) => ({
          id: d.id,
          session: d.session,
          name: names.get(d.session),
          version: d.version,
          at: d.createdAt,
        })),
    );
  });

  router.get('/:id/tags', async (req, res) => {
    res.json((await db.getRepository(TagRow).findBy({ preset: idOf(req) })).map((t) => t.name));
  });

  return router;
}

function checkPreset(p: Preset): void {
  const bad = validatePreset(p);
  if (typeof p.name !== 'string' || !p.name.trim() || p.name.length > 200) {
    bad.unshift({ path: '/name', rule: 'text', message: 'A preset’s name has 1 to 200 characters.' });
  }
  if (typeof p.category !== 'string' || p.category.length > 200) {
    bad.unshift({ path: '/category', rule: 'text', message: 'A category has at most 200 characters.' });
  }
  if (
    !Array.isArray(p.tags) ||
    p.tags.length > 30 ||
    p.tags.some((t) => typeof t !== 'string' || t.length > 60)
  ) {
    bad.unshift({
      path: '/tags',
      rule: 'tags',
      message: 'A preset has at most 30 tags of at most 60 characters.',
    });
  }
  if (typeof p.note !== 'string' || p.note.length > 20000) {
    bad.unshift({ path: '/note', rule: 'text', message: 'A note is a text.' });
  }
  if (bad.length) throw invalid('This preset', bad);
}

const shown = (r: PresetRow) => ({
  id: r.id,
  kind: r.kind,
  name: r.name,
  category: r.category,
  colour: r.colour,
  pinned: r.pinned === 1,
  version: r.currentVersion,
  parent: r.parent,
  summary: r.summary,
  lastUsedAt: r.lastUsedAt,
  createdAt: r.createdAt,
  updatedAt: r.updatedAt,
});

const sqlDate = (d: Date | null) =>
  d ? d.toISOString().slice(0, 23).replace('T', ' ') : '1970-01-01 00:00:00.000';

function cursor(text: string): [string, string] {
  try {
    const v = JSON.parse(Buffer.from(text, 'base64url').toString()) as unknown;
    if (Array.isArray(v) && v.length === 2 && v.every((x) => typeof x === 'string')) {
      return v as [string, string];
    }
  } catch {
    /* answered below */
  }
  throw new HttpProblem(400, 'Not valid', 'The page marker is not one that this server gave out.');
}
