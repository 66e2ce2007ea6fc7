/**
 * Reverberation time from an impulse response by backward integration (M. R. Schroeder, 1965; ISO 3382-1):
 * the energy decay curve in dB, and RT60 from the slope of its
 * −5 to −35 dB stretch (T30).
 */
export function decayCurve(impulse: Float32Array): Float64Array {
  const out = new Float64Array(impulse.length);
  let sum = 0;
  for (let i = impulse.length - 1; i >= 0; i--) {
    sum += impulse[i] * impulse[i];
    out[i] = sum;
  }
  const total = out[0] || 1;
  return out.map((v) => 10 * Math.log10(Math.max(v / total, 1e-20)));
}

/** RT60 in seconds. */
export function rt60(impulse: Float32Array, sampleRate: number): number {
  const curve = decayCurve(impulse);
  const from = curve.findIndex((v) => v <= -5);
  const to = curve.findIndex((v) => v <= -35);
  if (from < 0 || to < 0) return NaN;
  let sx = 0;
  let sy = 0;
  let sxx = 0;
  let sxy = 0;
  const n = to - from;
  for (let i = from; i < to; i++) {
    const x = i / sampleRate;
    sx += x;
    sy += curve[i];
    sxx += x * x;
    sxy += x * curve[i];
  }
  return -60 / ((n * sxy - sx * sy) / (n * sxx - sx * sx));
}
