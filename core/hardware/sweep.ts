/**
 * The signal that loops are measured with: two exponential sine sweeps (A. Farina, “Simultaneous measurement of
 * impulse response and distortion with a swept-sine technique”, AES 108th Convention, 2000), a quiet short one and a
 * loud long one, with silence before, between and behind. The quiet one shows a gain that follows the level, the
 * silences show noise and hum.
 */

/** Hz where the sweeps begin. */
const LOW = 20;
/** full scale = 1 */
const LOUD = 0.5;
const QUIET = LOUD * 10 ** (-26 / 20);

export interface SweepPart {
  /** samples from the beginning */
  from: number;
  length: number;
  amplitude: number;
  /** samples in which the frequency grows e-fold: a harmonic k comes L·ln k samples early */
  growth: number;
}

/** Hz where the sweeps end. */
const highOf = (sampleRate: number): number => Math.min(20000, 0.45 * sampleRate);

/** Where the two sweeps lie in a signal of so many samples. */
export function sweepParts(sampleRate: number, samples: number): { quiet: SweepPart; loud: SweepPart } {
  const part = (from: number, length: number, amplitude: number): SweepPart => {
    const growth = length / Math.log(highOf(sampleRate) / LOW);
    return { from: Math.round(from * samples), length: Math.round(length), amplitude, growth };
  };
  return { quiet: part(0.03, 0.2 * samples, QUIET), loud: part(0.27, 0.58 * samples, LOUD) };
}

/**
 * The measuring signal.
 * @param sampleRate Hz
 * @param seconds its length; 1 to 3 are usual
 * @returns samples between −0.5 and 0.5
 */
export function sweepSignal(sampleRate: number, seconds: number): Float32Array {
  const out = new Float32Array(Math.max(0, Math.round(sampleRate * seconds)));
  const { quiet, loud } = sweepParts(sampleRate, out.length);
  for (const { from, length, amplitude, growth } of [quiet, loud]) {
    const turn = (2 * Math.PI * LOW * growth) / sampleRate;
    const [fadeIn, fadeOut] = [0.03 * length, 0.006 * length];
    for (let i = 0; i < length && from + i < out.length; i++) {
      const edge = Math.min(1, i / fadeIn, (length - 1 - i) / fadeOut);
      const shape = 0.5 - 0.5 * Math.cos(Math.PI * edge);
      out[from + i] = amplitude * shape * Math.sin(turn * (Math.exp(i / growth) - 1));
    }
  }
  return out;
}

/** The same for both sides after each other, left first, so that swapped sides show. */
export function stereoSweep(sampleRate: number, seconds: number): [Float32Array, Float32Array] {
  const one = sweepSignal(sampleRate, seconds / 2);
  const [l, r] = [new Float32Array(2 * one.length), new Float32Array(2 * one.length)];
  l.set(one, 0);
  r.set(one, one.length);
  return [l, r];
}
