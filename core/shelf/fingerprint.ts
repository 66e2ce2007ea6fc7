import FFT from 'fft.js';
import { DEVICE_TYPES, newestRevision, revisionOf } from '../devices/index.ts';
import { aloneMedia, presetSession } from '../drop/nulltest.ts';
import { render } from '../engine/render.ts';
import type { Sound } from '../engine/sound.ts';
import { measureLoudness } from '../measure/loudness.ts';
import type { Fingerprint } from '../model/fingerprint.ts';
import type { Preset, Session } from '../model/types.ts';
import { devicesIn } from '../session/slots.ts';
import { TEST_SECONDS, TEST_SOUND, testSound } from './test-sound.ts';

// taken out of the global object once: a look-up per sample is slow in sandboxed test runs
const { abs, log10, max, min, round } = Math;

/** Stretches of time that a sound is looked at in, and signed sums over each. */
export const STRETCHES = 12;
export const SUMS = 8;
/** Frames of the picture over time. */
export const FRAMES = 8;
/** Third-octave bands from 20 Hz to 20 kHz (IEC 61260-1: base ten), Hz. */
export const BANDS = Array.from({ length: 31 }, (_, i) => 1000 * Math.exp((Math.LN10 * (i - 17)) / 10));
/** Hz that are tested at, whatever the preset was saved at: devices may work otherwise at other rates */
const LEAST_RATE = 44100;
const MOST_RATE = 96000;
/** dB under which a band is silent */
export const SILENT = -120;

export interface SoundOptions {
  signal?: AbortSignal;
  block?: number;
  /** what its devices play with, by media id, at a rate (Hz) */
  sounds?(sampleRate: number): ReadonlyMap<string, Sound>;
}

/** Renders a preset's lines with the test sound; as the session that it was saved from had it, or 44.1 to 96 kHz. */
export async function soundOfPreset(
  preset: Preset,
  options: SoundOptions = {},
): Promise<{ l: Float32Array; r: Float32Array; sampleRate: number }> {
  const sampleRate = max(LEAST_RATE, min(MOST_RATE, preset.reference.sampleRate));
  const sound = testSound(sampleRate);
  const sounds = new Map([...(options.sounds?.(sampleRate) ?? []), [aloneMedia, sound] as const]);
  const alone: Session = presetSession(preset, sampleRate, TEST_SECONDS);
  const media = {
    id: aloneMedia,
    name: 'test sound',
    sampleRate,
    channels: 2 as const,
    frames: sound.l.length,
  };
  const { master } = await render(
    { ...alone, media: [...alone.media, media] },
    { signal: options.signal, blockSize: options.block, sounds, to: TEST_SECONDS },
  );
  return { l: master[0], r: master[1], sampleRate };
}

/**
 * What a preset sounds like, in under 4 KB: loudness, peak, third-octave levels over time, and sums of its samples with
 * signs by chance, stretch by stretch. Two sounds that differ by d have sums that differ by d·√n: so the level of a
 * difference is known without the sound, down to the rounding of the samples, and what rounding itself changes (other
 * kernels, other blocks) stays as small as it is. A hash of rounded samples, in its place, would change with the last bit of any
 * of them.
 * Source: signed random projections keep distances (W. B. Johnson, J. Lindenstrauss, 1984; D. Achlioptas, 2003; from
 * memory).
 */
export async function makeFingerprint(preset: Preset, options: SoundOptions = {}): Promise<Fingerprint> {
  const { l, r, sampleRate } = await soundOfPreset(preset, options);
  return fingerprintOf(l, r, sampleRate, soundsOf(preset));
}

/** Which revision of its sound each type of device was set with. */
function soundsOf(preset: Preset): Record<string, number> {
  const devices = preset.content.tracks.flatMap((t) => devicesIn(t.chain));
  const known = devices.filter((d) => DEVICE_TYPES[d.type]);
  return Object.fromEntries(known.map((d) => [d.type, min(revisionOf(d), newestRevision(d.type))]));
}

/** The same of a sound that is there. */
export function fingerprintOf(
  l: Float32Array,
  r: Float32Array,
  sampleRate: number,
  sounds: Record<string, number> = {},
): Fingerprint {
  return {
    sound: TEST_SOUND,
    sampleRate,
    frames: l.length,
    loudness: rounded(loudnessOf(l, r, sampleRate)),
    peak: rounded(peakOf(l, r)),
    bands: packed(levelsOf(l, r, sampleRate)),
    sums: sumsOf(l, r),
    sounds,
  };
}

const rounded = (v: number) => round(max(SILENT, v) * 100) / 100;

function loudnessOf(l: Float32Array, r: Float32Array, sampleRate: number): number {
  const { integrated } = measureLoudness([l, r], sampleRate);
  return Number.isFinite(integrated) ? integrated : SILENT;
}
function peakOf(l: Float32Array, r: Float32Array): number {
  let top = 1e-9;
  for (let i = 0; i < l.length; i++) top = max(top, abs(l[i]), abs(r[i]));
  return 20 * log10(top);
}

/** Signed sums, eight for each stretch: the signs are the bits of a row of numbers (G. Marsaglia, Xorshift, 2003). */
function sumsOf(l: Float32Array, r: Float32Array): number[] {
  const out = new Array<number>(STRETCHES * SUMS).fill(0);
  const length = Math.ceil(l.length / STRETCHES);
  let x = 0x2545f491;
  for (let s = 0; s < STRETCHES; s++) {
    const sums = new Float64Array(SUMS);
    const end = min(l.length, (s + 1) * length);
    for (let i = s * length; i < end; i++) {
      x ^= x << 13;
      x ^= x >>> 17;
      x ^= x << 5;
      for (let k = 0; k < SUMS; k++) {
        sums[k] += (x >>> k) & 1 ? l[i] : -l[i];
        sums[k] += (x >>> (k + SUMS)) & 1 ? r[i] : -r[i];
      }
    }
    sums.forEach((v, k) => (out[s * SUMS + k] = Number(v.toPrecision(9))));
  }
  return out;
}

/** Level (dB) of each band in each frame. */
function levelsOf(l: Float32Array, r: Float32Array, sampleRate: number): number[] {
  const size = 16384;
  const fft = new FFT(size);
  const window = Float64Array.from(
    { length: size },
    (_, i) => 0.5 - 0.5 * Math.cos((2 * Math.PI * i) / size),
  );
  const out: number[] = [];
  for (let f = 0; f < FRAMES; f++) {
    const middle = round(((f + 0.5) / FRAMES) * l.length);
    const power = new Float64Array(size / 2);
    for (const side of [l, r]) {
      const x = Array.from(window, (w, i) => w * (side[middle - size / 2 + i] ?? 0));
      const y = fft.createComplexArray();
      fft.realTransform(y, x);
      for (let k = 0; k < size / 2; k++) power[k] += y[2 * k] * y[2 * k] + y[2 * k + 1] * y[2 * k + 1];
    }
    for (const band of BANDS) out.push(bandLevel(power, band, sampleRate / size, size));
  }
  return out;
}

/** dB of what lies between the edges of a third of an octave, at least of the nearest line; 0 for a sine at full scale. */
function bandLevel(power: Float64Array, band: number, width: number, size: number): number {
  const edge = Math.exp(Math.LN10 / 20);
  const first = max(1, round(band / edge / width));
  const last = min(power.length - 1, max(first, round((band * edge) / width) - 1));
  let sum = 0;
  for (let k = first; k <= last; k++) sum += power[k];
  // a Hann window's energy is 3/8 of the square's
  return 10 * log10((4 * sum) / (2 * size * size * 0.375) + 1e-30);
}

const DIGITS = '0123456789ABCDEFGHIJKLMNOPQRSTUVWXYZabcdefghijklmnopqrstuvwxyz-_';
/** Levels in tenths of a dB from −160 on, two digits each. */
export const packed = (levels: number[]): string =>
  levels
    .map((v) => {
      const n = round((max(-160, min(240, v)) + 160) * 10);
      return DIGITS[n >> 6] + DIGITS[n & 63];
    })
    .join('');
export const unpacked = (text: string): number[] =>
  Array.from({ length: text.length / 2 }, (_, i) => {
    const n = DIGITS.indexOf(text[2 * i]) * 64 + DIGITS.indexOf(text[2 * i + 1]);
    return n / 10 - 160;
  });
