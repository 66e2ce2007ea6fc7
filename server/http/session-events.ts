import { Router, type Response } from 'express';
import type { Here, SessionChange } from '../../contract/index.ts';
import { personNow } from '../db/acting.ts';
import { idOf, type Context } from './context.ts';
import { NotAllowed } from '../accounts/access.ts';
import { HereNowDto, check } from './dto.ts';
import { HttpProblem } from './problem.ts';
import { sessionListed } from './session-rows.ts';
import { isStillIn, personOf } from './sign-in.ts';

/** ms between two signs of life */
const BEAT = 20000;

/**
 * Signs of life of an answer that goes on: it ends when who asked is signed out, or may not hear it any more.
 * @param may fails when it may not
 * @returns stops them
 */
export function beatOf(context: Context, res: Response, may?: () => Promise<unknown>): () => void {
  const beat = setInterval(() => {
    res.write(': still here\n\n');
    void mayStill(context, res, may).then(
      (isAllowed) => isAllowed || res.end(),
      // the database is away: the next beat asks again
      () => undefined,
    );
  }, BEAT);
  return () => clearInterval(beat);
}

async function mayStill(context: Context, res: Response, may?: () => Promise<unknown>): Promise<boolean> {
  if (!(await isStillIn(context, res))) return false;
  try {
    await may?.();
    return true;
  } catch (e) {
    if (e instanceof HttpProblem || e instanceof NotAllowed) return false;
    throw e;
  }
}

/** Tells open windows of a session that it changed, and who is in it, as server-sent events. */
export function sessionEventRoutes(context: Context): Router {
  const { db, events } = context;
  const router = Router();

  router.get('/:id/events', async (req, res) => {
    const id = idOf(req);
    const row = await sessionListed(db, id);
    res.writeHead(200, {
      'Content-Type': 'text/event-stream',
      'Cache-Control': 'no-store',
      Connection: 'keep-alive',
    });
    const send = (change: SessionChange) => {
      res.write(`data: ${JSON.stringify(change)}\n\n`);
    };
    send({ revision: row.revision, client: '' });
    const stop = events.listen(id, ({ revision, client }) => send({ revision, client }));
    const stopHere = events.listenHere(id, (here) => {
      res.write(`event: here\ndata: ${JSON.stringify(here)}\n\n`);
    });
    // prints come the same way: a browser allows few open connections
    const stopJobs = events.listenToJobs(personNow(), (entry) => {
      res.write(`event: print\ndata: ${JSON.stringify(entry)}\n\n`);
    });
    const stillIn = beatOf(context, res, () =>
      context.access.at('session', id, 'edit', () => sessionListed(db, id)),
    );
    // a window that is gone can't say so
    const client = String(req.query.client ?? '').slice(0, 64);
    const person = personOf(res);
    req.on('close', () => {
      for (const end of [stillIn, stop, stopHere, stopJobs]) end();
      if (client) events.here(id, { client, person, line: null, gone: true });
    });
  });

  /** A window says where it is: which line is selected. */
  router.post('/:id/here', async (req, res) => {
    const { id } = await sessionListed(db, idOf(req));
    const { line = null } = check(HereNowDto, req.body);
    const client = (req.header('x-client') ?? '').slice(0, 64);
    const here: Here = { client, person: personOf(res), line, gone: false };
    events.here(id, here);
    res.status(204).end();
  });

  return router;
}
