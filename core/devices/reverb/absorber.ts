import { cookbook, sectionAt, type Section } from '../biquad.ts';
import { tenTo } from '../../model/power.ts';

/** dB by which one pass through a line dulls at most: more would reach down to 1 kHz. */
const DULLEST = -20;

/**
 * Absorbing filter of a line of `samples` so that a decay takes `decay` s at 1 kHz whatever the damping (0…1),
 * and down to a tenth of that at 8 kHz. Jot's condition: 20·log10|H(f)| = −60·samples/(fs·T60(f)). A high shelf
 * of second order about 4 kHz leaves what lies under 1 kHz alone; its gain is sought so that 8 kHz loses what
 * it should against 1 kHz, then the whole is set by 1 kHz.
 */
export function absorber(samples: number, decay: number, damping: number, fs: number): Section {
  const loss = (seconds: number) => (-60 * samples) / (fs * seconds);
  const duller = Math.max(DULLEST, loss(decay * (1 - 0.9 * damping)) - loss(decay));
  const high = Math.min(8000, 0.4 * fs);
  const shelf = (gain: number) => cookbook('highShelf', Math.min(4000, 0.2 * fs), gain, Math.SQRT1_2, fs);
  const at = (gain: number, f: number) => 20 * Math.log10(Math.hypot(...sectionAt(shelf(gain), f, fs)));
  let gain = 0;
  if (duller < -1e-6) {
    // the loss at 8 kHz grows with the shelf's gain, and is between a half and all of it
    let [most, least] = [2 * duller, duller];
    for (let i = 0; i < 16; i++) {
      gain = (most + least) / 2;
      if (at(gain, high) - at(gain, 1000) > duller) least = gain;
      else most = gain;
    }
  }
  const [b0, b1, b2, a1, a2] = shelf(gain);
  const g = tenTo((loss(decay) - at(gain, 1000)) / 20);
  return [g * b0, g * b1, g * b2, a1, a2];
}

/** dB by which the longest line dulls at most in one pass: a space answers no faster than its walls stand apart. */
const DULLEST_PASS = -24;

/** What all lines of a network have in common: how fast it decays at 1 kHz, and how much faster above. */
export interface Absorption {
  /** s at 1 kHz */
  decay: number;
  /** gain (dB) of the high shelf of one sample's length */
  shelf: number;
  sampleRate: number;
}

const shelfOf = (gain: number, fs: number): Section =>
  cookbook('highShelf', Math.min(4000, 0.2 * fs), gain, Math.SQRT1_2, fs);
const levelAt = (s: Section, f: number, fs: number) => 20 * Math.log10(Math.hypot(...sectionAt(s, f, fs)));

/**
 * The absorption of a network of lines between `mean` and `longest` samples: its decay at 1 kHz is `decay` s whatever
 * the damping (0 … 1), at 8 kHz as much as a tenth of that. A shelf's dB grow with its gain nearly in proportion, so
 * that lines of any length decay alike with shelves in proportion to them (V. Välimäki and J. Liski, "Accurate cascade
 * graphic equalizer", IEEE Signal Processing Letters 24(2), 2017, build on the same; from memory).
 */
export function absorptionOf(
  mean: number,
  longest: number,
  decay: number,
  damping: number,
  fs: number,
): Absorption {
  const asked = -60 / (decay * (1 - 0.9 * damping)) + 60 / decay;
  const duller = Math.max(asked, (DULLEST_PASS * fs) / longest) * (mean / fs);
  let shelf = 0;
  if (duller < -1e-6) {
    const high = Math.min(8000, 0.4 * fs);
    let [most, least] = [2.5 * duller, duller];
    for (let i = 0; i < 20; i++) {
      shelf = (most + least) / 2;
      const s = shelfOf(shelf, fs);
      if (levelAt(s, high, fs) - levelAt(s, 1000, fs) > duller) least = shelf;
      else most = shelf;
    }
  }
  return { decay, shelf: shelf / mean, sampleRate: fs };
}

/** The absorbing filter of a line of so many samples, by Jot's condition at 1 kHz. */
export function absorberOf(a: Absorption, samples: number): Section {
  const [b0, b1, b2, a1, a2] = shelfOf(a.shelf * samples, a.sampleRate);
  const at = levelAt([b0, b1, b2, a1, a2], 1000, a.sampleRate);
  const g = tenTo(((-60 * samples) / (a.sampleRate * a.decay) - at) / 20);
  return [g * b0, g * b1, g * b2, a1, a2];
}

/** Seconds in which f (Hz) decays by 60 dB, by the filter of a line of so many samples. */
export const decayAt = (a: Absorption, samples: number, f: number): number =>
  (-60 * samples) / (a.sampleRate * levelAt(absorberOf(a, samples), f, a.sampleRate));
