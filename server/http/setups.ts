import { randomUUID } from 'node:crypto';
import { Router, type Request } from 'express';
import { IsNull, Not, type DataSource } from 'typeorm';
import type { SetupDetail, SetupEntry, SetupSaved, SetupSummary } from '../../contract/index.ts';
import { validateStudio, type Studio } from '../../core/index.ts';
import { ownerNow } from '../db/acting.ts';
import { SetupRow, SetupVersionRow } from '../db/entities.ts';
import { putSetup, putSetupVersion } from '../db/store.ts';
import { transact } from '../db/transaction.ts';
import { idOf, ifMatch, type Context } from './context.ts';
import { LARGEST, SetupDto, check } from './dto.ts';
import { HttpProblem, invalid, notFound } from './problem.ts';

/** Studios: listed, read in any version, changed by a next version, deleted and brought back. */
export function setupRoutes({ db }: Context): Router {
  const router = Router();
  const repo = db.getRepository(SetupRow);

  router.get('/', async (_req, res) => {
    const where = { owner: ownerNow(), deletedAt: IsNull() };
    const rows = await repo.find({ where, order: { name: 'ASC', id: 'ASC' }, take: 500 });
    res.json(rows.map(entryOf));
  });

  router.post('/', async (req, res) => {
    const given = studioIn(req);
    const studio: Studio = { ...given, id: given.id || randomUUID(), version: 1 };
    sound(studio);
    if (await repo.existsBy({ id: studio.id })) {
      throw new HttpProblem('exists', `A studio with the id “${studio.id}” is there already.`);
    }
    await transact(db, (m) => putSetup(m, studio));
    const saved: SetupSaved = { id: studio.id, version: 1 };
    res.status(201).location(`/api/setups/${studio.id}`).json(saved);
  });

  router.get('/:id', async (req, res) => {
    const row = await setupThere(db, idOf(req));
    res.setHeader('ETag', `"${row.currentVersion}"`);
    res.json(await detailOf(row, db));
  });

  router.get('/:id/versions/:version', async (req, res) => {
    const version = Number(req.params.version);
    if (!Number.isInteger(version) || version < 1 || version > LARGEST) {
      throw new HttpProblem('not-valid', `“${req.params.version.slice(0, 40)}” is not a version number.`);
    }
    res.json(await versionOf(db, (await setupThere(db, idOf(req))).id, version));
  });

  /** Saving again: always a new version, as with presets. */
  router.post('/:id/versions', async (req, res) => {
    const row = await setupThere(db, idOf(req));
    const based = ifMatch(req);
    const studio: Studio = { ...studioIn(req), id: row.id, version: based + 1 };
    sound(studio);
    const isNext = await transact(db, (m) => putSetupVersion(m, studio, based));
    if (!isNext) {
      const now = (await setupThere(db, row.id)).currentVersion;
      throw new HttpProblem(
        'changed-elsewhere',
        `“${row.name}” has version ${now} by now; this was based on ${based}. Open it again and repeat the change.`,
        [],
        { version: now },
      );
    }
    const saved: SetupSaved = { id: row.id, version: based + 1 };
    res.status(201).json(saved);
  });

  router.delete('/:id', async (req, res) => {
    const there = { id: idOf(req), owner: ownerNow(), deletedAt: IsNull() };
    const { affected } = await repo.update(there, { deletedAt: new Date() });
    if (!affected) throw notFound('This studio');
    res.status(204).end();
  });

  router.post('/:id/restore', async (req, res) => {
    const deleted = { id: idOf(req), owner: ownerNow(), deletedAt: Not(IsNull()) };
    const { affected } = await repo.update(deleted, { deletedAt: null });
    if (!affected) throw notFound('This studio');
    res.status(204).end();
  });

  return router;
}

const studioIn = (req: Request): Studio => check(SetupDto, req.body).studio as Studio;

function sound(studio: Studio): void {
  const wrong = validateStudio(studio);
  if (wrong.length) throw invalid(`The setup “${String(studio.name).slice(0, 200)}”`, wrong);
}

async function setupThere(db: DataSource, id: string): Promise<SetupRow> {
  const row = await db.getRepository(SetupRow).findOneBy({ id, owner: ownerNow(), deletedAt: IsNull() });
  if (!row) throw notFound('This studio');
  return row;
}

async function versionOf(db: DataSource, setup: string, version: number): Promise<Studio> {
  const found = await db.getRepository(SetupVersionRow).findOne({
    where: { setup, version, owner: ownerNow() },
    select: { setup: true, version: true, document: true },
  });
  if (!found) throw notFound(`Version ${version} of this studio`);
  return found.document as Studio;
}

async function detailOf(row: SetupRow, db: DataSource): Promise<SetupDetail> {
  const versions = await db.getRepository(SetupVersionRow).find({
    where: { setup: row.id },
    select: { version: true, createdAt: true },
    order: { version: 'DESC' },
  });
  return {
    id: row.id,
    version: row.currentVersion,
    versions: versions.map((v) => ({ version: v.version, createdAt: v.createdAt.toISOString() })),
    studio: await versionOf(db, row.id, row.currentVersion),
  };
}

const entryOf = (r: SetupRow): SetupEntry => ({
  id: r.id,
  name: r.name,
  version: r.currentVersion,
  updatedAt: r.updatedAt.toISOString(),
  summary: r.summary as SetupSummary,
});
