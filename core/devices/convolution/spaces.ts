import { cookbook, type Section } from '../biquad.ts';
import { sinc } from '../interpolate.ts';
import { kaiser } from '../math.ts';
import { power, tenTo, twoTo } from '../../model/power.ts';
import { resample } from '../resample.ts';
import type { Sound } from '../sounds.ts';

/**
 * Impulse responses by formula: the first reflections of a box by mirror images (J. B. Allen, D. A. Berkley, JASA 65(4),
 * 1979), and behind them noise that decays octave by octave and sets in as reflections grow dense (J. A. Moorer, 1979;
 * both from memory). A steel sheet has no walls; its highs run ahead of its lows.
 */
export interface Space {
  id: string;
  label: string;
  /** seconds to −60 dB in the octaves from 63 Hz to 16 kHz */
  decay: readonly number[];
  /** m; null: a sheet of steel */
  walls: readonly [number, number, number] | null;
  /** share of a sound's amplitude that a wall sends back */
  mirror: number;
  /** level of the first reflections against the tail, dB */
  early: number;
}

const PREFIX = 'space:';
export const SPACES: readonly Space[] = [
  {
    id: 'wooden-room',
    label: 'Wooden room',
    decay: [0.62, 0.5, 0.42, 0.38, 0.36, 0.34, 0.31, 0.26, 0.2],
    walls: [5.2, 3.9, 2.7],
    mirror: 0.72,
    early: 0,
  },
  {
    id: 'tiled-room',
    label: 'Tiled room',
    decay: [0.7, 0.75, 0.85, 0.95, 1, 0.95, 0.82, 0.6, 0.38],
    walls: [3.4, 2.3, 2.6],
    mirror: 0.92,
    early: -1,
  },
  {
    id: 'stairwell',
    label: 'Stairwell',
    decay: [1.7, 1.9, 2.1, 2.2, 2.1, 1.8, 1.4, 0.9, 0.5],
    walls: [4.1, 2.6, 15],
    mirror: 0.88,
    early: -3,
  },
  {
    id: 'panelled-hall',
    label: 'Panelled hall',
    decay: [2.3, 2.2, 2.1, 2, 1.9, 1.7, 1.4, 1, 0.6],
    walls: [29, 18, 12],
    mirror: 0.8,
    early: -4,
  },
  {
    id: 'stone-nave',
    label: 'Stone nave',
    decay: [5.2, 5.4, 5.2, 4.8, 4.2, 3.3, 2.4, 1.7, 1.1],
    walls: [48, 16, 21],
    mirror: 0.86,
    early: -7,
  },
  {
    id: 'steel-sheet',
    label: 'Steel sheet',
    decay: [3.4, 3.2, 2.9, 2.6, 2.3, 2, 1.6, 1.1, 0.7],
    walls: null,
    mirror: 0,
    early: 0,
  },
];

/** How an impulse response of ours is called in a device's values. */
export const spaceId = (s: Space): string => PREFIX + s.id;
/** The space of ours that a device's value names; undefined for a person's own sound. */
export const spaceOf = (impulse: string): Space | undefined => SPACES.find((s) => spaceId(s) === impulse);

/** Hz at which all of them are made, so that a space is the same at every rate. */
const RATE = 48000;
const SPEED_OF_SOUND = 343;
const LOWEST = 63;
/** the tail ends where its slowest octave has fallen so far */
const END_DB = 72;
/** seconds, of the latest first reflection */
const EARLY = 0.08;
/** where the sound comes from and is heard, as shares of the box; the ears are so far apart (m) */
const SOURCE = [0.31, 0.42, 0.53] as const;
const EAR = [0.67, 0.59, 0.47] as const;
const APART = 0.3;
const HALF = 8;

/** Seconds of a space's impulse response. */
export const lengthOf = ({ decay }: Space): number => (Math.max(...decay) * END_DB) / 60;

const MADE = new Map<string, Sound>();

/** The impulse response of a space of ours at a rate (Hz); made once. */
export function soundOfSpace(space: Space, sampleRate: number): Sound {
  const key = `${space.id} ${sampleRate}`;
  const known = MADE.get(key);
  if (known) return known;
  const [l, r] = [0, 1].map((side) => resample(makeSide(space, side), RATE, sampleRate));
  const made = { l, r };
  MADE.set(key, made);
  return made;
}

function makeSide(space: Space, side: number): Float32Array {
  const tail = tailOf(space, side, Math.round(lengthOf(space) * RATE));
  const early = space.walls ? reflections(space, space.walls, side, tail.length) : null;
  if (early) {
    const gain =
      tenTo(space.early / 20) * Math.sqrt(energyOf(tail.subarray(0, EARLY * RATE)) / energyOf(early));
    for (let i = 0; i < early.length; i++) tail[i] += gain * early[i];
  }
  return Float32Array.from(tail);
}

const energyOf = (x: Float64Array): number => x.reduce((sum, v) => sum + v * v, 1e-30);

/** Noise in octaves, each with a decay of its own; what is over the highest one decays with it. */
function tailOf(space: Space, side: number, frames: number): Float64Array {
  const out = new Float64Array(frames);
  let rest = noiseOf(frames, 7919 * (SPACES.indexOf(space) + 1) + side);
  const last = space.decay.length - 1;
  for (let k = 0; k <= last; k++) {
    const middle = LOWEST * twoTo(k);
    const band = k === last ? rest : lowOf(rest, middle * Math.SQRT2);
    const above = k === last ? rest : rest.map((v, i) => v - band[i]);
    const lag = space.walls ? 0 : 0.012 * Math.sqrt(125 / (middle + 125));
    addDecaying(out, band, space.decay[k], onsetOf(space), lag);
    rest = above;
  }
  return out;
}

/** Q of the two sections of a Butterworth filter of fourth order. */
const STEEP = [0.541196, 1.306563];
/**
 * Both ways through a filter, so that what is left over sums to the whole without turning phases. Written out: the
 * kernels round differently from machine to machine, and an impulse response is the same everywhere.
 */
function lowOf(x: Float64Array, edge: number): Float64Array {
  const out = x.slice();
  for (let way = 0; way < 2; way++) {
    for (const q of STEEP) filtered(out, cookbook('lowPass', edge, 0, q, RATE));
    out.reverse();
  }
  return out;
}

function filtered(x: Float64Array, [b0, b1, b2, a1, a2]: Section): void {
  let [s1, s2] = [0, 0];
  for (let i = 0; i < x.length; i++) {
    const v = x[i];
    const y = b0 * v + s1;
    s1 = b1 * v - a1 * y + s2;
    s2 = b2 * v - a2 * y;
    x[i] = y;
  }
}

/** Seconds in which a space's reflections grow dense: √V ms (A. Lindau and others, JAES 60(11), 2012), less the direct sound. */
const onsetOf = ({ walls }: Space): number =>
  walls ? Math.sqrt(walls[0] * walls[1] * walls[2]) / 1000 / 3 : 0.0015;

function addDecaying(out: Float64Array, x: Float64Array, decay: number, onset: number, lag: number): void {
  const fall = Math.exp((-Math.LN10 * 3) / (decay * RATE));
  const rise = Math.exp(-1 / (onset * RATE));
  let gain = 1;
  let missing = 1;
  for (let i = Math.round(lag * RATE); i < out.length; i++) {
    out[i] += x[i] * gain * (1 - missing);
    gain *= fall;
    missing *= rise;
  }
}

/** Mirror images of the source, as far as their sound arrives early; the first one arrives at once. */
function reflections(
  space: Space,
  walls: readonly [number, number, number],
  side: number,
  frames: number,
): Float64Array {
  const out = new Float64Array(frames);
  const ear = [EAR[0] * walls[0] + (side - 0.5) * APART, EAR[1] * walls[1], EAR[2] * walls[2]];
  const images = imagesOf(walls, space.mirror, ear);
  const first =
    Math.min(...imagesOf(walls, space.mirror, [EAR[0] * walls[0], ear[1], ear[2]]).map((m) => m.far)) - APART;
  for (const { far, gain } of images) {
    const seconds = (far - first) / SPEED_OF_SOUND;
    if (seconds < EARLY) place(out, seconds * RATE + HALF, gain / far);
  }
  return out;
}

function imagesOf(walls: readonly number[], mirror: number, ear: readonly number[]) {
  const along = walls.map((wall, axis) =>
    [-3, -2, -1, 0, 1, 2, 3].map((n) => ({
      times: Math.abs(n),
      at: n * wall + (n % 2 === 0 ? SOURCE[axis] : 1 - SOURCE[axis]) * wall - ear[axis],
    })),
  );
  return along[0].flatMap((x) =>
    along[1].flatMap((y) =>
      along[2].flatMap((z) => {
        const times = x.times + y.times + z.times;
        // the direct sound is the dry one
        return times === 0 ? [] : [{ far: Math.hypot(x.at, y.at, z.at), gain: power(mirror, times) }];
      }),
    ),
  );
}

/** A single sample at a place between samples. */
function place(out: Float64Array, at: number, gain: number): void {
  const from = Math.max(0, Math.ceil(at - HALF));
  for (let i = from; i < at + HALF && i < out.length; i++) {
    out[i] += gain * sinc(i - at) * kaiser((i - at) / HALF, 6);
  }
}

/** Noise of even power, the same everywhere (a linear congruential generator; W. H. Press and others, Numerical Recipes). */
function noiseOf(frames: number, seed: number): Float64Array {
  let state = seed >>> 0;
  return Float64Array.from({ length: frames }, () => {
    state = (Math.imul(state, 1664525) + 1013904223) >>> 0;
    return state / 2147483648 - 1;
  });
}
