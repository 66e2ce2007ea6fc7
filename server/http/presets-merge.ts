import { Router } from 'express';
import jsonpatch from 'fast-json-patch';
import { In, IsNull, type DataSource, type EntityManager } from 'typeorm';
import type { PresetShelf, PresetsMerged } from '../../contract/index.ts';
import { movedOrigins, versionKey, type Origin, type Preset } from '../../core/index.ts';
import { ownerNow } from '../db/acting.ts';
import { PresetRow, PresetVersionRow, SessionRow, SessionUseRow } from '../db/entities.ts';
import { documentOf, WITH_DOCUMENT } from '../db/session-document.ts';
import { putPresetVersion, putRevision } from '../db/store.ts';
import { transact } from '../db/transaction.ts';
import { idOf, type Context } from './context.ts';
import { MergeDto, check } from './dto.ts';
import { locked, shelfOf } from './presets-many.ts';
import { HttpProblem, notFound } from './problem.ts';
import { presetOnShelf } from './shelf.ts';

/** how often a session is tried that somebody changes at the same moment */
const TRIES = 3;

type Moves = Map<string, Pick<Origin, 'preset' | 'version' | 'name'>>;

/** Several presets become one: the others as its versions, or as variants of it. */
export function mergeRoutes(context: Context, saved: () => void): Router {
  const { db } = context;
  const router = Router();

  router.post('/:id/merge', async (req, res) => {
    const id = idOf(req);
    const { others, as } = check(MergeDto, req.body);
    const into = await presetOnShelf(db, id);
    const wanted = [...new Set(others)].filter((other) => other !== id);
    if (!wanted.length) throw new HttpProblem('not-valid', `“${into.name}” can’t be merged with itself.`);
    if (as === 'variants') {
      const before = await transact(db, (m) => asVariants(m, id, wanted));
      res.json({ versions: 0, sessions: 0, left: [], gone: [], before } satisfies PresetsMerged);
      return;
    }
    res.json(await asVersions(context, into, wanted));
    saved();
  });

  return router;
}

async function asVariants(m: EntityManager, id: string, others: readonly string[]): Promise<PresetShelf[]> {
  const before: PresetShelf[] = [];
  for (const other of others.toSorted()) {
    const row = await locked(m, other);
    if (!row) continue;
    before.push(shelfOf(row));
    await m.update(PresetRow, { id: other }, { parent: id });
  }
  // what was a variant of one of them can't have itself above it
  await m.update(PresetRow, { id, parent: In([...others]) }, { parent: null });
  return before;
}

/**
 * What the others are now, and whatever of them sessions were made with, are versions of the one from here on; its own
 * state follows as the latest. Then sessions remember those, and the others go to the trash: in this order, so that
 * whatever happens in between, what a session remembers is there.
 */
async function asVersions(
  { db, documents, events }: Context,
  into: PresetRow,
  others: readonly string[],
): Promise<PresetsMerged> {
  const moves = await transact(db, (m) => putTheirs(m, into.id, others));
  const uses = await db.getRepository(SessionUseRow).findBy({ preset: In([...others]), owner: ownerNow() });
  const left = new Set<string>();
  let sessions = 0;
  for (const id of new Set(uses.map((u) => u.session))) {
    const change = await moved(db, id, moves, `Merge into “${into.name}” on the shelf`);
    if (change === 'gone') continue;
    if (!change) {
      for (const u of uses) if (u.session === id) left.add(u.preset);
      continue;
    }
    sessions++;
    documents.changed(id, change.revision, change.session);
    events.changed({ session: id, revision: change.revision, client: 'shelf' });
  }
  const gone = others.filter((id) => !left.has(id));
  await db
    .getRepository(PresetRow)
    .update({ id: In(gone), owner: ownerNow(), deletedAt: IsNull() }, { deletedAt: new Date() });
  return { versions: moves.size, sessions, left: [...left], gone, before: [] };
}

/** Puts versions of others after those of a preset, and its own state last. @returns what became of which version */
async function putTheirs(m: EntityManager, id: string, others: readonly string[]): Promise<Moves> {
  const own = await locked(m, id);
  if (!own) throw notFound('This preset');
  const latest = await documentAt(m, id, own.currentVersion);
  const shelf = {
    name: own.name,
    category: own.category,
    colour: own.colour,
    tags: (own.summary as { tags: string[] }).tags,
  };
  const moves: Moves = new Map();
  let version = own.currentVersion;
  const put = async (document: Preset) => {
    const parent = { preset: id, version };
    version++;
    await putPresetVersion(m, { ...document, ...shelf, id, parent, version });
  };
  for (const other of others) {
    const row = await locked(m, other);
    if (!row) continue;
    if (row.kind !== own.kind) {
      const way = 'Keep it as a variant, or by itself.';
      throw new HttpProblem('not-valid', `“${row.name}” is a ${row.kind} and “${own.name}” is none. ${way}`);
    }
    for (const old of await versionsInUse(m, row)) {
      await put(await documentAt(m, other, old));
      moves.set(versionKey({ preset: other, version: old }), { preset: id, version, name: own.name });
    }
  }
  if (!moves.size) throw new HttpProblem('not-found', 'None of the others is on the shelf any more.');
  await put(latest);
  await m.update(PresetRow, { parent: In([...others]), owner: ownerNow() }, { parent: id });
  // what was a variant of one of them is none of itself
  await m.update(PresetRow, { id, parent: id }, { parent: null });
  return moves;
}

/** The present version of a preset, after those that sessions were made with. */
async function versionsInUse(m: EntityManager, row: PresetRow): Promise<number[]> {
  const uses = await m.findBy(SessionUseRow, { preset: row.id });
  const used = uses.map((u) => u.version).filter((v) => v !== row.currentVersion);
  return [...[...new Set(used)].sort((a, b) => a - b), row.currentVersion];
}

async function documentAt(m: EntityManager, preset: string, version: number): Promise<Preset> {
  const row = await m.findOneOrFail(PresetVersionRow, {
    where: { preset, version, owner: ownerNow() },
    select: { preset: true, version: true, document: true },
  });
  return row.document as Preset;
}

/** Has a session remember other versions, as a step of its own; null when it was changed each time at that moment. */
async function moved(db: DataSource, id: string, moves: Moves, label: string) {
  for (let tries = 0; tries < TRIES; tries++) {
    const row = await db.manager.findOne(SessionRow, {
      where: { id, owner: ownerNow() },
      select: WITH_DOCUMENT,
    });
    if (!row) return 'gone' as const;
    const before = await documentOf(db.manager, row);
    const session = movedOrigins(before, moves);
    const [patch, back] = [jsonpatch.compare(before, session), jsonpatch.compare(session, before)];
    const step = { patch, back, client: 'shelf', label, kind: 'do' as const };
    const isDone = await transact(db, (m) => putRevision(m, id, row.revision, session, step, true));
    if (isDone) return { revision: row.revision + 1, session };
  }
  return null;
}
