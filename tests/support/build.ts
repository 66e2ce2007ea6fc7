import {
  createDevice,
  createSend,
  createSession,
  createTrack,
  masterOf,
  newestRevision,
  playedAs,
  type Device,
  type NoteClip,
  type Params,
  type Session,
  type Slot,
  type Sound,
  type Track,
} from '../../core/index.ts';

import { Arena, doubles, within } from '../../core/devices/kernels/index.ts';

export { countedIds } from '../../core/index.ts';

const { PI, abs, cos, hypot, imul, log10, max, random, round, sin, sqrt } = Math;

/** Shared builders for tests: sessions in a line or two, signals by formula. */
export function sessionWith(tracks: Partial<Track>[], over: Partial<Session> = {}): Session {
  const s = createSession(over);
  const master = masterOf(s);
  const made = tracks.map((t) =>
    createTrack(t.role ?? 'audio', { output: { kind: 'track', track: master.id }, ...t }),
  );
  s.tracks = [...made, master];
  return s;
}

export const device = (type: string, params: Params = {}, over: Partial<Device> = {}) =>
  createDevice(type, params, over);
export const send = (to: string, level = 0, over = {}) => createSend(to, { level, ...over });
export const clipOf = (media = 'x', length = 1000) => ({
  id: 'clip-' + media + random().toString(36).slice(2, 8),
  media,
  start: 0,
  offset: 0,
  length,
  gain: 0,
});
/** written notes in quarters; channel 10 (percussion) unless told, each a quarter long */
export const noteClip = (
  notes: { at: number; key: number; velocity?: number; length?: number; channel?: number }[],
  over: {
    length?: number;
    channel?: number;
    controllers?: { at: number; number: number; value: number }[];
  } = {},
): NoteClip => ({
  id: 'notes-' + random().toString(36).slice(2, 8),
  name: 'Notes',
  start: 0,
  length: over.length ?? 8,
  notes: notes.map((n) => ({ channel: over.channel ?? 10, velocity: 100, length: 1, ...n })),
  controllers: (over.controllers ?? []).map((c) => ({ channel: over.channel ?? 10, ...c })),
});
/**
 * a kit with nothing separate yet, played by a pattern on port A, channel 10; every id is told, so that two
 * calls are equal
 */
export function kitSession(): Session {
  const s = sessionWith(
    [
      {
        id: 'beat',
        name: 'Beat',
        role: 'midi',
        output: { kind: 'midi', port: 'A', channel: 10 },
        chain: [createDevice('pattern', {}, { id: 'pat' })],
      },
      {
        id: 'kit',
        name: 'Deck kit',
        role: 'instrument',
        input: { kind: 'midi', port: 'A', channel: 10 },
        output: { kind: 'track', track: 'master' },
        chain: [createDevice('kit', {}, { id: 'k' })],
      },
    ],
    { name: 'Kit' },
  );
  masterOf(s).id = 'master';
  return s;
}
/** a session's media entry for a made-up sound, so that validation is content */
export const mediaRef = (id = 'x', frames = 48000) => ({
  id,
  name: id,
  sampleRate: 48000,
  channels: 2 as const,
  frames,
});

export const sine = (f: number, amplitude: number, seconds: number, fs = 48000, phase = 0): Float32Array =>
  Float32Array.from(
    { length: round(seconds * fs) },
    (_, i) => amplitude * sin((2 * PI * f * i) / fs + phase),
  );
export const both = (x: Float32Array): Sound => ({ l: x, r: x });
export function noise(seconds: number, amplitude = 0.3, seed = 1, fs = 48000): Float32Array {
  let s = seed >>> 0;
  return Float32Array.from({ length: round(seconds * fs) }, () => {
    s = (imul(s, 1664525) + 1013904223) >>> 0;
    return amplitude * (s / 2147483648 - 1);
  });
}
export const impulse = (seconds: number, fs = 48000): Float32Array => {
  const x = new Float32Array(round(seconds * fs));
  x[0] = 1;
  return x;
};
export const rms = (x: Float32Array, from = 0, to = x.length): number => {
  let s = 0;
  for (let i = from; i < to; i++) s += x[i] * x[i];
  return sqrt(s / (to - from));
};
export const peak = (x: ArrayLike<number>): number => {
  let p = 0;
  for (let i = 0; i < x.length; i++) p = max(p, abs(x[i]));
  return p;
};
export const db = (g: number): number => 20 * log10(g);
export const difference = (a: Float32Array, b: Float32Array): number => {
  let p = 0;
  for (let i = 0; i < a.length; i++) p = max(p, abs(a[i] - b[i]));
  return p;
};

/** Amplitude of one frequency in a stretch (a single DFT bin over whole periods). */
export function toneAt(x: Float32Array, f: number, fs = 48000, from = 0, to = x.length): number {
  let re = 0;
  let im = 0;
  for (let i = from; i < to; i++) {
    re += x[i] * cos((2 * PI * f * i) / fs);
    im -= x[i] * sin((2 * PI * f * i) / fs);
  }
  return (2 * hypot(re, im)) / (to - from);
}

interface DeviceRun {
  /** keep its latency */
  raw?: boolean;
  /** frames a block */
  block?: number;
  fs?: number;
  /** new values at a time in seconds, for sweeps */
  change?: (t: number, p: Params) => Params;
  key?: Float32Array;
  /** the right side, where it is not the left one */
  right?: Float32Array;
  /** of its sound; the present one when left out */
  revision?: number;
}

/** One device alone: a sound through both of its channels, its latency taken off unless `raw`. */
export function stereoDevice(
  type: string,
  params: Params,
  x: Float32Array,
  options: DeviceRun = {},
): [Float32Array, Float32Array] {
  // in the memory that the kernels reach, and given back at the end
  const arena = new Arena();
  try {
    return within(arena, () => runBoth(type, params, x, options));
  } finally {
    arena.release();
  }
}

function runBoth(
  type: string,
  params: Params,
  x: Float32Array,
  options: DeviceRun,
): [Float32Array, Float32Array] {
  const { block = 256, fs = 48000, right = x, revision = newestRevision(type) } = options;
  const spec = playedAs({ type, revision });
  const proc = spec.create(params, { sampleRate: fs, tempo: 120, maxBlock: block });
  const late = options.raw ? 0 : spec.latency(params, fs);
  const out: [Float32Array, Float32Array] = [new Float32Array(x.length), new Float32Array(x.length)];
  const [l, r, k] = [0, 1, 2].map(() => doubles(block));
  for (let at = 0; at < x.length + late; at += block) {
    const n = Math.min(block, x.length + late - at);
    for (let i = 0; i < n; i++) {
      l[i] = x[at + i] ?? 0;
      r[i] = right[at + i] ?? 0;
      k[i] = options.key?.[at + i] ?? 0;
    }
    if (options.change && at > 0) proc.set(options.change(at / fs, params), false);
    proc.process(l, r, n, options.key ? k : l, options.key ? k : r);
    for (let i = Math.max(0, late - at); i < n && at + i - late < x.length; i++) {
      out[0][at + i - late] = l[i];
      out[1][at + i - late] = r[i];
    }
  }
  return out;
}

/** The left side of one device alone, of a mono sound. */
export const runDevice = (
  type: string,
  params: Params,
  x: Float32Array,
  options: DeviceRun = {},
): Float32Array => stereoDevice(type, params, x, options)[0];

/** Gain in dB that a tone had between input and output, from `at` on for a tenth of a second. */
export const gainAt = (x: Float32Array, y: Float32Array, f: number, at: number, fs = 48000): number =>
  db(toneAt(y, f, fs, at, at + fs / 10) / toneAt(x, f, fs, at, at + fs / 10));

/** A slot that the test knows to be a device. */
export function dev(slot: Slot | undefined): Device {
  if (slot?.kind !== 'device') throw new Error('This slot is not a device.');
  return slot;
}
