import { playedAs } from '../devices/index.ts';
import { multiply } from '../devices/biquad.ts';
import { strandGains } from '../engine/compile.ts';
import type { Slot } from '../model/types.ts';

/**
 * Magnitude in dB of a chain's linear devices at the given frequencies (Hz), computed from their own transfer
 * functions. Devices without one (dynamics, delay,
 * reverb) count as passing; bypassed and inactive ones too. Strands of a rack add up.
 */
export function responseCurve(
  chain: Slot[],
  frequencies: ArrayLike<number>,
  sampleRate: number,
): Float64Array {
  const out = new Float64Array(frequencies.length);
  for (let i = 0; i < out.length; i++) {
    const h = chainAt(chain, frequencies[i], sampleRate);
    out[i] = 20 * Math.log10(Math.max(1e-9, Math.hypot(h[0], h[1])));
  }
  return out;
}

function chainAt(chain: Slot[], f: number, fs: number): [number, number] {
  let h: [number, number] = [1, 0];
  for (const d of chain) {
    if (d.state !== 'on') continue;
    if (d.kind === 'rack') {
      // strands are lined up in time, so their curves add as they are
      let sum: [number, number] = [0, 0];
      strandGains(d).forEach(([l, r], i) => {
        const x = chainAt(d.strands[i].chain, f, fs);
        sum = [sum[0] + (x[0] * (l + r)) / 2, sum[1] + (x[1] * (l + r)) / 2];
      });
      h = multiply(h, sum);
    } else {
      const r = playedAs(d).response;
      if (r) h = multiply(h, r(d.params, f, fs));
    }
  }
  return h;
}

/** n frequencies from `low` to `high` Hz, evenly spaced in octaves. */
export const logFrequencies = (n: number, low = 20, high = 20000): Float64Array =>
  Float64Array.from({ length: n }, (_, i) => low * Math.pow(high / low, i / (n - 1)));
