import { devicesIn } from '../session/slots.ts';
import { playedAs } from '../devices/index.ts';
import type { Device, Id, Session } from '../model/types.ts';
import { compile, type Schedule } from './compile.ts';
import { giveWay, OfflineRun, RenderCancelled, type RenderOptions, type Rendered } from './offline.ts';

/** Frames in a chunk; a multiple of every block size in use. */
export const CHUNK = 4096;

const EMPTY: Float64Array = new Float64Array(0);

/** One chunk of sums: for each collecting track CHUNK frames left, then right. */
export type Sums = Float64Array;
/** Numbers that the sums of one chunk take. */
export const sumsSize = (collects: number): number => 2 * CHUNK * collects;
/** Left or right of the k-th track in a chunk. */
const sideOf = (sums: Sums, k: number, right: 0 | 1): Float64Array =>
  sums.subarray((2 * k + right) * CHUNK, (2 * k + right + 1) * CHUNK);

/** What a device that is not on still costs. */
const ASLEEP = 0.1;
/** A line by itself: its sound read, sums, fader. */
const SELF = 1.2;
const workOf = (d: Device): number => (d.state === 'on' ? playedAs(d).work : ASLEEP);
/** The helper's share. */
const HELPED = 0.5;

/**
 * Which tracks a helper should take, so that both have about the same to do; null when sharing is not worth
 * it.
 */
export function shareOut(
  session: Session,
  taps: readonly string[] = ['master'],
  schedule: Schedule = compile(session),
): { tracks: Id[]; collects: Id[] } | null {
  const tapped = new Set(taps.map((t) => t.replace(/:(pre|in)$/, '')));
  const keys = new Set<Id>();
  for (const t of session.tracks) {
    for (const d of devicesIn(t.chain)) {
      if (d.key.kind === 'track') {
        keys.add(d.key.track);
        keys.add(t.id);
      }
    }
  }
  const work = new Map(
    schedule.nodes.map((n) => [
      n.track.id,
      SELF + devicesIn(n.track.chain).reduce((a, d) => a + workOf(d), 0),
    ]),
  );
  const total = [...work.values()].reduce((a, b) => a + b, 0);
  const movable = schedule.nodes.filter(
    (n) =>
      n.inputs.length === 0 &&
      n.track.clips.length > 0 &&
      !keys.has(n.track.id) &&
      !tapped.has(n.track.id) &&
      n.track.id !== schedule.master,
  );
  if (movable.length < 4) return null;
  const tracks = new Set<Id>();
  let taken = 0;
  // the largest first: what is left over at the end is small
  for (const n of [...movable].sort((a, b) => work.get(b.track.id)! - work.get(a.track.id)!)) {
    const w = work.get(n.track.id)!;
    if (taken + w <= total * HELPED) {
      tracks.add(n.track.id);
      taken += w;
    }
  }
  if (taken < total * 0.15) return null;
  const collects = schedule.nodes
    .filter((n) => n.inputs.some((e) => tracks.has(e.from)))
    .map((n) => n.track.id);
  return { tracks: [...tracks], collects };
}

/**
 * The helper's side: renders its tracks chunk by chunk into the places that it is given, until the render is
 * over. The last chunk is filled as far as the render goes.
 * @param place where the k-th chunk goes, `sumsSize(collects.length)` numbers; null ends the render
 * @param done is told when the k-th chunk is there
 */
export function helpRender(
  session: Session,
  options: RenderOptions,
  tracks: Id[],
  collects: Id[],
  place: (k: number) => Sums | null,
  done: (k: number) => void,
): void {
  const run = new OfflineRun(session, options, { kind: 'helper', tracks: new Set(tracks), collects });
  try {
    const nodes = collects.map((id) => run.engine.node(id)!);
    for (let k = 0; k * CHUNK < run.total; k++) {
      const sums = place(k);
      if (!sums) return;
      const from = k * CHUNK;
      const frames = Math.min(CHUNK, run.total - from);
      for (let at = 0; at < frames; at += run.block) {
        const n = Math.min(run.block, frames - at);
        run.process(from + at, n);
        nodes.forEach((node, c) => {
          sums.set(node.l.subarray(0, n), 2 * c * CHUNK + at);
          sums.set(node.r.subarray(0, n), (2 * c + 1) * CHUNK + at);
        });
      }
      done(k);
    }
  } finally {
    run.end();
  }
}

/**
 * The other side: renders everything but `tracks` and takes the helper's sums in. Gives way to the event loop
 * about ten times a second.
 * @param next the k-th chunk; what came before is not needed any more then
 */
export async function renderShared(
  session: Session,
  options: RenderOptions,
  tracks: Id[],
  collects: Id[],
  next: (k: number) => Sums | Promise<Sums>,
): Promise<Rendered> {
  const run = new OfflineRun(session, options, { kind: 'main', tracks: new Set(tracks) });
  let last = performance.now();
  try {
    const feeds = collects.map((id) => {
      const feed = { l: EMPTY, r: EMPTY, at: 0 };
      run.engine.node(id)!.feed = feed;
      return feed;
    });
    for (let k = 0; k * CHUNK < run.total; k++) {
      const from = k * CHUNK;
      const sums = await next(k);
      if (options.signal?.aborted) throw new RenderCancelled();
      feeds.forEach((f, c) => {
        f.l = sideOf(sums, c, 0);
        f.r = sideOf(sums, c, 1);
        f.at = 0;
      });
      const frames = Math.min(CHUNK, run.total - from);
      for (let at = 0; at < frames; at += run.block) run.process(from + at, Math.min(run.block, frames - at));
      const now = performance.now();
      if (now - last < 100) continue;
      last = now;
      options.onProgress?.(from / run.total);
      await giveWay();
    }
    return run.rendered();
  } finally {
    run.end();
  }
}
