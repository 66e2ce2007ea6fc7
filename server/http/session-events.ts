import { Router } from 'express';
import type { SessionChange } from '../../contract/index.ts';
import { idOf, type Context } from './context.ts';
import { sessionListed } from './session-rows.ts';

const BEAT = 20000;

/** Tells open windows of a session that it changed, as server-sent events. */
export function sessionEventRoutes({ db, events }: Context): Router {
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
    // prints come the same way: a browser allows few open connections
    const stopJobs = events.listenToJobs((entry) => {
      res.write(`event: print\ndata: ${JSON.stringify(entry)}\n\n`);
    });
    const beat = setInterval(() => res.write(': still here\n\n'), BEAT);
    req.on('close', () => {
      clearInterval(beat);
      stop();
      stopJobs();
    });
  });

  return router;
}
