import { LoudnessMeter, type Loudness } from '../measure/loudness.ts';
import { Resampler } from '../devices/resample.ts';
import type { Id } from '../model/types.ts';
import type { Printed } from './stems.ts';

/** Room for what is on its way to a file: written in order, then read, then given back. */
export interface Scratch {
  /** @param bytes belong to the caller, who writes over them afterwards */
  write(bytes: Uint8Array): void;
  /** exactly so many bytes from a place on */
  read(at: number, n: number): Uint8Array;
  remove(): void;
}

/** frames that are measured and written together */
const PIECE = 16384;
/** linear: sides that differ by less are the same (−120 dB) */
const SAME = 1e-6;
/** points of the picture of a sound, and while it grows: as soon as there are more, each covers twice as much */
const OUTLINE = 400;
const POINTS = 8192;
/** two sides of 32 bit */
const FRAME = 8;

let shared = new Float32Array(2 * PIECE);
/** Room that all sounds of a print share, one after the other: of dozens of them each piece would be thrown away at once. */
function roomFor(values: number): Float32Array<ArrayBuffer> {
  if (shared.length < values) shared = new Float32Array(values);
  return shared;
}

/**
 * One sound of a print before its level is known: at the rate of its file, measured while it grows, kept aside until
 * it is made into one.
 */
export class Take {
  /** frames at the rate of the file */
  frames = 0;
  private readonly room = [new Float32Array(PIECE), new Float32Array(PIECE)];
  private filled = 0;
  private readonly resamplers: Resampler[] | null;
  private readonly meter: LoudnessMeter;
  private points: number[] = [];
  /** frames of a point */
  private stride = 64;
  private apart = 0;

  /**
   * @param from, to Hz of what comes and of the file
   * @param scratch where it is kept meanwhile
   */
  constructor(
    readonly id: Id,
    readonly name: string,
    readonly kind: Printed['kind'],
    from: number,
    readonly sampleRate: number,
    private readonly scratch: Scratch,
  ) {
    this.resamplers = from === sampleRate ? null : [0, 1].map(() => new Resampler(from, sampleRate));
    this.meter = new LoudnessMeter(sampleRate);
  }
  add(l: Float64Array, r: Float64Array, n: number): void {
    for (let at = 0; at < n;) {
      const m = Math.min(n - at, PIECE - this.filled);
      this.room[0].set(l.subarray(at, at + m), this.filled);
      this.room[1].set(r.subarray(at, at + m), this.filled);
      this.filled += m;
      at += m;
      if (this.filled === PIECE) this.flush();
    }
  }
  /** Nothing more comes. */
  end(): void {
    this.flush();
    if (this.resamplers) this.keep(this.resamplers.map((x) => x.end()));
  }
  loudness(): Loudness {
    return (this.measured ??= this.meter.end());
  }
  private measured: Loudness | null = null;

  /** Both sides are the same. */
  get isMono(): boolean {
    return this.apart < SAME;
  }
  /** Peaks of stretches, for a picture. */
  outline(): number[] {
    const { points } = this;
    return Array.from({ length: OUTLINE }, (_, k) => {
      const [from, to] = [k, k + 1].map((x) => Math.floor((x * points.length) / OUTLINE));
      let peak = 0;
      for (let i = from; i < Math.max(to, from + 1) && i < points.length; i++) {
        peak = Math.max(peak, points[i]);
      }
      return peak;
    });
  }
  /** All of it once more, a piece at a time. */
  *pieces(): Generator<[Float32Array, Float32Array], void> {
    for (let at = 0; at < this.frames; at += PIECE) {
      const n = Math.min(PIECE, this.frames - at);
      const bytes = this.scratch.read(at * FRAME, n * FRAME);
      const both = new Float32Array(bytes.buffer, bytes.byteOffset, 2 * n);
      const [l, r] = [new Float32Array(n), new Float32Array(n)];
      for (let i = 0; i < n; i++) {
        l[i] = both[2 * i];
        r[i] = both[2 * i + 1];
      }
      yield [l, r];
    }
  }
  remove(): void {
    this.scratch.remove();
  }

  private flush(): void {
    const sides = this.room.map((x) => x.subarray(0, this.filled));
    this.filled = 0;
    this.keep(this.resamplers ? sides.map((x, c) => this.resamplers![c].add(x)) : sides);
  }
  private keep([l, r]: Float32Array[]): void {
    const n = l.length;
    if (!n) return;
    this.meter.add([l, r]);
    const both = roomFor(2 * n);
    for (let i = 0; i < n; i++) {
      both[2 * i] = l[i];
      both[2 * i + 1] = r[i];
    }
    this.apart = Math.max(this.apart, mostApart(l, r));
    this.draw(l, r);
    this.scratch.write(new Uint8Array(both.buffer, 0, n * FRAME));
    this.frames += n;
  }
  /** Goes on with the picture; as soon as it has too many points, each covers twice as much. */
  private draw(l: Float32Array, r: Float32Array): void {
    for (let at = 0; at < l.length;) {
      const point = Math.floor((this.frames + at) / this.stride);
      const end = Math.min(l.length, (point + 1) * this.stride - this.frames);
      this.points[point] = Math.max(this.points[point] ?? 0, loudest(l, at, end), loudest(r, at, end));
      at = end;
      if (point < POINTS) continue;
      this.stride *= 2;
      const { points } = this;
      this.points = Array.from({ length: Math.ceil(points.length / 2) }, (_, k) =>
        Math.max(points[2 * k], points[2 * k + 1] ?? 0),
      );
    }
  }
}

function loudest(x: Float32Array, from: number, to: number): number {
  let peak = 0;
  for (let i = from; i < to; i++) {
    const size = x[i] < 0 ? -x[i] : x[i];
    if (size > peak) peak = size;
  }
  return peak;
}
function mostApart(l: Float32Array, r: Float32Array): number {
  let most = 0;
  for (let i = 0; i < l.length; i++) {
    const difference = l[i] - r[i];
    const size = difference < 0 ? -difference : difference;
    if (size > most) most = size;
  }
  return most;
}
