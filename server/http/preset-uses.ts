import { Router } from 'express';
import jsonpatch from 'fast-json-patch';
import { In, IsNull } from 'typeorm';
import type { CurrentVersions, SessionsUsing, UpdateSaid, UpdatesSaid } from '../../contract/index.ts';
import {
  rootAgain,
  rootsOf,
  updateFromShelf,
  validateSession,
  type Preset,
  type Session,
} from '../../core/index.ts';
import { ownerNow, personNow } from '../db/acting.ts';
import { PresetRow, SessionRow } from '../db/entities.ts';
import { documentOf, WITH_DOCUMENT } from '../db/session-document.ts';
import { putRevision } from '../db/store.ts';
import { idOf, type Context } from './context.ts';
import { UpdateSessionsDto, VersionsDto, check } from './dto.ts';
import { presetOnShelf, presetVersion } from './shelf.ts';
import { transact } from '../db/transaction.ts';

/** Presets in sessions: who uses them, how far they are behind, and bringing them up. */
export function presetUseRoutes(context: Context): Router {
  const { db, access } = context;
  const router = Router();

  /** Where the shelf stands now, for the origins in a session; what is not on the shelf any more is left out. */
  router.post('/current', async (req, res) => {
    const { ids } = check(VersionsDto, req.body);
    const rows = ids.length
      ? await db.getRepository(PresetRow).find({
          where: { id: In(ids), owner: In(await access.shelvesOf(personNow())), deletedAt: IsNull() },
          select: { id: true, name: true, currentVersion: true },
        })
      : [];
    const current: CurrentVersions = Object.fromEntries(
      rows.map((r) => [r.id, { version: r.currentVersion, name: r.name }]),
    );
    res.json(current);
  });

  /** All sessions with lines or pieces of this preset, those behind the shelf first. */
  router.get('/:id/sessions', async (req, res) => {
    const row = await presetOnShelf(db, idOf(req));
    const uses = (await db.query(
      `SELECT u.session AS id, s.name AS name, s.updatedAt AS updatedAt,
         SUM(u.places) AS places, SUM(IF(u.version < ?, u.places, 0)) AS behind, MIN(u.version) AS oldest
         FROM session_use u JOIN session s ON s.id = u.session
         WHERE u.owner = ? AND u.preset = ? AND s.deletedAt IS NULL
         GROUP BY u.session, s.name, s.updatedAt ORDER BY behind DESC, s.name LIMIT 1000`,
      [row.currentVersion, ownerNow(), row.id],
    )) as Record<'id' | 'name' | 'updatedAt' | 'places' | 'behind' | 'oldest', string>[];
    const sessions = uses.map(({ id, name, updatedAt, places, behind, oldest }) => ({
      id,
      name,
      updatedAt,
      places: Number(places),
      behind: Number(behind),
      oldest: Number(oldest),
    }));
    res.json({ version: row.currentVersion, sessions } satisfies SessionsUsing);
  });

  /**
   * Brings sessions to the latest version, three-way; where both sides changed a value the session keeps its
   * own. With `look` nothing is written.
   */
  router.post('/:id/update', async (req, res) => {
    const row = await presetOnShelf(db, idOf(req));
    const { sessions, look } = check(UpdateSessionsDto, req.body);
    const versions = versionsOf(row, context);
    const said: UpdateSaid[] = [];
    for (const id of sessions) said.push(await updateOne(id, row, versions, look ?? false, context));
    res.json({ version: row.currentVersion, sessions: said } satisfies UpdatesSaid);
  });

  return router;
}

type Versions = (n: number) => Promise<Preset>;

/** Versions of one preset under its name on the shelf, each read once. */
function versionsOf(row: PresetRow, { db }: Context): Versions {
  const known = new Map<number, Preset>();
  return async (n) => {
    if (!known.has(n)) known.set(n, { ...(await presetVersion(db, row.id, n)), name: row.name });
    return known.get(n)!;
  };
}

async function updateOne(
  id: string,
  row: PresetRow,
  versions: Versions,
  look: boolean,
  { db, events, documents }: Context,
): Promise<UpdateSaid> {
  const s = await db.getRepository(SessionRow).findOne({
    where: { id, owner: ownerNow(), deletedAt: IsNull() },
    select: { name: true, ...WITH_DOCUMENT },
  });
  if (!s) return { id, error: 'This session is not there any more.' };
  const before = await documentOf(db.manager, s);
  let done: { session: Session; said: Required<Omit<UpdateSaid, 'id' | 'name' | 'error'>> };
  try {
    done = await updated(before, row, versions);
  } catch (e) {
    return { id, name: s.name, error: `Left as it was: ${(e as Error).message}` };
  }
  if (!look && done.said.updated) {
    const patch = jsonpatch.compare(before, done.session);
    const back = jsonpatch.compare(done.session, before);
    const label = `Update “${row.name}” from the shelf`;
    const step = { patch, back, client: 'shelf', label, kind: 'do' as const };
    const ok = await transact(db, (m) => putRevision(m, id, s.revision, done.session, step));
    if (!ok) return { id, name: s.name, error: 'It was changed at this moment; try again.' };
    documents.changed(id, s.revision + 1, done.session);
    events.changed({ session: id, revision: s.revision + 1, client: 'shelf' });
  }
  return { id, name: s.name, ...done.said };
}

/** A session with all lines and pieces of a preset at its latest version, and what happened to them. */
async function updated(before: Session, row: PresetRow, versions: Versions) {
  const next = await versions(row.currentVersion);
  const said = { updated: 0, taken: 0, kept: 0, conflicts: [] as string[], notes: [] as string[] };
  let session = before;
  for (const was of rootsOf(before).filter((r) => isBehind(r.origin, row))) {
    const root = rootAgain(session, was)!;
    const u = updateFromShelf(session, root, await versions(root.origin.version), next);
    session = u.session;
    said.updated++;
    said.taken += u.taken.length;
    said.kept += u.kept.length;
    said.notes.push(...u.notes);
    for (const c of u.conflicts) {
      said.conflicts.push(`${root.track.name} · ${c.label}: ${c.mine} stays, the shelf has ${c.theirs}`);
    }
  }
  const wrong = validateSession(session);
  if (wrong.length) throw new Error(wrong[0].message);
  return { session, said };
}

const isBehind = (origin: { preset: string; version: number }, row: PresetRow): boolean =>
  origin.preset === row.id && origin.version < row.currentVersion;
