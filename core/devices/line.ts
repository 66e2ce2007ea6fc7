/**
 * A delay line that is read between its samples, by third-order Lagrange interpolation (T. I. Laakso and
 * others, "Splitting the unit delay", IEEE Signal Processing Magazine 13(1), 1996).
 */
export class FractionalLine {
  readonly ring: Float64Array;
  readonly mask: number;
  /** place of the next sample to be written */
  at = 0;
  constructor(samples: number) {
    let size = 16;
    while (size < samples + 8) size *= 2;
    this.ring = new Float64Array(size);
    this.mask = size - 1;
  }
  write(x: number): void {
    this.ring[this.at] = x < 1e-30 && x > -1e-30 ? 0 : x;
    this.at = (this.at + 1) & this.mask;
  }
  /** The value `delay` samples ago (1 = the last one written); 2 or more for full accuracy. */
  read(delay: number): number {
    const d = delay < 2 ? 2 : delay;
    const n = d | 0;
    return lagrange(this.ring, this.at - n - 1, this.mask, 1 - (d - n));
  }
  reset(): void {
    this.ring.fill(0);
  }
}

/** Between ring[i] (t = 0) and ring[i + 1] (t = 1). */
export function lagrange(ring: Float64Array, i: number, mask: number, t: number): number {
  const a = ring[(i - 1) & mask];
  const b = ring[i & mask];
  const c = ring[(i + 1) & mask];
  const d = ring[(i + 2) & mask];
  const u = t + 1;
  const v = t - 1;
  const w = t - 2;
  return (-a * t * v * w) / 6 + (b * u * v * w) / 2 - (c * u * t * w) / 2 + (d * u * t * v) / 6;
}
