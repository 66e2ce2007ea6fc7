import { Ramp, dbToGain } from './math.ts';
import { doubles } from './kernels/index.ts';
import { choice, decibels, type DeviceContext, type Processor } from './spec.ts';
import type { ParamSpec } from '../model/param.ts';
import type { Params } from '../model/types.ts';

export const NOTE_OFF = 0;
export const NOTE_ON = 1;
export const CONTROL = 2;
export const ALL_OFF = 3;
export const HIT = 4;

/**
 * Events of one block, in order of frames. `port` is the place in MIDI_PORTS. A HIT plays part `a` whatever
 * its channel is.
 */
export class EventBuffer {
  static readonly SIZE = 1024;
  count = 0;
  readonly frame = new Int32Array(EventBuffer.SIZE);
  readonly type = new Uint8Array(EventBuffer.SIZE);
  readonly port = new Uint8Array(EventBuffer.SIZE);
  readonly channel = new Uint8Array(EventBuffer.SIZE);
  readonly a = new Uint8Array(EventBuffer.SIZE);
  readonly b = new Uint8Array(EventBuffer.SIZE);

  /**
   * Puts an event at its place by frame; behind those of the same frame, except that ends come before
   * beginnings. More than fit are left out.
   */
  push(frame: number, type: number, port: number, channel: number, a: number, b: number): void {
    if (this.count >= EventBuffer.SIZE) return;
    let i = this.count++;
    while (
      i > 0 &&
      (this.frame[i - 1] > frame ||
        (this.frame[i - 1] === frame && type === NOTE_OFF && this.type[i - 1] === NOTE_ON))
    ) {
      this.copy(i - 1, i);
      i--;
    }
    this.frame[i] = frame;
    this.type[i] = type;
    this.port[i] = port;
    this.channel[i] = channel;
    this.a[i] = a;
    this.b[i] = b;
  }
  private copy(from: number, to: number): void {
    this.frame[to] = this.frame[from];
    this.type[to] = this.type[from];
    this.port[to] = this.port[from];
    this.channel[to] = this.channel[from];
    this.a[to] = this.a[from];
    this.b[to] = this.b[from];
  }
}

/**
 * A processor that plays. Its main output is added to what passes through; its separate outputs stand in
 * `outputs` until the next block.
 */
export interface InstrumentProcessor extends Processor {
  events: EventBuffer;
  outputs: { l: Float64Array; r: Float64Array }[];
}
export const isInstrument = (p: Processor): p is InstrumentProcessor => 'outputs' in p;

export const OUTPUTS = 16;
const place = (pair: number) => [
  { id: String(pair), label: `${pair} stereo` },
  { id: `${pair}L`, label: `${pair} left` },
  { id: `${pair}R`, label: `${pair} right` },
];
/** Choices of an output: the main one, every pair, and its halves. */
export const outChoice = (
  id: string,
  label: string,
  group: string,
  outputs: number,
  def = 'main',
): ParamSpec =>
  choice(
    id,
    label,
    group,
    [{ id: 'main', label: 'Main' }, ...Array.from({ length: outputs }, (_, i) => place(i + 1)).flat()],
    def,
  );
export const trims = (outputs: number): ParamSpec[] =>
  Array.from({ length: outputs + 1 }, (_, i) =>
    decibels(`t${i}`, i ? `Trim of output ${i}` : 'Trim of the main output', 'Outputs', -36, 36, 0, {
      step: 0.1,
    }),
  );

const SIDES: Record<string, OutPlace['side']> = { L: 'left', R: 'right', '': 'both' };
/**
 * An output as it is stored: "main", "3", "3L", "3R". Pair 0 is the main output; a half takes the whole part
 * in mono.
 */
export interface OutPlace {
  pair: number;
  side: 'both' | 'left' | 'right';
}
export function outPlace(out: string): Readonly<OutPlace> {
  const known = PLACES.get(out);
  if (known) return known;
  const m = /^(\d+)([LR]?)$/.exec(out);
  return m ? { pair: Number(m[1]), side: SIDES[m[2]] } : MAIN;
}
const MAIN: Readonly<OutPlace> = { pair: 0, side: 'both' };
/** Every place that there is, since rules ask for them again and again. */
const PLACES = new Map<string, Readonly<OutPlace>>(
  Array.from({ length: OUTPUTS }, (_, n) => n + 1).flatMap((pair) =>
    Object.entries(SIDES).map(([letter, side]) => [`${pair}${letter}`, { pair, side }] as const),
  ),
);

/** The outputs of an instrument while it runs, with their trims. */
export class OutputBank {
  readonly outputs: { l: Float64Array; r: Float64Array }[];
  readonly mainL: Float64Array;
  readonly mainR: Float64Array;
  private readonly trims: Ramp[];
  private readonly glide: number;
  private readonly all: { l: Float64Array; r: Float64Array }[];
  constructor(count: number, ctx: DeviceContext) {
    this.mainL = doubles(ctx.maxBlock);
    this.mainR = doubles(ctx.maxBlock);
    this.outputs = Array.from({ length: count }, () => ({
      l: doubles(ctx.maxBlock),
      r: doubles(ctx.maxBlock),
    }));
    this.all = [{ l: this.mainL, r: this.mainR }, ...this.outputs];
    this.trims = this.all.map(() => new Ramp(1));
    this.glide = Math.round(ctx.sampleRate * 0.01);
  }
  set(params: Params, immediate: boolean): void {
    this.trims.forEach((t, i) =>
      t.to(dbToGain((params[`t${i}`] as number) ?? 0), immediate ? 0 : this.glide),
    );
  }
  clear(n: number): void {
    for (let k = 0; k < this.all.length; k++) {
      this.all[k].l.fill(0, 0, n);
      this.all[k].r.fill(0, 0, n);
    }
  }
  /** Left and right buffer of a place; the same one twice for a half. */
  left(t: OutPlace): Float64Array {
    const o = this.all[t.pair < this.all.length ? t.pair : 0];
    return t.side === 'right' ? o.r : o.l;
  }
  right(t: OutPlace): Float64Array {
    const o = this.all[t.pair < this.all.length ? t.pair : 0];
    return t.side === 'left' ? o.l : o.r;
  }
  /** Trims every output and adds the main one to what passes through. */
  finish(l: Float64Array, r: Float64Array, n: number): void {
    for (let k = 0; k < this.all.length; k++) {
      const t = this.trims[k];
      const o = this.all[k];
      if (t.value === 1 && t.left === 0) continue;
      const from = t.value;
      t.advance(n);
      const step = (t.value - from) / n;
      for (let i = 0; i < n; i++) {
        const g = from + step * (i + 1);
        o.l[i] *= g;
        o.r[i] *= g;
      }
    }
    const ml = this.mainL;
    const mr = this.mainR;
    for (let i = 0; i < n; i++) {
      l[i] += ml[i];
      r[i] += mr[i];
    }
  }
}

/**
 * What all instruments have in common: outputs, and a block that is worked out from one event to the next.
 */
export abstract class Player implements InstrumentProcessor {
  reduction = 0;
  level = -160;
  readonly events = new EventBuffer();
  readonly bank: OutputBank;
  readonly outputs: { l: Float64Array; r: Float64Array }[];
  protected readonly fs: number;
  protected readonly glide: number;
  constructor(outputs: number, ctx: DeviceContext) {
    this.fs = ctx.sampleRate;
    this.glide = Math.round(ctx.sampleRate * 0.01);
    this.bank = new OutputBank(outputs, ctx);
    this.outputs = this.bank.outputs;
  }
  abstract set(params: Params, immediate: boolean): void;
  abstract reset(): void;
  /** One event, at its frame. */
  protected abstract take(type: number, port: number, channel: number, a: number, b: number): void;
  /** Sound of the frames between two events. */
  protected abstract sound(from: number, to: number): void;
  /** Before and after the block. */
  protected begin(_n: number): void {
    /* nothing to clear */
  }
  protected end(_n: number): void {
    /* nothing to add */
  }

  process(l: Float64Array, r: Float64Array, n: number): void {
    this.bank.clear(n);
    this.begin(n);
    const e = this.events;
    let at = 0;
    for (let i = 0; i < e.count; i++) {
      const frame = Math.min(n, Math.max(at, e.frame[i]));
      if (frame > at) {
        this.sound(at, frame);
        at = frame;
      }
      this.take(e.type[i], e.port[i], e.channel[i], e.a[i], e.b[i]);
    }
    if (at < n) this.sound(at, n);
    this.end(n);
    this.bank.finish(l, r, n);
  }
}
