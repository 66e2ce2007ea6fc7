import type { Sound } from '../engine/sound.ts';

// taken out of the global object once: a look-up per sample is slow in sandboxed test runs
const { PI, exp, floor, imul, round, sin } = Math;

/** s; the last stretch is silent, for what rings on */
export const TEST_SECONDS = 3;

/**
 * The sound that fingerprints are made with: noise that is nearly silent, a sung note that glides, a sweep, bursts from
 * −36 to +3 dBFS, silence. It moves every device, at every rate the same song in time. Its number is kept with each
 * fingerprint: another sound would be another number.
 */
export const TEST_SOUND = 1;

const made = new Map<number, Sound>();
export function testSound(sampleRate: number): Sound {
  const known = made.get(sampleRate);
  if (known) return known;
  const sound = makeSound(sampleRate);
  made.set(sampleRate, sound);
  return sound;
}

function makeSound(sampleRate: number): Sound {
  const n = round(sampleRate * TEST_SECONDS);
  const out = { l: new Float32Array(n), r: new Float32Array(n) };
  const noise = [noiseFrom(0x1234567), noiseFrom(0x89abcde)];
  let sweep = 0;
  let note = 0;
  for (let i = 0; i < n; i++) {
    const t = i / sampleRate;
    note += glided(t) / sampleRate;
    sweep += swept(t) / sampleRate;
    const level = noiseLevel(t);
    const sung = sings(t) ? 0.3 * vowel(note) : 0;
    const tone = sweeps(t) ? 0.25 : 0;
    out.l[i] = level * noise[0]() + sung + tone * sin(2 * PI * sweep);
    out.r[i] = level * noise[1]() + 0.8 * sung + tone * sin(2 * PI * sweep + 0.4);
  }
  return out;
}

/** Numbers from −1 to 1, the same everywhere (D. E. Knuth's multiplier, as many libraries have it). */
function noiseFrom(seed: number): () => number {
  let s = seed;
  return () => {
    s = (imul(s, 1664525) + 1013904223) >>> 0;
    return s / 2147483648 - 1;
  };
}

const sings = (t: number) => t >= 0.2 && t < 0.7;
/** Hz: a fifth of a tone under one note, gliding to a fifth of a tone over the next. */
const glided = (t: number) => (sings(t) ? 210 + 90 * (t - 0.2) : 0);
/** Twelve harmonics, falling by 6 dB an octave. */
function vowel(phase: number): number {
  let sum = 0;
  for (let k = 1; k <= 12; k++) sum += sin(2 * PI * k * (phase % 1)) / k;
  return 0.6 * sum;
}

const sweeps = (t: number) => t >= 0.7 && t < 1.5;
/** Hz, ten octaves in 0.8 s */
const swept = (t: number) => (sweeps(t) ? 20 * exp((Math.LN2 * 10 * (t - 0.7)) / 0.8) : 0);

/** Level of the noise: −60 dBFS at first, then a burst of 50 ms each 125 ms, 3.3 dB louder each time. */
function noiseLevel(t: number): number {
  if (t < 0.2) return 0.001;
  if (t < 0.7 || t >= 2.3) return 0;
  const k = floor((t - 0.7) / 0.125);
  const inside = t - 0.7 - k * 0.125 < 0.05;
  return inside ? exp((Math.LN10 * (-36 + 3.25 * k)) / 20) : 0;
}
