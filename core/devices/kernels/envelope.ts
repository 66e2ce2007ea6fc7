/**
 * The size of a sound, sample by sample: the larger of its magnitude and that of its analytic signal, which two chains
 * of allpass filters a quarter turn apart make (within 0.06 dB from 30 Hz to 0.45 of the rate; coefficients by O.
 * Niemitalo, from memory). A steady tone has a steady size, wherever its samples fall, and a gain that follows it does
 * not ripple. No sample is waited for.
 */

const ALLPASS = [
  0.6923878, 0.9360654322959, 0.988229522686, 0.9987488452737, 0.4021921162426, 0.856171088242,
  0.9722909545651, 0.9952884791278,
];
/** squared: each filter is (c − z⁻²) / (1 − c·z⁻²) */
export const SECTIONS: readonly number[] = ALLPASS.map((a) => a * a);
const HALF = SECTIONS.length / 2;

/**
 * Places in the state: of each filter and each of two turns its last input and output, left and right; then the first
 * chain's last output of both sides, and whose turn it is.
 */
export const LATE = SECTIONS.length * 8;
export const TURN = LATE + 2;
export const ENVELOPE_STATE = TURN + 2;

const { abs, sqrt } = Math;

/** l[0 … n − 1] and r become their sizes. */
export function envelope(l: Float64Array, r: Float64Array, n: number, s: Float64Array): void {
  let turn = s[TURN];
  for (let i = 0; i < n; i++) {
    l[i] = sized(l[i], turn * 4, LATE, s);
    r[i] = sized(r[i], turn * 4 + 1, LATE + 1, s);
    turn = 1 - turn;
  }
  s[TURN] = turn;
}

function sized(x: number, at: number, late: number, s: Float64Array): number {
  const first = chain(x, 0, at, s);
  const second = chain(x, HALF, at, s);
  const size = sqrt(s[late] * s[late] + second * second);
  s[late] = first;
  const plain = abs(x);
  return plain > size ? plain : size;
}

/** Four filters after each other; `at`: the turn's and the side's place. */
function chain(x: number, from: number, at: number, s: Float64Array): number {
  let v = x;
  for (let k = from; k < from + HALF; k++) {
    const p = k * 8 + at;
    const y = SECTIONS[k] * (v + s[p + 2]) - s[p];
    s[p] = v;
    s[p + 2] = y;
    v = y;
  }
  return v;
}
