// Arithmetic of two doubles that several kernels share.

// @ts-ignore: decorators are part of the language
@inline
/** a·b + c of two doubles: one instruction, rounded once, where the machine has it (relaxed SIMD) */
export function madd(a: v128, b: v128, c: v128): v128 { return ASC_FEATURE_RELAXED_SIMD ? f64x2.relaxed_madd(a, b, c) : f64x2.add(f64x2.mul(a, b), c); }
// @ts-ignore: decorators are part of the language
@inline
/** c − a·b */
export function nmadd(a: v128, b: v128, c: v128): v128 { return ASC_FEATURE_RELAXED_SIMD ? f64x2.relaxed_nmadd(a, b, c) : f64x2.sub(c, f64x2.mul(a, b)); }
// @ts-ignore: decorators are part of the language
@inline
/** two doubles from two places */
export function both(a: usize, b: usize): v128 { return v128.load64_lane(b, v128.load64_splat(a), 1); }

// Constants of the loops lie in memory, where each is one instruction: written out, a compiler with no register
// left makes three of every one, on the one port that shuffles. Polynomials are short ways rather than few
// steps:
// a machine that looks a hundred instructions ahead waits for the longest way through them.
const LOG: usize = memory.data<f64>([
  2.885390081789987,
  0.9617966734515112,
  0.5770835660132905,
  0.4116737658434946,
  0.3407120470541788,
  1,
  4503599627371519,
]);
/** what brings √½ to 1 in the exponent, the bits of a fraction, those of √½, and the exponent of 2^52 */
const BITS: usize = memory.data<i64>([0x00095f619980c433, 0x000fffffffffffff, 0x3fe6a09e667f3bcd, 0x4330000000000000]);
const EXP: usize = memory.data<f64>([
  1,
  0.69314718054820546497,
  0.24022650698111541019,
  0.055504109352970432578,
  0.0096181286159899269962,
  0.0013333454828855388855,
  0.00015403825485669613577,
  0.000015309165073949367615,
  1.3178943909307642479e-6,
  6755399441055744,
]);

// @ts-ignore: decorators are part of the language
@inline
/**
 * log2 of two numbers from 0 on, less something: exponent, and 2·atanh((m − 1)/(m + 1))/ln 2 for √½ ≤ m < √2 as
 * a polynomial through the Chebyshev points; error under 3e-12. A whole number under 2^52 becomes a double as
 * the last bits of one. That of 0 is −1023.
 */
export function log2(x: v128, less: v128): v128 {
  const bits = i64x2.add(x, v128.load64_splat(BITS)), one = v128.load64_splat(LOG, 40);
  const e = v128.or(i64x2.shr_u(bits, 52), v128.load64_splat(BITS, 24));
  const m = i64x2.add(v128.and(bits, v128.load64_splat(BITS, 8)), v128.load64_splat(BITS, 16));
  const s = f64x2.div(f64x2.sub(m, one), f64x2.add(m, one));
  const q = f64x2.mul(s, s), qq = f64x2.mul(q, q);
  const low = madd(s, madd(q, v128.load64_splat(LOG, 8), v128.load64_splat(LOG)), f64x2.sub(f64x2.sub(e, v128.load64_splat(LOG, 48)), less));
  return madd(f64x2.mul(s, qq), madd(qq, v128.load64_splat(LOG, 32), madd(q, v128.load64_splat(LOG, 24), v128.load64_splat(LOG, 16))), low);
}

// @ts-ignore: decorators are part of the language
@inline
/**
 * 2^x of two numbers in −1000 … 1000: the whole part into the exponent, by the last bits of 1.5·2^52; the rest
 * by the polynomial of degree 8 that is 1 at 0 and whose largest relative error is least (8.1e-13).
 */
export function exp2(x: v128): v128 {
  const big = v128.load64_splat(EXP, 72), w = f64x2.add(x, big);
  const f = f64x2.sub(x, f64x2.sub(w, big)), q = f64x2.mul(f, f);
  const a = madd(f, v128.load64_splat(EXP, 8), v128.load64_splat(EXP));
  const b = madd(f, v128.load64_splat(EXP, 24), v128.load64_splat(EXP, 16));
  const c = madd(f, v128.load64_splat(EXP, 40), v128.load64_splat(EXP, 32));
  const d = madd(f, v128.load64_splat(EXP, 56), v128.load64_splat(EXP, 48));
  const high = madd(q, madd(q, v128.load64_splat(EXP, 64), d), c);
  return i64x2.add(madd(f64x2.mul(q, q), high, madd(q, b, a)), i64x2.shl(w, 52));
}
