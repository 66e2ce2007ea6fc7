import { DEVICE_TYPES } from '../devices/index.ts';
import { multiply } from '../devices/biquad.ts';
import type { Slot } from '../model/types.ts';

/**
 * Magnitude in dB of a chain's linear devices at the given frequencies (Hz), computed from their own transfer functions. Devices without one (dynamics, delay,
 * reverb) count as passing; bypassed and inactive ones too.
 */
export function responseCurve(chain: Slot[], frequencies: ArrayLike<number>, sampleRate: number): Float64Array {
  const out = new Float64Array(frequencies.length);
  for (let i = 0; i < out.length; i++) {
    let h: [number, number] = [1, 0];
    for (const d of chain) {
      const r = d.state === 'on' ? DEVICE_TYPES[d.type].response : undefined;
      if (r) h = multiply(h, r(d.params, frequencies[i], sampleRate));
    }
    out[i] = 20 * Math.log10(Math.max(1e-9, Math.hypot(h[0], h[1])));
  }
  return out;
}

/** n frequencies from `low` to `high` Hz, evenly spaced in octaves. */
export const logFrequencies = (n: number, low = 20, high = 20000): Float64Array => Float64Array.from({ length: n }, (_, i) => low * Math.pow(high / low, i / (n - 1)));
