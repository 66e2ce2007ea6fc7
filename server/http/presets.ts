import { randomUUID } from 'node:crypto';
import { Router } from 'express';
import { IsNull, Not, type DataSource } from 'typeorm';
import type { PresetDetail, PresetEntry, PresetSaved } from '../../contract/index.ts';
import type { Preset } from '../../core/index.ts';
import { namesOf } from '../accounts/shares.ts';
import { ownerNow } from '../db/acting.ts';
import { PresetRow, PresetVersionRow, TagRow } from '../db/entities.ts';
import { putPreset, putPresetVersion, putTags, searchText } from '../db/store.ts';
import { clearOutRoutes } from './clear-out.ts';
import { checkPreset } from './check-preset.ts';
import { idOf, ifMatch, type Context } from './context.ts';
import { LARGEST, NewPresetDto, PresetMetaDto, check } from './dto.ts';
import { presetSearchRoutes } from './preset-search.ts';
import { mergeRoutes } from './presets-merge.ts';
import { manyPresetRoutes } from './presets-many.ts';
import { presetUseRoutes } from './preset-uses.ts';
import { HttpProblem, notFound } from './problem.ts';
import { entryOf, presetOnShelf, presetVersion } from './shelf.ts';
import { transact } from '../db/transaction.ts';

/**
 * The shelf: finding, saving, versions, what belongs to the shelf and not to a version, deleting.
 * @param saved is called when a version was saved
 */
export function presetRoutes(context: Context, saved: () => void): Router {
  const { db } = context;
  const router = Router();
  const repo = db.getRepository(PresetRow);
  router.use(
    clearOutRoutes(context),
    presetSearchRoutes(context),
    manyPresetRoutes(context),
    presetUseRoutes(context),
    versionRoutes(context, saved),
    mergeRoutes(context, saved),
  );

  router.post('/', async (req, res) => {
    const { preset } = check(NewPresetDto, req.body) as { preset: Preset };
    const p: Preset = { ...preset, id: preset.id || randomUUID(), version: 1 };
    checkPreset(p);
    if (await repo.existsBy({ id: p.id })) {
      throw new HttpProblem('exists', `A preset with the id “${p.id}” is on the shelf already.`);
    }
    await transact(db, (m) => putPreset(m, p));
    saved();
    const answer: PresetSaved = { id: p.id, version: 1 };
    res.status(201).location(`/api/presets/${p.id}`).json(answer);
  });

  router.get('/:id', async (req, res) => {
    const row = await presetOnShelf(db, idOf(req));
    res.setHeader('ETag', `"${row.currentVersion}"`);
    res.json(await detailOf(row, context));
  });

  /** Name, category, tags and pin belong to the shelf, not to a version. */
  router.patch('/:id', async (req, res) => {
    const id = idOf(req);
    const based = req.header('if-match') ? ifMatch(req) : null;
    await changeMeta(id, based, check(PresetMetaDto, req.body), db);
    res.json(entryOf(await presetOnShelf(db, id)) satisfies PresetEntry);
  });

  router.delete('/:id', async (req, res) => {
    const there = { id: idOf(req), owner: ownerNow(), deletedAt: IsNull() };
    const r = await repo.update(there, { deletedAt: new Date() });
    if (!r.affected) throw notFound('This preset');
    res.status(204).end();
  });

  router.post('/:id/restore', async (req, res) => {
    const deleted = { id: idOf(req), owner: ownerNow(), deletedAt: Not(IsNull()) };
    const r = await repo.update(deleted, { deletedAt: null });
    if (!r.affected) throw notFound('This preset');
    res.status(204).end();
  });

  router.get('/:id/tags', async (req, res) => {
    const { id } = await presetOnShelf(db, idOf(req));
    res.json((await db.getRepository(TagRow).findBy({ preset: id })).map((t) => t.name));
  });

  return router;
}

async function detailOf(row: PresetRow, { db, access }: Context): Promise<PresetDetail> {
  const versions = await db.getRepository(PresetVersionRow).find({
    where: { preset: row.id },
    select: { version: true, hash: true, person: true, createdAt: true },
    order: { version: 'DESC' },
  });
  const names = await namesOf(db, [row.owner, ...versions.map((v) => v.person)]);
  return {
    ...entryOf(row),
    versions: versions.map(({ version, hash, person, createdAt }) => ({
      version,
      hash,
      by: (access.isNeeded && names.get(person)?.name) || null,
      createdAt: createdAt.toISOString(),
    })),
    preset: await presetVersion(db, row.id, row.currentVersion),
    owner: names.get(row.owner) ?? { id: row.owner, name: '' },
    right: await access.rightHere(),
  };
}

/**
 * Changes what was asked for and nothing else, on the row as it is now: a version that is saved at the same
 * moment keeps its name.
 */
async function changeMeta(
  id: string,
  based: number | null,
  dto: PresetMetaDto,
  db: DataSource,
): Promise<void> {
  await transact(db, async (m) => {
    const row = await m.findOne(PresetRow, {
      where: { id, owner: ownerNow(), deletedAt: IsNull() },
      lock: { mode: 'pessimistic_write' },
    });
    if (!row) throw notFound('This preset');
    if (based !== null && row.currentVersion !== based) throw newerVersion(row, based);
    const version = { preset: id, version: row.currentVersion, owner: ownerNow() };
    const { document } = await m.findOneOrFail(PresetVersionRow, {
      where: version,
      select: { preset: true, version: true, document: true },
    });
    const name = dto.name ?? row.name;
    const category = dto.category ?? row.category;
    const pinned = Number(dto.pinned ?? row.pinned === 1);
    const summary = { ...(row.summary as { tags: string[] }), ...(dto.tags ? { tags: dto.tags } : {}) };
    const search = searchText({ ...(document as Preset), name, category, tags: summary.tags });
    await m.update(PresetRow, { id }, { name, category, summary, pinned, search });
    if (dto.tags) await putTags(m, id, dto.tags);
  });
}

const newerVersion = (row: PresetRow, based: number) =>
  new HttpProblem(
    'changed-elsewhere',
    `“${row.name}” has version ${row.currentVersion} by now; this was based on ${based}. Look at what differs and save again.`,
    [],
    { version: row.currentVersion },
  );

function versionRoutes({ db }: Context, saved: () => void): Router {
  const router = Router();

  router.get('/:id/versions/:version', async (req, res) => {
    const row = await presetOnShelf(db, idOf(req));
    const n = Number(req.params.version);
    if (!Number.isInteger(n) || n < 1 || n > LARGEST) {
      throw new HttpProblem('not-valid', `“${req.params.version}” is not a version number.`);
    }
    res.json(await presetVersion(db, row.id, n));
  });

  /** Saving again: always a new version; the earlier ones never change. */
  router.post('/:id/versions', async (req, res) => {
    const row = await presetOnShelf(db, idOf(req));
    const based = ifMatch(req);
    const { preset } = check(NewPresetDto, req.body) as { preset: Preset };
    const p: Preset = {
      ...preset,
      id: row.id,
      version: based + 1,
      parent: { preset: row.id, version: based },
    };
    await mayFollow(p, row, based, db);
    await putVersion(p, db);
    saved();
    res.status(201).json({ id: row.id, version: p.version } satisfies PresetSaved);
  });

  return router;
}

/** @throws HttpProblem when somebody was first, the preset is not valid, or nothing changed */
async function mayFollow(p: Preset, row: PresetRow, based: number, db: DataSource): Promise<void> {
  if (row.currentVersion !== based) throw newerVersion(row, based);
  checkPreset(p);
  const before = await presetVersion(db, row.id, based);
  const isSame = before.hash === p.hash && before.name === p.name && before.note === p.note;
  if (isSame && before.colour === p.colour) {
    throw new HttpProblem(
      'nothing-changed',
      `“${row.name}” would be the same as version ${based}; no new version was made.`,
    );
  }
}

/** @throws HttpProblem when somebody was first */
async function putVersion(p: Preset, db: DataSource): Promise<void> {
  await transact(db, async (m) => {
    if (await putPresetVersion(m, p)) return;
    throw new HttpProblem(
      'changed-elsewhere',
      `“${p.name}” was saved in another window at the same moment. Save again.`,
    );
  });
}
