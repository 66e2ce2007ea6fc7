import { kWeighting } from '../devices/live-meter.ts';
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
 * Loudness after ITU-R BS.1770-5 (K-weighting, 400 ms blocks with 75 % overlap, gates at −70 LUFS and −10 LU) and EBU Tech 3342 (range: 3 s blocks each 100 ms, gates at −70 LUFS
 * and −20 LU, 10th to 95th percentile), with the true peak of 4 times oversampling.
 * @param channels one or two channels of samples, full scale 1
 */
export function measureLoudness(channels: Float32Array[], sampleRate: number): Loudness {
  const parts = hundredths(channels, sampleRate);
  const momentary = windows(parts, 4);
  const shortTerm = windows(parts, 30);
  return {
    integrated: gated(momentary, -10).loudness,
    shortTermMax: lufs(Math.max(0, ...shortTerm)),
    momentaryMax: lufs(momentary.reduce((a, b) => Math.max(a, b), 0)),
    range: loudnessRange(shortTerm),
    truePeak: truePeak(channels, sampleRate),
  };
}

/** Integrated loudness alone, for matching levels: LUFS. */
export const integratedLoudness = (channels: Float32Array[], sampleRate: number): number => gated(windows(hundredths(channels, sampleRate), 4), -10).loudness;

const lufs = (power: number) => (power > 0 ? -0.691 + 10 * Math.log10(power) : -Infinity);

/** Sum over channels of the K-weighted power in each 100 ms. */
function hundredths(channels: Float32Array[], fs: number): Float64Array {
  const step = Math.round(fs / 10);
  const count = Math.floor((channels[0]?.length ?? 0) / step);
  const out = new Float64Array(count);
  for (const ch of channels) weigh(ch, out, step, kWeighting(fs));
  for (let i = 0; i < count; i++) out[i] /= step;
  return out;
}

function weigh(x: Float32Array, out: Float64Array, step: number, [[b0, b1, b2, a1, a2], [, , , e1, e2]]: [number, number, number, number, number][]): void {
  let s1 = 0, s2 = 0, p1 = 0, p2 = 0;
  for (let k = 0; k < out.length; k++) {
    let sum = 0;
    for (let i = k * step; i < (k + 1) * step; i++) {
      const v = x[i];
      const y = b0 * v + s1;
      s1 = b1 * v - a1 * y + s2;
      s2 = b2 * v - a2 * y;
      const z = y + p1;
      p1 = -2 * y - e1 * z + p2;
      p2 = y - e2 * z;
      sum += z * z;
    }
    if (Math.abs(s1) < 1e-30) s1 = s2 = 0;
    if (Math.abs(p1) < 1e-30) p1 = p2 = 0;
    out[k] += sum;
  }
}

/** Mean power of every run of n tenths, moving on by one. */
function windows(parts: Float64Array, n: number): number[] {
  const out: number[] = [];
  for (let i = 0; i + n <= parts.length; i++) {
    let sum = 0;
    for (let k = 0; k < n; k++) sum += parts[i + k];
    out.push(sum / n);
  }
  return out;
}

function gated(blocks: number[], relative: number): { loudness: number; kept: number[] } {
  const loud = blocks.filter((p) => lufs(p) > -70);
  if (loud.length === 0) return { loudness: -Infinity, kept: [] };
  const gate = lufs(mean(loud)) + relative;
  const kept = loud.filter((p) => lufs(p) > gate);
  return { loudness: lufs(mean(kept)), kept };
}

const mean = (v: number[]) => v.reduce((a, b) => a + b, 0) / v.length;

function loudnessRange(shortTerm: number[]): number {
  const levels = gated(shortTerm, -20).kept.map(lufs).sort((a, b) => a - b);
  if (levels.length < 2) return 0;
  const at = (share: number) => levels[Math.round((levels.length - 1) * share)];
  return at(0.95) - at(0.1);
}
