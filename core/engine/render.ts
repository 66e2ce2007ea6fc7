import type { Session } from '../model/types.ts';
import { type RenderOptions, type Rendered, drive, OfflineRun } from './offline.ts';

/**
 * Renders a session offline to named stereo buffers at the session's rate. Every tap is aligned: its own
 * latency is taken off, so frame 0 is `from`.
 * Gives way to the event loop about ten times a second, so that progress is seen and a signal can stop it.
 */
export const render = (session: Session, options: RenderOptions): Promise<Rendered> =>
  drive(steps(session, options), options);

/** The same without giving way, for short renders, tests and benches. */
export function renderNow(session: Session, options: RenderOptions): Rendered {
  const job = steps(session, options);
  for (;;) {
    const r = job.next();
    if (r.done) return r.value;
  }
}

function* steps(session: Session, o: RenderOptions): Generator<number, Rendered> {
  const run = new OfflineRun(session, o);
  try {
    for (let at = 0; at < run.total; at += run.block) {
      run.process(at, Math.min(run.block, run.total - at));
      yield at / run.total;
    }
    return run.rendered();
  } finally {
    run.end();
  }
}
