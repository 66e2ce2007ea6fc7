import { devicesIn } from '../model/slots.ts';
import type { Id, Session } from '../model/types.ts';
import { compile, type Schedule } from './compile.ts';
import { OfflineRun, RenderCancelled, type RenderOptions, type Rendered } from './render.ts';

/**
 * An offline render over two workers: the helper renders some of the tracks that nothing flows into and adds them up for each bus, return or master that they go to; the other worker renders everything else and
 * takes those sums in, chunk by chunk. Both work from the whole session's schedule, so delays, solo and gains are what they are alone.
 */
export type Part = { kind: 'helper'; tracks: ReadonlySet<Id>; collects: Id[] } | { kind: 'main'; tracks: ReadonlySet<Id> };

/** Frames in a chunk; a multiple of every block size in use. */
export const CHUNK = 8192;
/** Chunks that a helper may be ahead. */
export const AHEAD = 24;

const EMPTY: Float64Array = new Float64Array(0);

/** One chunk of sums in one buffer, since each buffer that changes hands costs: for each collecting track CHUNK frames left, then right. */
export type Sums = Float64Array<ArrayBuffer>;
/** Left or right of the k-th track in a chunk. */
const sideOf = (sums: Sums, k: number, right: 0 | 1): Float64Array => sums.subarray((2 * k + right) * CHUNK, (2 * k + right + 1) * CHUNK);

/** Rough work of a device compared with an EQ, from profiles of the devices on one machine. */
const WORK: Record<string, number> = { trim: 0.3, delay: 1, gate: 1.3, deesser: 1.6, limiter: 4, clipper: 4, saturator: 4, multiband: 5, reverb: 4, doubler: 2.5, chorus: 2.5, pitchshift: 7, pitchcorrect: 7, meter: 3, kit: 4, parts: 6, keys: 2, bass: 2, pattern: 0, opaque: 0 };
const SELF = 0.6;
/** The helper's share: a little more than half, since the other side also takes the sums in and keeps what is tapped. */
const HELPED = 0.55;

/** Which tracks a helper should take, so that both have about the same to do; null when sharing is not worth it. */
export function shareOut(session: Session, taps: readonly string[] = ['master'], schedule: Schedule = compile(session)): { tracks: Id[]; collects: Id[] } | null {
  const tapped = new Set(taps.map((t) => (t.replace(/:(pre|in)$/, ''))));
  const keys = new Set<Id>();
  for (const t of session.tracks) for (const d of devicesIn(t.chain)) if (d.key.kind === 'track') { keys.add(d.key.track); keys.add(t.id); }
  const work = new Map(schedule.nodes.map((n) => [n.track.id, SELF + devicesIn(n.track.chain).reduce((a, d) => a + (d.state === 'on' ? (WORK[d.type] ?? 1) : 0.1), 0)]));
  const total = [...work.values()].reduce((a, b) => a + b, 0);
  const movable = schedule.nodes.filter((n) => n.inputs.length === 0 && n.track.clips.length > 0 && !keys.has(n.track.id) && !tapped.has(n.track.id) && n.track.id !== schedule.master);
  if (movable.length < 4) return null;
  const tracks = new Set<Id>();
  let taken = 0;
  // the largest first: what is left over at the end is small
  for (const n of [...movable].sort((a, b) => work.get(b.track.id)! - work.get(a.track.id)!)) {
    const w = work.get(n.track.id)!;
    if (taken + w <= total * HELPED) { tracks.add(n.track.id); taken += w; }
  }
  if (taken < total * 0.15) return null;
  const collects = schedule.nodes.filter((n) => n.inputs.some((e) => tracks.has(e.from))).map((n) => n.track.id);
  return { tracks: [...tracks], collects };
}

/**
 * The helper's side: each step gives the next chunk of sums, until the render is over. The last chunk is filled as far as the render goes.
 * @param used chunks that may be filled again
 */
export function* helperSums(session: Session, options: RenderOptions, tracks: Id[], collects: Id[], used: Sums[] = []): Generator<Sums, void> {
  const run = new OfflineRun(session, options, { kind: 'helper', tracks: new Set(tracks), collects });
  try {
    for (let from = 0; from < run.total; from += CHUNK) {
      const frames = Math.min(CHUNK, run.total - from);
      const sums: Sums = used.pop() ?? new Float64Array(2 * CHUNK * collects.length);
      for (let at = 0; at < frames; at += run.block) {
        const n = Math.min(run.block, frames - at);
        run.process(from + at, n);
        collects.forEach((id, k) => {
          const node = run.engine.node(id)!;
          sums.set(node.l.subarray(0, n), 2 * k * CHUNK + at);
          sums.set(node.r.subarray(0, n), (2 * k + 1) * CHUNK + at);
        });
      }
      yield sums;
    }
  } finally { run.end(); }
}

/**
 * The other side: renders everything but `tracks` and takes the helper's sums from `next`.
 * @param next the next chunk, or null when the helper has failed
 */
export async function renderShared(session: Session, options: RenderOptions, tracks: Id[], collects: Id[], next: () => Promise<Sums>): Promise<Rendered> {
  const run = new OfflineRun(session, options, { kind: 'main', tracks: new Set(tracks) });
  let last = performance.now();
  try {
    const feeds = collects.map((id) => {
      const feed = { l: EMPTY, r: EMPTY, at: 0 };
      run.engine.node(id)!.feed = feed;
      return feed;
    });
    for (let from = 0; from < run.total; from += CHUNK) {
      const sums = await next();
      if (options.signal?.aborted) throw new RenderCancelled();
      feeds.forEach((f, k) => { f.l = sideOf(sums, k, 0); f.r = sideOf(sums, k, 1); f.at = 0; });
      const frames = Math.min(CHUNK, run.total - from);
      for (let at = 0; at < frames; at += run.block) run.process(from + at, Math.min(run.block, frames - at));
      const now = performance.now();
      if (now - last > 100) { last = now; options.onProgress?.(from / run.total); }
    }
    return run.rendered();
  } finally { run.end(); }
}
