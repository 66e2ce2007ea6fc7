import type { Id, Session } from '../model/types.ts';
import { walkSlots } from '../session/slots.ts';
import { sentBy } from '../session/midi.ts';
import { scoreLength } from './midi.ts';
import type { Schedule } from './compile.ts';
import { Renderer, type Part } from './renderer.ts';
import { Arena } from '../devices/kernels/index.ts';
import { LANE_GRID } from './automation.ts';
import type { NodeRun } from './node.ts';
import type { Sound } from './sound.ts';

export interface RenderOptions {
  /** seconds; from 0 to the end of the last clip when left out */
  from?: number;
  to?: number;
  /**
   * "master", a track's id (after its fader), "id:pre" (after its chain, before the fader) or "id:in" (what
   * comes in, before its chain); the master alone when left out
   */
  taps?: string[];
  /** frames; the sound does not depend on it */
  blockSize?: number;
  /** sounds by media id, at the session's rate */
  sounds: Map<string, Sound>;
  /** 0…1, about ten times a second */
  onProgress?: (share: number) => void;
  signal?: AbortSignal;
}

export type Rendered = Record<string, [Float32Array, Float32Array]>;

/** Thrown when a render was called off. */
export class RenderCancelled extends Error {
  /** the same wherever the error has travelled */
  readonly code = 'cancelled';
  constructor() {
    super('The render was called off.');
    this.name = 'RenderCancelled';
  }
}

/** End of the last clip or written note in seconds; when there is none but a pattern plays, eight bars. */
export function sessionLength(s: Session): number {
  const end = Math.max(
    0,
    (scoreLength(s) * 60) / s.tempo,
    ...s.tracks.flatMap((t) => t.clips.map((c) => (c.off ? 0 : c.start + c.length))),
  );
  if (end > 0) return end;
  if (s.tracks.some((t) => sentBy(t).length)) return (8 * s.meter[0] * (4 / s.meter[1]) * 60) / s.tempo;
  return 0;
}

/**
 * Lets the event loop run once. A message, since browsers let a timer that a timer has set wait for at least
 * four milliseconds.
 */
export function giveWay(): Promise<void> {
  const { port1, port2 } = new MessageChannel();
  return new Promise<void>((resolve) => {
    port1.addEventListener('message', () => {
      port1.close();
      resolve();
    });
    port1.start();
    port2.postMessage(null);
  });
}

/**
 * Runs a long job that tells how far it is; gives way to the event loop about ten times a second, so that
 * progress is seen and a signal can stop it.
 */
export async function drive<T>(
  job: Generator<number, T>,
  options: Pick<RenderOptions, 'onProgress' | 'signal'>,
): Promise<T> {
  let last = performance.now();
  for (;;) {
    const r = job.next();
    if (r.done) return r.value;
    if (options.signal?.aborted) throw new RenderCancelled();
    const now = performance.now();
    if (now - last < 100) continue;
    last = now;
    options.onProgress?.(r.value);
    await giveWay();
    if (options.signal?.aborted) throw new RenderCancelled();
  }
}

/** Frames that are worked together: what every call costs is shared by more of them, as long as they stay near. */
const BLOCK = 1024;
/** the same where there are more than so many lines and devices, whose buffers would be many MB */
const [SMALL_BLOCK, MANY] = [512, 256];
/** The block for so many lines, devices and racks. */
export const blockFor = (parts: number): number => (parts > MANY ? SMALL_BLOCK : BLOCK);
function partsOf({ tracks }: Session): number {
  let parts = tracks.length;
  for (const { chain } of tracks) for (const _ of walkSlots(chain)) parts++;
  return parts;
}

/**
 * One render: an engine from a standing start and the taps that are kept. Ask for the frames in order, then
 * `end` it.
 */
export class OfflineRun {
  readonly block: number;
  readonly total: number;
  private readonly grid: number;
  readonly engine: Renderer;
  private readonly arena = new Arena();
  private readonly taps: {
    name: string;
    from: { l: Float64Array; r: Float64Array };
    fader: NodeRun | null;
    gl: number;
    gr: number;
    latency: number;
    l: Float32Array;
    r: Float32Array;
  }[];
  private readonly outL: Float64Array;
  private readonly outR: Float64Array;

  /** told after each piece: where in the render it began, and its frames */
  onPiece: (at: number, n: number) => void = () => {};

  /** @param arrange adds to the schedule before it is rendered */
  constructor(
    session: Session,
    o: RenderOptions,
    part: Part | null = null,
    arrange?: (schedule: Schedule) => Schedule,
  ) {
    const fs = session.sampleRate;
    const from = Math.round((o.from ?? 0) * fs);
    const frames = Math.max(0, Math.round((o.to ?? sessionLength(session)) * fs) - from);
    // lanes are followed in steps of their own, so that the sound depends neither on the block nor on where
    // the render begins
    const moves = session.tracks.some((t) => t.automation?.some((l) => l.on));
    const block = o.blockSize ?? blockFor(partsOf(session));
    this.block = moves ? Math.min(block, LANE_GRID) : block;
    this.grid = moves ? LANE_GRID : Infinity;
    this.outL = new Float64Array(this.block);
    this.outR = new Float64Array(this.block);
    this.engine = new Renderer(fs, this.block, o.sounds, this.arena);
    const engine = this.engine;
    engine.metering = false;
    if (arrange) engine.arrange = arrange;
    engine.update(session, true);
    engine.startAt(from);
    this.taps = (o.taps ?? ['master']).map((name) => {
      const [own, where] =
        name.endsWith(':pre') || name.endsWith(':in')
          ? [name.slice(0, name.lastIndexOf(':')), name.slice(name.lastIndexOf(':') + 1)]
          : [name, ''];
      const id: Id = own === 'master' ? engine.schedule!.master : own;
      const plan = engine.schedule!.nodes.find((n) => n.track.id === id);
      if (!plan) throw new Error(`There is no playing track “${id}” to tap.`);
      const node = engine.node(id)!;
      if (where === 'in') {
        node.arriving ??= { l: new Float64Array(this.block), r: new Float64Array(this.block) };
      }
      return {
        name,
        from: where === 'in' ? node.arriving! : node,
        fader: where ? null : node,
        gl: 1,
        gr: 1,
        latency: where === 'in' ? plan.inputLatency : plan.latency,
        l: new Float32Array(frames),
        r: new Float32Array(frames),
      };
    });
    this.total = frames + Math.max(0, ...this.taps.map((t) => t.latency));
    if (part) engine.take(part);
  }

  /** Frames from `at`, n of them, at most one block. */
  process(at: number, n: number): void {
    for (let done = 0; done < n;) {
      const m = Math.min(n - done, this.grid - (this.engine.position % this.grid));
      this.piece(at + done, m);
      done += m;
    }
  }

  /** A piece that passes no point at which lanes are read. */
  private piece(at: number, n: number): void {
    for (const t of this.taps) {
      if (t.fader && at === 0) {
        t.gl = t.fader.gl.value;
        t.gr = t.fader.gr.value;
      }
    }
    this.engine.process(this.outL, this.outR, n);
    for (const t of this.taps) {
      const gl = t.fader?.gl.value ?? 1;
      const gr = t.fader?.gr.value ?? 1;
      copyTap(t.from.l, t.l, at - t.latency, n, t.gl, gl);
      copyTap(t.from.r, t.r, at - t.latency, n, t.gr, gr);
      t.gl = gl;
      t.gr = gr;
    }
    this.onPiece(at, n);
  }

  rendered(): Rendered {
    return Object.fromEntries(this.taps.map((t) => [t.name, [t.l, t.r] as [Float32Array, Float32Array]]));
  }
  end(): void {
    this.arena.release();
  }
}

/** Copies a block, its gain going straight from where the block began to where it ends. */
function copyTap(from: Float64Array, to: Float32Array, at: number, n: number, g0: number, g1: number): void {
  const start = Math.max(0, -at);
  const end = Math.min(n, to.length - at);
  const step = (g1 - g0) / n;
  if (step === 0) for (let i = start; i < end; i++) to[at + i] = from[i] * g0;
  else for (let i = start; i < end; i++) to[at + i] = from[i] * (g0 + step * (i + 1));
}
