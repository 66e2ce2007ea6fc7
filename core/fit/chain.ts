import { DEVICE_TYPES, playedAs } from '../devices/index.ts';
import { doubles } from '../devices/kernels/index.ts';
import type { Processor } from '../devices/spec.ts';
import { renderNow } from '../engine/render.ts';
import type { Sound } from '../engine/sound.ts';
import { createSession, createTrack, masterOf } from '../session/create.ts';
import { upstream } from '../session/upstream.ts';
import type { DeviceFigures } from '../model/reference.ts';
import type { Device, Id, Params, Session, Slot, Track } from '../model/types.ts';
import { sounding, type Sides, type Sounding } from './figures.ts';

/** s of a line that are measured at most */
export const MEASURED = 60;
/** frames that a device works on at once: its gain reduction is told as often */
const STEP = 128;

/** The sound that comes into a line's chain, with what feeds it, from the song's start. */
export function soundInto(session: Session, track: Id, sounds: Map<string, Sound>): Sides {
  const alone = upstream(session, track);
  // what its own chain does is not asked here
  const tracks = alone.tracks.map((t): Track => (t.id === track ? { ...t, chain: [], sends: [] } : t));
  const tap = `${track}:in`;
  const end = Math.max(0, ...tracks.flatMap((t) => t.clips.map((c) => (c.off ? 0 : c.start + c.length))));
  const out = renderNow({ ...alone, tracks }, { sounds, taps: [tap], to: Math.min(MEASURED, end) })[tap];
  const l = Float64Array.from(out[0]);
  return { l, r: isSame(out[0], out[1]) ? l : Float64Array.from(out[1]) };
}
/** Whether both sides carry the same, as those of a mono line do. */
function isSame<T extends Float32Array | Float64Array>(a: T, b: T): boolean {
  if (a === b) return true;
  for (let i = 0; i < a.length; i++) {
    if (a[i] !== b[i]) return false;
  }
  return true;
}

/** Whether a device works by the level of what comes into it. */
export const worksByLevel = (d: Device): boolean => DEVICE_TYPES[d.type]?.reduces === true;

/** Mean and deep gain reduction of a run, while something sounds; dB ≥ 0. */
export interface Reduced {
  mean: number;
  deep: number;
  bands: number[];
}

/** What a chain is heard with. */
export interface About {
  /** Hz, and bpm */
  sampleRate: number;
  tempo: number;
  where: Sounding;
  /** by media id: what devices play with */
  sounds: Map<string, Sound>;
}

/** Runs a sound through a device and keeps what comes out, as late as it comes, and how much was taken. */
export function through(d: Device, params: Params, x: Sides, { where, sampleRate, tempo, sounds }: About) {
  const type = playedAs(d);
  const processor = type.create(params, { sampleRate, tempo, maxBlock: STEP, sounds });
  const late = type.latency(params, sampleRate);
  const frames = x.l.length;
  // what is the same on both sides is worked once where the device can do that
  const isOne = x.l === x.r && processor.processOne !== undefined;
  const left = new Float64Array(frames);
  const out: Sides = { l: left, r: isOne ? left : new Float64Array(frames) };
  // where the kernels can reach them
  const [l, r] = [doubles(STEP), doubles(STEP)];
  const taken = new Taken(processor, where, type.readings?.length ?? 0);
  for (let at = 0; at < frames + late; at += STEP) {
    bring(x.l, at, l);
    bring(x.r, at, r);
    if (isOne) processor.processOne!(l, r, STEP);
    else processor.process(l, r, STEP, l, r);
    taken.note(at);
    put(l, out.l, at - late);
    if (!isOne) put(r, out.r, at - late);
  }
  if (!isOne && x.l === x.r && isSame(out.l, out.r)) out.r = out.l;
  return { out, reduced: taken.result() };
}

/** A block of a sound from a frame on, with silence behind its end. */
function bring(from: Float64Array, at: number, block: Float64Array): void {
  const piece = from.subarray(at, at + STEP);
  block.set(piece);
  if (piece.length < STEP) block.fill(0, piece.length);
}
/** A block into a sound at a frame; what would lie before or behind it is left out. */
function put(block: Float64Array, into: Float64Array, at: number): void {
  const skip = Math.max(0, -at);
  const end = Math.min(STEP, into.length - at);
  if (end > skip) into.set(block.subarray(skip, end), at + skip);
}

/** Gain reduction step by step, where something sounds. */
class Taken {
  private readonly all: number[] = [];
  private readonly bands: number[];
  constructor(
    private readonly processor: Processor,
    private readonly where: Sounding,
    bands: number,
  ) {
    this.bands = Array.from({ length: bands }, () => 0);
  }
  note(at: number): void {
    if (!this.where.on[Math.floor(at / this.where.size)]) return;
    this.all.push(-this.processor.reduction);
    for (let b = 0; b < this.bands.length; b++) this.bands[b] -= this.processor.readings![b];
  }
  result(): Reduced {
    const count = Math.max(1, this.all.length);
    const sorted = Float64Array.from(this.all).sort();
    return {
      mean: this.all.reduce((a, b) => a + b, 0) / count,
      deep: sorted[Math.floor(0.95 * sorted.length)] ?? 0,
      bands: this.bands.map((sum) => sum / count),
    };
  }
}

/** The same sound behind a rack, as the engine plays it. */
function throughRack(slot: Slot, x: Sides, { sampleRate: fs, tempo, sounds }: About): Sides {
  const frames = x.l.length;
  const clip = { id: 'clip', media: 'sound', start: 0, offset: 0, length: frames / fs, gain: 0 };
  const s = createSession({ sampleRate: fs, tempo });
  const output = { kind: 'track' as const, track: masterOf(s).id };
  const line = createTrack('audio', { id: 'line', clips: [clip], chain: [slot], output });
  const media = { id: 'sound', name: 'sound', sampleRate: fs, channels: 2 as const, frames };
  const sound = { l: Float32Array.from(x.l), r: Float32Array.from(x.r) };
  const [l, r] = renderNow(
    { ...s, tracks: [line, ...s.tracks], media: [media] },
    { sounds: new Map([...sounds, ['sound', sound]]), taps: ['line:pre'], to: frames / fs },
  )['line:pre'];
  return { l: Float64Array.from(l), r: Float64Array.from(r) };
}

/**
 * What is told at a device before the sound goes through it: what stands in its place, and what that makes of the sound
 * where it is known already.
 */
export type AtDevice = (d: Device, x: Sides) => { device: Device; out?: Sides };

/**
 * Leads a sound along a chain: `at` is asked at every device that is on, in the order of the signal, and may set it
 * otherwise; later devices hear what it makes. Keyed devices are passed by: what they hear is another line's.
 * @returns the chain as it was set, and what comes out of it
 */
export function alongChain(
  chain: readonly Slot[],
  x: Sides,
  about: About,
  at: AtDevice,
): { chain: Slot[]; out: Sides } {
  let now = x;
  const set = chain.map((slot): Slot => {
    if (slot.state !== 'on') return slot;
    if (slot.kind === 'rack') {
      const strands = slot.strands.map((s) => ({ ...s, chain: alongChain(s.chain, now, about, at).chain }));
      const rack = { ...slot, strands };
      now = throughRack(rack, now, about);
      return rack;
    }
    if (!DEVICE_TYPES[slot.type]) return slot;
    const { device, out } = at(slot, now);
    if (isKeyed(device)) return device;
    now = out ?? through(device, device.params, now, about).out;
    return device;
  });
  return { chain: set, out: now };
}

export const isKeyed = (d: Device): boolean => d.key.kind === 'track';

/** What a device finds at its input, and does with it. */
export function figuresOf(d: Device, x: Sides, reduced: Reduced, where: Sounding, fs: number): DeviceFigures {
  const here = sounding(x, fs, where.on);
  const count = DEVICE_TYPES[d.type].shown?.(d.params) ?? reduced.bands.length;
  return {
    id: d.id,
    type: d.type,
    level: here.level,
    floor: here.floor,
    soft: here.soft,
    mean: reduced.mean,
    deep: reduced.deep,
    ...(reduced.bands.length ? { bands: reduced.bands.slice(0, count) } : {}),
  };
}
