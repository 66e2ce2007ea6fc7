import type { Measured } from '../model/hardware.ts';
import { humOf, humSignal } from './hum.ts';
import { impulseOf, levelsOf, refine, smooth, through, transferOf, whole, type Samples } from './impulse.ts';
import { sweepParts, sweepSignal } from './sweep.ts';

/** What a loop does to a signal; a Measured without its date and place. */
export type LoopFigures = Omit<Measured, 'at' | 'sampleRate' | 'buffer'>;

const db = (x: number): number => 20 * Math.log10(Math.max(1e-10, Math.abs(x)));
/** Against the largest peak: what is lower is no arrival of its own. */
const ARRIVAL = 0.08;
/** dBFS RMS from which on noise is a fault; dBFS from which on a hum is one */
const NOISY = -70;
const HUMS = -75;
/** dB by which a gain may move while it is measured */
const STEADY = 1.5;
/** dB of harmonics from which on a loop distorts */
const DISTORTS = -30;
/** samples and dB by which repeats may differ */
const AGREE = { delay: 0.5, gain: 0.2 };

const NOTHING: LoopFigures = {
  delay: 0,
  gain: -200,
  polarity: 1,
  swapped: false,
  noise: -200,
  hum: { 50: -200, 60: -200 },
  clipped: false,
  distortion: -200,
  response: [],
  faults: [],
};

/**
 * Measures a loop by what was played into it and what came back.
 * @param played the signal that went out, one channel or a list of two; best a `sweepSignal` or `stereoSweep`. When
 *   it is the same signal two or more times over, each is measured, and it is told when they disagree.
 * @param recorded what came back, as long as what was played or longer, one channel or a list of two
 * @param sampleRate Hz
 * @returns delay of the first arrival (samples, fractional), gain (dB, between 500 Hz and 5 kHz of the first arrival),
 *   polarity, noise (dBFS RMS without the hum), hum (dBFS of sines at 50 and 60 Hz with their harmonics), whether it
 *   clipped, harmonics (dB), response (Hz, dB against 1 kHz), and what is wrong in words
 */
export function measureLoop(
  played: Samples | readonly Samples[],
  recorded: Samples | readonly Samples[],
  sampleRate: number,
): LoopFigures {
  const [out, back] = [channels(played), channels(recorded)];
  const repeats = repeatsIn(out[0]);
  if (repeats === 1) return measureSides(out, back, sampleRate);
  const length = Math.floor(out[0].length / repeats);
  const takes = Array.from({ length: repeats }, (_, i) => {
    const cut = (x: Samples, n: number) => Array.from({ length: n }, (_x, k) => x[i * length + k] ?? 0);
    return measureSides(
      out.map((x) => cut(x, length)),
      back.map((x) => cut(x, length)),
      sampleRate,
    );
  });
  return agreed(takes);
}

/** Several measurements of one loop in one: the middle one, with what they disagree about. */
export function agreed(takes: readonly LoopFigures[]): LoopFigures {
  const ordered = [...takes].sort((a, b) => a.delay - b.delay);
  const middle = ordered[ordered.length >> 1];
  const spread = (of: (x: LoopFigures) => number) => Math.max(...takes.map(of)) - Math.min(...takes.map(of));
  const faults = [...new Set(takes.flatMap((x) => x.faults))];
  const tell = (what: string, of: (x: LoopFigures) => number, unit: string, digits: number) => {
    const list = takes.map((x) => of(x).toFixed(digits)).join(', ');
    faults.push(`the ${takes.length} measurements disagree: ${what} ${list} ${unit}`);
  };
  if (spread((x) => x.delay) > AGREE.delay) tell('delay', (x) => x.delay, 'samples', 1);
  if (spread((x) => x.gain) > AGREE.gain) tell('gain', (x) => x.gain, 'dB', 2);
  if (new Set(takes.map((x) => x.polarity)).size > 1) {
    faults.push('the measurements disagree about the polarity');
  }
  return { ...middle, clipped: takes.some((x) => x.clipped), faults };
}

const channels = (x: Samples | readonly Samples[]): Samples[] =>
  Array.isArray(x) && typeof x[0] !== 'number' ? (x as Samples[]) : [x as Samples];

/** How often a signal is the same signal over and over. */
function repeatsIn(x: Samples): number {
  for (const count of [5, 4, 3, 2]) {
    const length = x.length / count;
    if (!Number.isInteger(length) || length < 1000) continue;
    let same = true;
    let heard = 0;
    for (let i = 0; same && i < x.length - length; i++) {
      same = Math.abs(x[i] - x[i + length]) < 1e-6;
      heard = Math.max(heard, Math.abs(x[i]));
    }
    if (same && heard > 1e-3) return count;
  }
  return 1;
}

/** One side, or both: which came back where, and how they differ. */
function measureSides(out: Samples[], back: Samples[], sampleRate: number): LoopFigures {
  const quiet = (x: Samples) => peakOf(x) < 1e-6;
  const sides = [0, 1].filter((i) => out[i] && !quiet(out[i]));
  if (!sides.length) return { ...NOTHING, faults: ['nothing was played'] };
  if (sides.length === 1 || back.length === 1 || isSame(out[0], out[1])) {
    const from = sides[0];
    const loudest = back.length > 1 && peakOf(back[1 - from]) > 4 * peakOf(back[from]) ? 1 - from : from;
    const one = measureOne(out[from], back[Math.min(loudest, back.length - 1)], sampleRate);
    if (loudest === from || one.gain < -100) return one;
    return { ...one, swapped: true, faults: [...one.faults, 'left and right are swapped'] };
  }
  const pair = (crossed: boolean) =>
    [0, 1].map((i) => measureOne(out[i], back[crossed ? 1 - i : i], sampleRate, 0.45));
  const isThere = (x: LoopFigures) => x.gain > -100;
  let [left, right] = pair(false);
  let swapped = false;
  if (!isThere(left) && !isThere(right)) {
    [left, right] = pair(true);
    swapped = isThere(left) && isThere(right);
    if (!swapped) return left;
  }
  return {
    ...left,
    swapped,
    clipped: left.clipped || right.clipped,
    faults: bothFaults(left, right, swapped),
  };
}

function bothFaults(left: LoopFigures, right: LoopFigures, swapped: boolean): string[] {
  const faults = [...new Set([...left.faults, ...right.faults])].filter((f) => f !== TURNED);
  if (swapped) faults.push('left and right are swapped');
  if (left.polarity < 0 && right.polarity < 0) faults.push(TURNED);
  else if (left.polarity !== right.polarity) {
    faults.push(`the polarity is turned on the ${left.polarity < 0 ? 'left' : 'right'} side alone`);
  }
  const apart = right.delay - left.delay;
  if (Math.abs(apart) > 0.5) faults.push(`the sides come back ${Math.abs(apart).toFixed(1)} samples apart`);
  const louder = right.gain - left.gain;
  if (Math.abs(louder) > 0.5) {
    faults.push(`the ${louder > 0 ? 'right' : 'left'} side is ${Math.abs(louder).toFixed(1)} dB louder`);
  }
  return faults;
}

const TURNED = 'the polarity is turned';

function peakOf(x: Samples): number {
  let top = 0;
  for (let i = 0; i < x.length; i++) top = Math.max(top, Math.abs(x[i]));
  return top;
}

function isSame(a: Samples, b: Samples): boolean {
  if (a.length !== b.length) return false;
  for (let i = 0; i < a.length; i++) if (Math.abs(a[i] - b[i]) > 1e-6) return false;
  return true;
}

/** @param share of the played length that an arrival may be late by */
function measureOne(played: Samples, recorded: Samples, sampleRate: number, share = 1): LoopFigures {
  const clipped = isClipped(recorded);
  const nothing = (): LoopFigures => ({ ...NOTHING, clipped, faults: ['nothing came back'] });
  if (peakOf(recorded) < 1e-6) return nothing();
  const t = transferOf(played, recorded);
  const pointed = impulseOf(t, smooth(t));
  const growth = growthOf(played, sampleRate);
  const found = arrivalsIn(pointed, Math.floor(share * played.length), growth);
  if (!found) return nothing();
  const { first, loudest } = found;
  const { at: delay, value } = refine(pointed, first);
  const response = impulseOf(t, whole(t));
  const gate = gateOf(pointed, first, sampleRate);
  const heard = cut(response, first, Math.min(gate.before, 240), nextArrival(pointed, first, sampleRate));
  const all = cut(response, first, gate.before, gate.behind);
  const { noise, hum, moves } = restOf(played, recorded, all, first - gate.before, delay, sampleRate);
  const gain = passband(heard, sampleRate);
  const figures: LoopFigures = {
    delay,
    gain,
    polarity: value < 0 ? -1 : 1,
    swapped: false,
    noise,
    hum,
    clipped,
    distortion: growth === null ? -200 : harmonics(pointed, loudest, growth),
    response: responseOf(all, sampleRate),
    faults: [],
  };
  const echo = loudest - first > sampleRate / 1000 && Math.abs(pointed[loudest]) > 1.06 * Math.abs(value);
  return { ...figures, faults: faultsOf(figures, echo ? loudest - delay : null, moves) };
}

/** Whole dB with a true minus sign. */
const signed = (level: number): string => level.toFixed(0).replace('-', '−');

/** Gain and response alone, of a loop that is known to be sound; much quicker than the whole measure. */
export function responseTo(
  played: Samples,
  recorded: Samples,
  sampleRate: number,
): Pick<LoopFigures, 'gain' | 'response'> {
  const t = transferOf(played, recorded);
  const pointed = impulseOf(t, smooth(t));
  let first = 0;
  for (let i = 0; i < pointed.length / 2; i++) if (Math.abs(pointed[i]) > Math.abs(pointed[first])) first = i;
  const h = cut(impulseOf(t, whole(t)), first, Math.round(0.02 * sampleRate), Math.round(0.05 * sampleRate));
  return { gain: passband(h, sampleRate), response: responseOf(h, sampleRate) };
}

function faultsOf(x: LoopFigures, echo: number | null, moves: number): string[] {
  const faults: string[] = [];
  if (x.polarity < 0) faults.push(TURNED);
  if (x.clipped) faults.push('it clipped: peaks are cut off flat');
  for (const f of [50, 60] as const) {
    if (x.hum[f] > HUMS) faults.push(`hum at ${f} Hz (${signed(x.hum[f])} dBFS)`);
  }
  if (x.noise > NOISY) faults.push(`noise at ${signed(x.noise)} dBFS`);
  if (echo !== null) faults.push(`an echo ${echo.toFixed(0)} samples later is louder than the first arrival`);
  if (moves > STEADY) {
    faults.push(`the gain follows the level: it moves by ${moves.toFixed(1)} dB (a compressor pumps)`);
  }
  if (x.distortion > DISTORTS) faults.push(`harmonics at ${signed(x.distortion)} dB: it distorts`);
  return faults;
}

/** A good part of the loud samples stands still at the very top: peaks that were cut off flat. */
function isClipped(x: Samples): boolean {
  const top = peakOf(x);
  if (top < 0.05) return false;
  let [loud, flat] = [0, 0];
  for (let i = 2; i < x.length; i++) {
    const size = Math.abs(x[i]);
    if (size < 0.5 * top) continue;
    loud++;
    const still = Math.abs(x[i] - x[i - 1]) < 1e-6 && Math.abs(x[i] - x[i - 2]) < 1e-6;
    if (still && size > top * (1 - 1e-4)) flat++;
  }
  // the slow sines at the beginning of a sweep stand still for a moment too
  return flat > 0.005 * loud;
}

/** Of our own signal: how early its harmonics come; null for any other. */
function growthOf(played: Samples, sampleRate: number): number | null {
  const own = sweepSignal(sampleRate, played.length / sampleRate);
  const half = played.length >> 1;
  const ownHalf = sweepSignal(sampleRate, half / sampleRate);
  const like = (x: Float32Array, from: number) => {
    for (let i = 0; i < x.length; i += 7) if (Math.abs(x[i] - (played[from + i] ?? 0)) > 1e-4) return false;
    return true;
  };
  if (like(own, 0)) return sweepParts(sampleRate, own.length).loud.growth;
  if (like(ownHalf, 0) || like(ownHalf, half)) return sweepParts(sampleRate, half).loud.growth;
  return null;
}

/** The first arrival and the loudest one; null where nothing stands out. */
function arrivalsIn(
  h: Float64Array,
  most: number,
  growth: number | null,
): { first: number; loudest: number } | null {
  const last = Math.min(most, h.length - 2);
  let loudest = 0;
  let power = 0;
  for (let i = 0; i <= last; i++) {
    if (Math.abs(h[i]) > Math.abs(h[loudest])) loudest = i;
    power += h[i] * h[i];
  }
  const top = Math.abs(h[loudest]);
  // the largest of so many samples of noise, divided by a sweep, is up to 8 times their RMS
  if (top < 9 * Math.sqrt(power / (last + 1))) return null;
  // of another side's signal there is much more at a time when this one was not played
  if (h.some((x) => Math.abs(x) > 3 * top)) return null;
  // what a loop distorts comes back early, as if it were an arrival of its own
  const isHarmonic = (i: number) =>
    growth !== null &&
    [2, 3, 4, 5, 6, 7, 8].some((k) => Math.abs(loudest - growth * Math.log(k) - i) < 0.02 * growth);
  for (let i = 1; i < loudest - 3; i++) {
    const x = Math.abs(h[i]);
    if (x < ARRIVAL * top || x < Math.abs(h[i - 1]) || x < Math.abs(h[i + 1]) || isHarmonic(i)) continue;
    return { first: i, loudest };
  }
  return { first: loudest, loudest };
}

/** Samples until something else arrives that would be taken into the gain, at most 20 ms. */
function nextArrival(h: Float64Array, first: number, sampleRate: number): number {
  const most = Math.round(0.02 * sampleRate);
  for (let i = 24; i < most; i++) {
    if (Math.abs(h[first + i] ?? 0) > 0.5 * ARRIVAL * Math.abs(h[first])) return Math.max(20, i - 8);
  }
  return most;
}

/** How far a response reaches before and behind its first arrival until only noise is left of it. */
function gateOf(h: Float64Array, first: number, sampleRate: number): { before: number; behind: number } {
  const step = Math.round(sampleRate / 200);
  const energy = (from: number) => {
    let sum = 0;
    for (let i = 0; i < step; i++) sum += (h[(from + i + h.length) % h.length] ?? 0) ** 2;
    return sum;
  };
  const most = Math.min(Math.round(0.6 * sampleRate), h.length >> 2);
  const floor = Math.min(energy(first + most), energy(first + most - step), energy(first + most - 2 * step));
  let behind = 4 * step;
  for (let at = most - step; at > behind; at -= step) {
    if (energy(first + at) > 4 * floor + 1e-14) {
      behind = at + step;
      break;
    }
  }
  return { before: Math.round(0.05 * sampleRate), behind };
}

/** A piece of a response about a sample, with soft edges. */
function cut(h: Float64Array, about: number, before: number, behind: number): Float64Array {
  const n = before + behind;
  const edge = Math.max(4, Math.min(before, behind) >> 2);
  return Float64Array.from({ length: n }, (_, i) => {
    const near = Math.min(1, (i + 1) / edge, (n - i) / edge);
    const shape = 0.5 - 0.5 * Math.cos(Math.PI * near);
    return shape * h[(about - before + i + h.length) % h.length];
  });
}

/** dB in the middle of the band. */
function passband(h: Float64Array, sampleRate: number): number {
  const list = Array.from({ length: 91 }, (_, i) => 500 * 10 ** (i / 90));
  const levels = levelsOf(
    h,
    sampleRate,
    list.map((f) => Math.min(f, 0.3 * sampleRate)),
  );
  const power = levels.reduce((sum, x) => sum + 10 ** (x / 10), 0) / levels.length;
  return 10 * Math.log10(power);
}

/** Level over frequency in sixths of an octave, against 1 kHz. */
function responseOf(h: Float64Array, sampleRate: number): [number, number][] {
  const list: number[] = [];
  for (let f = 25; f < Math.min(20000, 0.44 * sampleRate); f *= 2 ** (1 / 6)) {
    list.push(Math.round(f * 10) / 10);
  }
  const [middle] = levelsOf(h, sampleRate, [1000]);
  return levelsOf(h, sampleRate, list).map((x, i) => [list[i], Math.round((x - middle) * 100) / 100]);
}

/** Energy of the second to fifth harmonic against the fundamental, dB; each lies L·ln k before the arrival. */
function harmonics(h: Float64Array, at: number, growth: number): number {
  const width = Math.max(8, Math.round(0.06 * growth));
  const energy = (about: number) => {
    let sum = 0;
    for (let i = -width; i <= width; i++) sum += h[(Math.round(about) + i + h.length) % h.length] ** 2;
    return sum;
  };
  const all = [2, 3, 4, 5].reduce((sum, k) => sum + energy(at - growth * Math.log(k)), 0);
  return Math.max(-200, 10 * Math.log10((all + 1e-30) / (energy(at) + 1e-30)));
}

/**
 * Noise, hum, and by how many dB the gain moves while it is measured. Noise and hum are listened for where nothing
 * was played, with and without what the response would still let ring there; the lower one is the noise.
 */
function restOf(
  played: Samples,
  recorded: Samples,
  h: Float64Array,
  start: number,
  delay: number,
  sampleRate: number,
): { noise: number; hum: { 50: number; 60: number }; moves: number } {
  const told = through(played, h, start, recorded.length);
  const rest = new Float64Array(recorded.length);
  for (let i = 0; i < rest.length; i++) rest[i] = recorded[i] - told[i];
  const still = silences(played, Math.round(delay), recorded.length, sampleRate);
  const enough = still.count > 0.15 * sampleRate;
  const listen = (i: number) => !enough || still.at[i] === 1;
  const floorOf = (x: Samples) => {
    const hum = humOf(x, sampleRate, listen);
    const sines = humSignal(hum, x.length, sampleRate);
    let [power, count] = [0, 0];
    for (let i = 0; i < x.length; i++) {
      if (!listen(i)) continue;
      power += (x[i] - sines[i]) ** 2;
      count++;
    }
    return { noise: db(Math.sqrt(power / Math.max(1, count))), hum: hum.levels };
  };
  const [bare, explained] = [enough ? floorOf(recorded) : null, floorOf(rest)];
  // what the response explains is taken off only where something rings on; elsewhere it would explain noise too
  const floor = bare && bare.noise < explained.noise + 6 ? bare : explained;
  return { ...floor, moves: movesOf(recorded, told, floor.noise, sampleRate) };
}

/** Samples at which nothing of what was played can be heard directly. */
function silences(
  played: Samples,
  delay: number,
  length: number,
  sampleRate: number,
): { at: Uint8Array; count: number } {
  const margin = Math.round(0.012 * sampleRate);
  const until = new Int32Array(length);
  let lastHeard = -Infinity;
  const out = new Uint8Array(length);
  let count = 0;
  for (let i = 0; i < length; i++) {
    const at = i - delay;
    if (at >= 0 && at < played.length && Math.abs(played[at]) > 1e-6) lastHeard = i;
    until[i] = Math.min(2 ** 30, i - lastHeard);
  }
  let nextHeard = Infinity;
  for (let i = length - 1; i >= 0; i--) {
    if (until[i] === 0) nextHeard = i;
    if (until[i] <= margin || nextHeard - i <= margin / 4) continue;
    out[i] = 1;
    count++;
  }
  return { at: out, count };
}

/** dB between the lowest and the highest gain in stretches of 20 ms that are well above the noise. */
function movesOf(recorded: Samples, told: Float64Array, noise: number, sampleRate: number): number {
  const step = Math.round(0.02 * sampleRate);
  const gains: number[] = [];
  const floor = 10 ** (noise / 20) * 8 + 1e-4;
  for (let at = 0; at + step <= told.length; at += step) {
    let [a, b] = [0, 0];
    for (let i = at; i < at + step; i++) {
      a += recorded[i] ** 2;
      b += told[i] ** 2;
    }
    const [x, y] = [Math.sqrt(a / step), Math.sqrt(b / step)];
    if (x > floor && y > floor) gains.push(db(x / y));
  }
  if (gains.length < 6) return 0;
  gains.sort((a, b) => a - b);
  return gains[Math.floor(gains.length * 0.88)] - gains[Math.floor(gains.length * 0.12)];
}
