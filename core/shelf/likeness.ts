import type { Fingerprint, Likeness } from '../model/fingerprint.ts';
import { BANDS, FRAMES, SILENT, STRETCHES, SUMS, unpacked } from './fingerprint.ts';

/**
 * dBFS of a difference that counts as none: what other kernels, blocks and machines leave is under −150, the smallest
 * step of a value over −100.
 */
const NOTHING = -115;
/** dB by which a band's level has to change to be named */
const NAMED = 0.5;
const LEAST = -300;

const decibels = (power: number) => Math.max(LEAST, 10 * Math.log10(power + 1e-32));

/** Compares what a preset sounded like when it was saved with what it sounds like now. */
export function likenessOf(then: Fingerprint, now: Fingerprint): Likeness {
  const sounds = changedSounds(then, now);
  const isSame = then.sound === now.sound && then.sampleRate === now.sampleRate && then.frames === now.frames;
  if (!isSame || then.sums.length !== now.sums.length || then.bands.length !== now.bands.length) {
    const why = 'It was measured in another way then. Save it again to measure it in today’s.';
    return { verdict: 'unknown', difference: 0, louder: 0, higher: 0, bands: [], at: 0, sounds, why };
  }
  const stretches = Array.from({ length: STRETCHES }, (_, s) => stretchPower(then, now, s));
  const mean = stretches.reduce((a, b) => a + b, 0) / STRETCHES;
  const most = Math.max(...stretches);
  return {
    verdict: decibels(most) < NOTHING ? 'equal' : 'different',
    difference: decibels(mean) - levelOf(then),
    louder: now.loudness - then.loudness,
    higher: now.peak - then.peak,
    bands: changedBands(then, now),
    at: ((stretches.indexOf(most) + 0.5) / STRETCHES) * (then.frames / then.sampleRate),
    sounds,
  };
}

/** Power of the difference in a stretch: the mean square of its sums’ differences over what went into each. */
function stretchPower(then: Fingerprint, now: Fingerprint, s: number): number {
  let sum = 0;
  for (let k = 0; k < SUMS; k++) {
    const d = now.sums[s * SUMS + k] - then.sums[s * SUMS + k];
    sum += d * d;
  }
  const samples = (2 * then.frames) / STRETCHES;
  return sum / SUMS / samples;
}

/** dBFS of the sound, by its own sums. */
function levelOf(then: Fingerprint): number {
  const power = then.sums.reduce((sum, v) => sum + v * v, 0) / SUMS / (2 * then.frames);
  return decibels(power);
}

/** Bands whose level over the whole sound changed; those that are silent both times are left out. */
function changedBands(then: Fingerprint, now: Fingerprint): Likeness['bands'] {
  const [a, b] = [overall(then), overall(now)];
  return BANDS.map((band, i) => ({ band, by: Math.round((b[i] - a[i]) * 10) / 10 }))
    .filter(({ by }, i) => Math.abs(by) >= NAMED && Math.max(a[i], b[i]) > SILENT + 20)
    .sort((p, q) => Math.abs(q.by) - Math.abs(p.by));
}
function overall(f: Fingerprint): number[] {
  const levels = unpacked(f.bands);
  return BANDS.map((_, i) => {
    let power = 0;
    for (let k = 0; k < FRAMES; k++) power += Math.exp((Math.LN10 * levels[k * BANDS.length + i]) / 10);
    return Math.max(SILENT, 10 * Math.log10(power / FRAMES));
  });
}

function changedSounds(then: Fingerprint, now: Fingerprint): Likeness['sounds'] {
  return Object.keys(then.sounds)
    .filter((type) => now.sounds[type] !== undefined && now.sounds[type] !== then.sounds[type])
    .map((type) => ({ type, then: then.sounds[type], now: now.sounds[type] }));
}
