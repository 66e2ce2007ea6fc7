import { helpRender, renderShared, shareOut, sumsSize, type Sums } from '../../core/engine/share.ts';
import {
  giveWay,
  RenderCancelled,
  sessionLength,
  type RenderOptions,
  type Rendered,
} from '../../core/engine/offline.ts';
import { render } from '../../core/engine/render.ts';
import type { Sound } from '../../core/engine/sound.ts';
import type { Session } from '../../core/model/types.ts';
import type { Job } from './messages.ts';

/** What a helper is asked: its part of a render, all of it into the ring. */
export type ToHelper = {
  help: {
    session: Session;
    options: Pick<RenderOptions, 'from' | 'to' | 'blockSize'>;
    tracks: string[];
    collects: string[];
    sounds: Map<string, Sound>;
    ring: SharedArrayBuffer;
  };
};

/** Renders shorter than this are done before a helper has begun. */
const WORTH_SECONDS = 2;
/** Chunks that a helper may be ahead. */
const PLACES = 32;
let helper: Worker | null = null;
let busy = false;

const [PUT, TAKEN, STATE] = [0, 1, 2];
const [GOING, OVER, FAILED] = [0, 1, 2];

/**
 * Chunks on their way from the helper to the worker that it helps, in memory that both see: nothing is
 * copied, and no message has to be waited for.
 */
export class Ring {
  static make(collects: number): Ring {
    return new Ring(new SharedArrayBuffer(16 + 8 * PLACES * sumsSize(collects)), collects);
  }
  private readonly counts: Int32Array;
  private readonly places: Sums[];

  constructor(
    readonly memory: SharedArrayBuffer,
    collects: number,
  ) {
    const size = sumsSize(collects);
    this.counts = new Int32Array(memory, 0, 3);
    this.places = Array.from({ length: PLACES }, (_, k) => new Float64Array(memory, 16 + 8 * k * size, size));
  }

  /** The helper's: where chunk k goes, as soon as there is room; null when the render is over. */
  room(k: number): Sums | null {
    for (;;) {
      const taken = Atomics.load(this.counts, TAKEN);
      if (Atomics.load(this.counts, STATE) !== GOING) return null;
      if (k - taken < PLACES) return this.places[k % PLACES];
      Atomics.wait(this.counts, TAKEN, taken, 100);
    }
  }
  put(k: number): void {
    this.tell(PUT, k + 1);
  }
  fail(): void {
    this.tell(STATE, FAILED);
    Atomics.notify(this.counts, PUT);
  }

  /**
   * The other side's: chunk k, waited for up to `ms`; all before it are free again. Null when it is not there
   * by then.
   */
  take(k: number, ms: number): Sums | null {
    this.tell(TAKEN, k);
    const put = Atomics.load(this.counts, PUT);
    if (put <= k) Atomics.wait(this.counts, PUT, put, ms);
    return Atomics.load(this.counts, PUT) > k ? this.places[k % PLACES] : null;
  }
  get failed(): boolean {
    return Atomics.load(this.counts, STATE) === FAILED;
  }
  over(): void {
    this.tell(STATE, OVER);
    Atomics.notify(this.counts, TAKEN);
  }

  private tell(what: number, value: number): void {
    Atomics.store(this.counts, what, value);
    Atomics.notify(this.counts, what);
  }
}

/**
 * Memory that workers share, so that a helper need not be given a copy; the same numbers where a page may not
 * share any.
 */
export function shareable(x: Float32Array): Float32Array {
  if (typeof SharedArrayBuffer === 'undefined') return x;
  const out = new Float32Array(new SharedArrayBuffer(x.byteLength));
  out.set(x);
  return out;
}

/**
 * An offline render over two workers where that is worth it and a second processor is there, otherwise in
 * this one. Called in a worker, since it waits. The helper is kept for the next time; when it fails, the
 * render is done here.
 * @param make starts a helper: a worker that answers with `serveHelp`
 */
export async function renderOverTwo(
  session: Session,
  options: RenderOptions,
  make: () => Worker,
): Promise<Rendered> {
  const seconds = (options.to ?? sessionLength(session)) - (options.from ?? 0);
  const share =
    !busy &&
    typeof SharedArrayBuffer !== 'undefined' &&
    navigator.hardwareConcurrency > 1 &&
    seconds >= WORTH_SECONDS
      ? shareOut(session, options.taps)
      : null;
  if (!share) return render(session, options);
  busy = true;
  const w = (helper ??= make());
  const ring = Ring.make(share.collects.length);
  w.onerror = () => ring.fail();
  try {
    const { from, to, blockSize } = options;
    w.postMessage({
      help: {
        session,
        options: { from, to, blockSize },
        ...share,
        sounds: options.sounds,
        ring: ring.memory,
      },
    } satisfies ToHelper);
    return await renderShared(session, options, share.tracks, share.collects, async (k) => {
      for (;;) {
        const sums = ring.take(k, 50);
        if (sums) return sums;
        if (ring.failed) throw new HelperFailed();
        await giveWay();
        if (options.signal?.aborted) throw new RenderCancelled();
      }
    });
  } catch (e) {
    if (!(e instanceof HelperFailed)) throw e;
    w.terminate();
    helper = null;
    return await render(session, options);
  } finally {
    ring.over();
    busy = false;
  }
}

class HelperFailed extends Error {}

/**
 * A whole offline render in a worker of its own, which ends with it; where that can't be had, it is done here.
 * @param make starts one: a worker that does jobs
 */
export async function renderBeside(
  session: Session,
  options: RenderOptions,
  make: () => Worker,
): Promise<Rendered> {
  const { sounds, to, taps, signal, onProgress } = options;
  const w = make();
  try {
    return await new Promise<Rendered>((resolve, reject) => {
      w.onerror = () => reject(new HelperFailed());
      w.onmessage = ({ data }: MessageEvent<{ progress?: number; result?: Rendered }>) => {
        if (signal?.aborted) reject(new RenderCancelled());
        else if (data.progress !== undefined) onProgress?.(data.progress);
        else if (data.result) resolve(data.result);
        else reject(new HelperFailed());
      };
      w.postMessage({ id: 1, job: { op: 'taps', session, sounds, to, taps } satisfies Job });
    });
  } catch (e) {
    if (!(e instanceof HelperFailed)) throw e;
    return await render(session, options);
  } finally {
    w.terminate();
  }
}

/** The helper's side, inside a worker: its whole part of a render. */
export function serveHelp({ help: h }: ToHelper): void {
  const ring = new Ring(h.ring, h.collects.length);
  try {
    helpRender(
      h.session,
      { ...h.options, sounds: h.sounds },
      h.tracks,
      h.collects,
      (k) => ring.room(k),
      (k) => ring.put(k),
    );
  } catch {
    ring.fail();
  }
}
