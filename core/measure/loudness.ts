import { kWeighting } from '../devices/live-meter.ts';
import { settled } from '../devices/math.ts';
import { truePeak } from './truepeak.ts';

export { kWeighting };

export interface Loudness {
  /** LUFS; −Infinity for silence */
  integrated: number;
  shortTermMax: number;
  momentaryMax: number;
  /** LU */
  range: number;
  /** dBTP */
  truePeak: number;
}

/**
 * Loudness after ITU-R BS.1770-5 (K-weighting, 400 ms blocks with 75 % overlap, gates at −70 LUFS and −10 LU)
 * and EBU Tech 3342 (range: 3 s blocks each 100 ms, gates at −70 LUFS
 * and −20 LU, 10th to 95th percentile), with the true peak of 4 times oversampling.
 * @param channels one or two channels of samples, full scale 1
 */
export function measureLoudness(channels: Float32Array[], sampleRate: number): Loudness {
  const heard = channels.map(finite);
  const parts = hundredths(heard, sampleRate);
  const tenths = joined(parts, 10);
  const shortTerm = windows(tenths, 30);
  return {
    integrated: gated(windows(tenths, 4), -10).loudness,
    shortTermMax: lufs(largest(shortTerm)),
    momentaryMax: lufs(largest(windows(parts, 40))),
    range: loudnessRange(shortTerm),
    truePeak: truePeak(heard, sampleRate),
  };
}

/** Integrated loudness alone, for matching levels: LUFS. */
export const integratedLoudness = (channels: Float32Array[], sampleRate: number): number =>
  gated(windows(joined(hundredths(channels.map(finite), sampleRate), 10), 4), -10).loudness;

const lufs = (power: number) => (power > 0 ? -0.691 + 10 * Math.log10(power) : -Infinity);

/** The samples with silence where there is no finite number: one of them would stay in the filters for ever. */
function finite(x: Float32Array): Float32Array {
  let sum = 0;
  for (let i = 0; i < x.length; i++) sum += x[i] * 0;
  return sum === 0 ? x : x.map((v) => (Number.isFinite(v) ? v : 0));
}

/**
 * Sum over channels of the K-weighted power in each 10 ms. Momentary loudness moves on by these: by 100 ms it
 * would miss up to 0.45 LU of a burst that begins between two steps (EBU Tech 3341, case 13, wants ±0.1).
 */
function hundredths(channels: Float32Array[], fs: number): Float64Array {
  const step = Math.round(fs / 100);
  const count = Math.floor((channels[0]?.length ?? 0) / step);
  const out = new Float64Array(count);
  const w = kWeighting(fs);
  // two sides in one loop: each waits for its own last value only
  for (let c = 0; c < channels.length; c += 2) weigh(channels[c], channels[c + 1] ?? null, out, step, w);
  for (let i = 0; i < count; i++) out[i] /= step;
  return out;
}

/** Mean power of each n parts in turn. */
function joined(parts: Float64Array, n: number): Float64Array {
  const out = new Float64Array(Math.floor(parts.length / n));
  for (let i = 0; i < out.length; i++) {
    let sum = 0;
    for (let k = 0; k < n; k++) sum += parts[i * n + k];
    out[i] = sum / n;
  }
  return out;
}

const largest = (values: Float64Array): number => values.reduce((a, b) => Math.max(a, b), 0);

function weigh(
  l: Float32Array,
  r: Float32Array | null,
  out: Float64Array,
  step: number,
  [[b0, b1, b2, a1, a2], [, , , e1, e2]]: [number, number, number, number, number][],
): void {
  let s1 = 0;
  let s2 = 0;
  let p1 = 0;
  let p2 = 0;
  let t1 = 0;
  let t2 = 0;
  let q1 = 0;
  let q2 = 0;
  const other = r ?? l;
  for (let k = 0; k < out.length; k++) {
    let sum = 0;
    let more = 0;
    for (let i = k * step, end = i + step; i < end; i++) {
      const v = l[i];
      const u = other[i];
      const y = b0 * v + s1;
      const x = b0 * u + t1;
      s1 = b1 * v - a1 * y + s2;
      t1 = b1 * u - a1 * x + t2;
      s2 = b2 * v - a2 * y;
      t2 = b2 * u - a2 * x;
      const z = y + p1;
      const w = x + q1;
      p1 = -2 * y - e1 * z + p2;
      q1 = -2 * x - e1 * w + q2;
      p2 = y - e2 * z;
      q2 = x - e2 * w;
      sum += z * z;
      more += w * w;
    }
    s1 = settled(s1);
    s2 = settled(s2);
    p1 = settled(p1);
    p2 = settled(p2);
    t1 = settled(t1);
    t2 = settled(t2);
    q1 = settled(q1);
    q2 = settled(q2);
    out[k] += r ? sum + more : sum;
  }
}

/** Mean power of every run of n parts, moving on by one. */
function windows(parts: Float64Array, n: number): Float64Array {
  const out = new Float64Array(Math.max(0, parts.length - n + 1));
  for (let i = 0; i < out.length; i++) {
    let sum = 0;
    for (let k = 0; k < n; k++) sum += parts[i + k];
    out[i] = sum / n;
  }
  return out;
}

function gated(blocks: Float64Array, relative: number): { loudness: number; kept: Float64Array } {
  const loud = blocks.filter((p) => lufs(p) > -70);
  if (loud.length === 0) return { loudness: -Infinity, kept: loud };
  const gate = lufs(mean(loud)) + relative;
  const kept = loud.filter((p) => lufs(p) > gate);
  return { loudness: lufs(mean(kept)), kept };
}

const mean = (v: Float64Array) => v.reduce((a, b) => a + b, 0) / v.length;

function loudnessRange(shortTerm: Float64Array): number {
  const levels = gated(shortTerm, -20).kept.map(lufs).sort();
  if (levels.length < 2) return 0;
  const at = (share: number) => levels[Math.round((levels.length - 1) * share)];
  return at(0.95) - at(0.1);
}
