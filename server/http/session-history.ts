import { Router } from 'express';
import jsonpatch, { type Operation } from 'fast-json-patch';
import { LessThanOrEqual, MoreThan, type DataSource } from 'typeorm';
import type { HistoryEntry, SessionDocument } from '../../contract/index.ts';
import { clone, type Session } from '../../core/index.ts';
import { namesOf } from '../accounts/shares.ts';
import { withWays } from '../db/bundle.ts';
import { SessionRevisionRow } from '../db/entities.ts';
import { idOf, type Context } from './context.ts';
import { HttpProblem } from './problem.ts';
import { sessionListed, sessionWithDocument } from './session-rows.ts';

/** steps of one page, and at most */
const PAGE = 50;
const MOST = 200;

/** What was done to a session, and the session as it was after any of it. */
export function sessionHistoryRoutes({ db, access }: Context): Router {
  const router = Router();

  router.get('/:id/history', async (req, res) => {
    const { id, revision } = await sessionListed(db, idOf(req));
    const from = Math.floor(Number(req.query.from ?? revision)) || revision;
    const take = Math.min(MOST, Math.max(1, Math.floor(Number(req.query.limit ?? PAGE)) || PAGE));
    const rows = await db.getRepository(SessionRevisionRow).find({
      where: { session: id, revision: LessThanOrEqual(from) },
      order: { revision: 'DESC' },
      take,
    });
    const names = await namesOf(db, access.isNeeded ? rows.map((r) => r.person) : []);
    const withBack = req.query.with === 'back';
    const read = withBack ? await withWays(db.manager, id, rows) : rows;
    const told = unbroken(read, from).map((r) => entryOf(r, names.get(r.person)?.name ?? null, withBack));
    res.json(told);
  });

  router.get('/:id/history/:revision', async (req, res) => {
    const now = await sessionWithDocument(db, idOf(req));
    const revision = Number(req.params.revision);
    const document = await documentAt(db, now, revision);
    res.setHeader('Cache-Control', 'no-store');
    res.json({ id: now.id, revision, document } satisfies SessionDocument);
  });

  return router;
}

/** Steps as long as one leads to the next, and each has its way back. */
function unbroken(rows: SessionRevisionRow[], from: number): SessionRevisionRow[] {
  let next = from;
  const end = rows.findIndex((r) => {
    if (r.revision !== next || r.back === null || r.steps < 1) return true;
    next = before(r);
    return false;
  });
  return end < 0 ? rows : rows.slice(0, end);
}
/** The revision that a step leads back to. */
const before = (r: SessionRevisionRow): number => r.revision - r.steps;

const entryOf = (r: SessionRevisionRow, by: string | null, withBack: boolean): HistoryEntry => ({
  by,
  revision: r.revision,
  steps: r.steps,
  label: r.label,
  kind: r.kind as HistoryEntry['kind'],
  client: r.client,
  at: r.createdAt.toISOString(),
  ...(withBack ? { back: JSON.parse(r.back!) as unknown[] } : {}),
});

/** A session's document as it was after a revision: taken back step by step from what it is now. */
async function documentAt(
  db: DataSource,
  now: { id: string; name: string; revision: number; document: Session },
  revision: number,
): Promise<Session> {
  const rows = await db.getRepository(SessionRevisionRow).find({
    where: { session: now.id, revision: MoreThan(Number.isInteger(revision) ? revision : now.revision) },
    order: { revision: 'DESC' },
  });
  const steps = unbroken(await withWays(db.manager, now.id, rows), now.revision);
  const reached = steps.length ? before(steps.at(-1)!) : now.revision;
  const isThere = Number.isInteger(revision) && revision >= 1 && revision <= now.revision;
  if (!isThere || reached > revision) {
    throw new HttpProblem(
      'not-found',
      `“${now.name}” can’t be shown as it was then: its history does not reach back so far. The session is as it is now.`,
    );
  }
  if (reached < revision) {
    throw new HttpProblem(
      'not-found',
      `“${now.name}” can’t be shown as it was then: of an older hour or day, only the end is kept. Choose a step of its history; the session is as it is now.`,
    );
  }
  const ways = steps.flatMap((step) => JSON.parse(step.back!) as Operation[]);
  return jsonpatch.applyPatch(clone(now.document), ways, false, true).newDocument;
}
