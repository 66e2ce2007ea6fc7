// The inner loops as SIMD WebAssembly, in AssemblyScript. They mean the same as core/devices/kernels/plain.ts, which is their check and their fallback. Pointers are byte offsets into the imported memory; nothing
// allocates. Two doubles at a time (left and right, or two samples).

import { exp2, log2, madd } from './arithmetic';

export { between } from './between';
export { cascade } from './cascade';
export { compress } from './compress';
export { envelope } from './envelope';
export { head, multiply } from './convolve';
export { peaks } from './peaks';
export { scatter } from './scatter';

/** Where what the kernels keep in the memory ends: the buffers begin behind it. */
export const END: usize = __heap_base;

/** n numbers x in −1000 … 1000 become 2^x. */
export function powers(x: usize, n: i32): void {
  const end = x + (<usize>(n & ~1) << 3);
  let p = x;
  for (; p < end; p += 16) v128.store(p, exp2(v128.load(p)));
  if (n & 1) v128.store64_lane(p, exp2(v128.load64_splat(p)), 0);
}

/** dst += Σ source × gain on both sides; table: for each source two i32 pointers and two doubles (24 bytes). Four sources at a time, so that the sum is read and written once for all of them. */
export function mix(dl: usize, dr: usize, n: i32, table: usize, count: i32): void {
  let k = 0;
  for (; k + 3 < count; k += 4) {
    const t = table + <usize>k * 24;
    sum4(dl, n, load<u32>(t), load<u32>(t, 24), load<u32>(t, 48), load<u32>(t, 72), load<f64>(t, 8), load<f64>(t, 32), load<f64>(t, 56), load<f64>(t, 80));
    sum4(dr, n, load<u32>(t, 4), load<u32>(t, 28), load<u32>(t, 52), load<u32>(t, 76), load<f64>(t, 16), load<f64>(t, 40), load<f64>(t, 64), load<f64>(t, 88));
  }
  for (; k < count; k++) {
    const t = table + <usize>k * 24;
    sum1(dl, n, load<u32>(t), load<f64>(t, 8));
    sum1(dr, n, load<u32>(t, 4), load<f64>(t, 16));
  }
}

function sum4(d: usize, n: i32, a: usize, b: usize, c: usize, e: usize, ga: f64, gb: f64, gc: f64, ge: f64): void {
  const va = f64x2.splat(ga), vb = f64x2.splat(gb), vc = f64x2.splat(gc), ve = f64x2.splat(ge);
  const bytes = <usize>(n & ~1) << 3;
  let o: usize = 0;
  for (; o < bytes; o += 16) {
    const x = madd(va, v128.load(a + o), madd(vb, v128.load(b + o), v128.load(d + o)));
    const y = madd(vc, v128.load(c + o), f64x2.mul(ve, v128.load(e + o)));
    v128.store(d + o, f64x2.add(x, y));
  }
  if (n & 1) store<f64>(d + o, load<f64>(d + o) + (ga * load<f64>(a + o) + gb * load<f64>(b + o) + (gc * load<f64>(c + o) + ge * load<f64>(e + o))));
}

function sum1(d: usize, n: i32, a: usize, ga: f64): void {
  const va = f64x2.splat(ga);
  const bytes = <usize>(n & ~1) << 3;
  let o: usize = 0;
  for (; o < bytes; o += 16) v128.store(d + o, madd(va, v128.load(a + o), v128.load(d + o)));
  if (n & 1) store<f64>(d + o, load<f64>(d + o) + ga * load<f64>(a + o));
}

/**
 * Half-band filter, n frames to 2n: even outputs are the symmetric sum over the history, odd ones a plain delay. up: ring with `taps` past values before the n new ones; g: taps / 2 of the (symmetric) taps.
 */
export function raise(up: usize, g: usize, dst: usize, n: i32, taps: i32, skip: i32): void {
  const half = taps >> 1, bytes = <usize>(taps - 1) << 3;
  let p = up + (<usize>taps << 3), i = 0;
  // eight at a time: four sums that do not wait for each other
  for (; i + 7 < n; i += 8, p += 64, dst += 128) {
    let a = f64x2.splat(0), b = a, c = a, d = a;
    let q = p, w = p - bytes;
    for (let k = 0; k < half; k++, q -= 8, w += 8) {
      const h = v128.load64_splat(g + (<usize>k << 3));
      a = madd(h, f64x2.add(v128.load(q), v128.load(w)), a);
      b = madd(h, f64x2.add(v128.load(q, 16), v128.load(w, 16)), b);
      c = madd(h, f64x2.add(v128.load(q, 32), v128.load(w, 32)), c);
      d = madd(h, f64x2.add(v128.load(q, 48), v128.load(w, 48)), d);
    }
    const o = p - (<usize>skip << 3), e = v128.load(o), f = v128.load(o, 16), x = v128.load(o, 32), y = v128.load(o, 48);
    v128.store(dst, v128.shuffle<f64>(a, e, 0, 2)); v128.store(dst, v128.shuffle<f64>(a, e, 1, 3), 16);
    v128.store(dst, v128.shuffle<f64>(b, f, 0, 2), 32); v128.store(dst, v128.shuffle<f64>(b, f, 1, 3), 48);
    v128.store(dst, v128.shuffle<f64>(c, x, 0, 2), 64); v128.store(dst, v128.shuffle<f64>(c, x, 1, 3), 80);
    v128.store(dst, v128.shuffle<f64>(d, y, 0, 2), 96); v128.store(dst, v128.shuffle<f64>(d, y, 1, 3), 112);
  }
  for (; i + 3 < n; i += 4, p += 32, dst += 64) {
    let a = f64x2.splat(0), b = f64x2.splat(0);
    let q = p, w = p - bytes;
    for (let k = 0; k < half; k++, q -= 8, w += 8) {
      const h = v128.load64_splat(g + (<usize>k << 3));
      a = madd(h, f64x2.add(v128.load(q), v128.load(w)), a);
      b = madd(h, f64x2.add(v128.load(q, 16), v128.load(w, 16)), b);
    }
    const c = v128.load(p - (<usize>skip << 3)), d = v128.load(p - (<usize>skip << 3), 16);
    v128.store(dst, v128.shuffle<f64>(a, c, 0, 2)); v128.store(dst, v128.shuffle<f64>(a, c, 1, 3), 16);
    v128.store(dst, v128.shuffle<f64>(b, d, 0, 2), 32); v128.store(dst, v128.shuffle<f64>(b, d, 1, 3), 48);
  }
  for (; i < n; i++, p += 8, dst += 16) {
    let a: f64 = 0;
    let q = p, w = p - bytes;
    for (let k = 0; k < half; k++, q -= 8, w += 8) a += load<f64>(g + (<usize>k << 3)) * (load<f64>(q) + load<f64>(w));
    store<f64>(dst, a);
    store<f64>(dst, load<f64>(p - (<usize>skip << 3)), 8);
  }
}

/** The way back: the new even and odd samples lie behind `taps` past ones; n frames out. */
export function lower(even: usize, odd: usize, g: usize, dst: usize, n: i32, taps: i32, skip: i32): void {
  const half = taps >> 1, bytes = <usize>(taps - 1) << 3, o = odd + (<usize>(taps - skip - 1) << 3), halved = f64x2.splat(0.5);
  let p = even + (<usize>taps << 3), i = 0;
  for (; i + 7 < n; i += 8, p += 64, dst += 64) {
    const z = o + (<usize>i << 3);
    let a = v128.load(z), b = v128.load(z, 16), c = v128.load(z, 32), d = v128.load(z, 48);
    let q = p, w = p - bytes;
    for (let k = 0; k < half; k++, q -= 8, w += 8) {
      const h = v128.load64_splat(g + (<usize>k << 3));
      a = madd(h, f64x2.add(v128.load(q), v128.load(w)), a);
      b = madd(h, f64x2.add(v128.load(q, 16), v128.load(w, 16)), b);
      c = madd(h, f64x2.add(v128.load(q, 32), v128.load(w, 32)), c);
      d = madd(h, f64x2.add(v128.load(q, 48), v128.load(w, 48)), d);
    }
    v128.store(dst, f64x2.mul(halved, a)); v128.store(dst, f64x2.mul(halved, b), 16);
    v128.store(dst, f64x2.mul(halved, c), 32); v128.store(dst, f64x2.mul(halved, d), 48);
  }
  for (; i + 3 < n; i += 4, p += 32, dst += 32) {
    let a = v128.load(o + (<usize>i << 3)), b = v128.load(o + (<usize>i << 3), 16);
    let q = p, w = p - bytes;
    for (let k = 0; k < half; k++, q -= 8, w += 8) {
      const h = v128.load64_splat(g + (<usize>k << 3));
      a = madd(h, f64x2.add(v128.load(q), v128.load(w)), a);
      b = madd(h, f64x2.add(v128.load(q, 16), v128.load(w, 16)), b);
    }
    v128.store(dst, f64x2.mul(halved, a));
    v128.store(dst, f64x2.mul(halved, b), 16);
  }
  for (; i < n; i++, p += 8, dst += 8) {
    let a = load<f64>(o + (<usize>i << 3));
    let q = p, w = p - bytes;
    for (let k = 0; k < half; k++, q -= 8, w += 8) a += load<f64>(g + (<usize>k << 3)) * (load<f64>(q) + load<f64>(w));
    store<f64>(dst, 0.5 * a);
  }
}

/** Splits 2n samples into n even and n odd ones. */
export function split(src: usize, even: usize, odd: usize, n: i32): void {
  let i = 0;
  for (; i + 1 < n; i += 2, src += 32, even += 16, odd += 16) {
    const a = v128.load(src), b = v128.load(src, 16);
    v128.store(even, v128.shuffle<f64>(a, b, 0, 2));
    v128.store(odd, v128.shuffle<f64>(a, b, 1, 3));
  }
  if (i < n) { store<f64>(even, load<f64>(src)); store<f64>(odd, load<f64>(src, 8)); }
}

// @ts-ignore: decorators are part of the language
@inline
/** tanh of two doubles: 1 − 2/(e^2x + 1) */
function tanh2(x: v128): v128 {
  const z = f64x2.mul(f64x2.pmin(f64x2.pmax(x, f64x2.splat(-20)), f64x2.splat(20)), f64x2.splat(2.8853900817779268));
  const e = exp2(z);
  return f64x2.sub(f64x2.splat(1), f64x2.div(f64x2.splat(2), f64x2.add(e, f64x2.splat(1))));
}

/** x = (tanh(gain · x + bias) − tanh(bias)) / (1 − tanh²(bias)) on n samples; n is even, as oversampled blocks are. Silence stays silence to the last bit, since both tanh are the same. */
export function saturate(x: usize, n: i32, gain: f64, bias: f64): void {
  const g = f64x2.splat(gain), b = f64x2.splat(bias), tt = tanh2(b), kk = f64x2.div(f64x2.splat(1), f64x2.sub(f64x2.splat(1), f64x2.mul(tt, tt)));
  for (const end = x + (<usize>n << 3); x < end; x += 16) v128.store(x, f64x2.mul(kk, f64x2.sub(tanh2(madd(g, v128.load(x), b)), tt)));
}

/** Saturation by the antiderivative on n samples (n even); s: last input behind the drive, –, last output. Short steps, the most of them, need no logarithm. Four samples at a time, so that what one pair waits for the other one fills. */
export function saturateMean(x: usize, n: i32, gain: f64, bias: f64, s: usize): void {
  const g = f64x2.splat(gain), b = f64x2.splat(bias), half = f64x2.splat(0.5), one = f64x2.splat(1);
  const tt = tanhOf(b, shrunk(f64x2.abs(b)), one), k = f64x2.div(half, f64x2.sub(one, f64x2.mul(tt, tt)));
  let last = f64x2.add(v128.load64_splat(s), b), before = v128.load64_splat(s, 16);
  let tLast = tanhOf(last, shrunk(f64x2.abs(last)), one);
  const end = x + (<usize>n << 3);
  for (; x + 32 <= end; x += 32) {
    const u = madd(g, v128.load(x), b), v = madd(g, v128.load(x, 16), b);
    const t = tanhOf(u, shrunk(f64x2.abs(u)), one), w = tanhOf(v, shrunk(f64x2.abs(v)), one);
    const y = f64x2.sub(meanOf(v128.shuffle<f64>(last, u, 1, 2), u, v128.shuffle<f64>(tLast, t, 1, 2), t, half, one), tt);
    const z = f64x2.sub(meanOf(v128.shuffle<f64>(u, v, 1, 2), v, v128.shuffle<f64>(t, w, 1, 2), w, half, one), tt);
    v128.store(x, f64x2.mul(k, f64x2.add(y, v128.shuffle<f64>(before, y, 1, 2))));
    v128.store(x, f64x2.mul(k, f64x2.add(z, v128.shuffle<f64>(y, z, 1, 2))), 16);
    last = v; tLast = w; before = z;
  }
  for (; x < end; x += 16) {
    const u = madd(g, v128.load(x), b), t = tanhOf(u, shrunk(f64x2.abs(u)), one);
    const y = f64x2.sub(meanOf(v128.shuffle<f64>(last, u, 1, 2), u, v128.shuffle<f64>(tLast, t, 1, 2), t, half, one), tt);
    v128.store(x, f64x2.mul(k, f64x2.add(y, v128.shuffle<f64>(before, y, 1, 2))));
    last = u; tLast = t; before = y;
  }
  store<f64>(s, f64x2.extract_lane(last, 1) - bias);
  store<f64>(s + 16, f64x2.extract_lane(before, 1));
}
// @ts-ignore: decorators are part of the language
@inline
/** Mean of the curve from was to u; tWas and t: tanh of both. */
function meanOf(was: v128, u: v128, tWas: v128, t: v128, half: v128, one: v128): v128 {
  const d = f64x2.sub(u, was);
  const mean = madd(f64x2.mul(d, f64x2.splat(0.08333333333333333)), f64x2.sub(f64x2.mul(t, t), f64x2.mul(tWas, tWas)), f64x2.mul(half, f64x2.add(t, tWas)));
  const isSteep = f64x2.gt(f64x2.abs(d), f64x2.splat(0.15));
  return v128.any_true(isSteep) ? v128.bitselect(f64x2.div(f64x2.sub(logCosh(u, one), logCosh(was, one)), d), mean, isSteep) : mean;
}

// @ts-ignore: decorators are part of the language
@inline
/** e^(−2a) for a ≥ 0 */
function shrunk(a: v128): v128 { return exp2(f64x2.mul(f64x2.pmin(a, f64x2.splat(40)), f64x2.splat(-2.8853900817779268))); }
// @ts-ignore: decorators are part of the language
@inline
/** ln cosh(u) + ln 2 */
function logCosh(u: v128, one: v128): v128 { const a = f64x2.abs(u); return madd(log2(f64x2.add(one, shrunk(a)), f64x2.splat(0)), f64x2.splat(0.6931471805599453), a); }

// @ts-ignore: decorators are part of the language
@inline
/** tanh(u) from e^(−2|u|) */
function tanhOf(u: v128, e: v128, one: v128): v128 { return v128.or(f64x2.div(f64x2.sub(one, e), f64x2.add(one, e)), v128.and(u, f64x2.splat(-0.0))); }

/** Clipping by the antiderivative on n samples (n even); s: last input, –, last output. */
export function clip(x: usize, n: i32, gain: f64, ceiling: f64, soft: f64, s: usize): void {
  const lo = f64x2.splat(1 - soft), hi = f64x2.splat(1 + soft), zero = f64x2.splat(0), half = f64x2.splat(0.5), least = f64x2.splat(1e-7), sign = f64x2.splat(-0.0);
  const c3 = f64x2.splat(soft > 1e-9 ? 1 / (12 * soft) : 0), c2 = f64x2.splat(soft > 1e-9 ? 1 / (4 * soft) : 0), g = f64x2.splat(gain), out = f64x2.splat(0.5 * ceiling);
  let last = v128.load64_splat(s), before = v128.load64_splat(s, 16), fLast = integral(last, lo, hi, zero, half, c3);
  for (const end = x + (<usize>n << 3); x < end; x += 16) {
    const u = f64x2.mul(v128.load(x), g);
    const f = integral(u, lo, hi, zero, half, c3);
    const was = v128.shuffle<f64>(last, u, 1, 2), fWas = v128.shuffle<f64>(fLast, f, 1, 2);
    const d = f64x2.sub(u, was), m = f64x2.mul(half, f64x2.add(u, was));
    const a = f64x2.pmin(f64x2.abs(m), hi), over = f64x2.pmax(f64x2.sub(a, lo), zero);
    const flat = v128.or(f64x2.sub(a, f64x2.mul(f64x2.mul(over, over), c2)), v128.and(m, sign));
    const y = v128.bitselect(f64x2.div(f64x2.sub(f, fWas), d), flat, f64x2.gt(f64x2.abs(d), least));
    v128.store(x, f64x2.mul(out, f64x2.add(y, v128.shuffle<f64>(before, y, 1, 2))));
    last = u; fLast = f; before = y;
  }
  store<f64>(s, f64x2.extract_lane(last, 1));
  store<f64>(s + 16, f64x2.extract_lane(before, 1));
}

// @ts-ignore: decorators are part of the language
@inline
function integral(u: v128, lo: v128, hi: v128, zero: v128, half: v128, c3: v128): v128 {
  const whole = f64x2.abs(u), a = f64x2.pmin(whole, hi), d = f64x2.pmax(f64x2.sub(a, lo), zero);
  return f64x2.add(f64x2.sub(f64x2.mul(half, f64x2.mul(a, a)), f64x2.mul(f64x2.mul(d, f64x2.mul(d, d)), c3)), f64x2.sub(whole, a));
}

// @ts-ignore: decorators are part of the language
@inline
function larger(a: v128, b: v128): v128 { return f64x2.pmax(a, f64x2.abs(b)); }

/**
 * The largest magnitude of three filters at n places (a multiple of four), the first over x[0 … taps − 1]; h: their taps, interleaved. Never fused: what is measured is the same on every machine.
 */
export function tallest(x: usize, n: i32, h: usize, taps: i32): f64 {
  const zero = f64x2.splat(0), end = h + <usize>taps * 24;
  let most = zero;
  for (let i = 0; i < n; i += 4, x += 32) {
    let a = zero, b = zero, c = zero, d = zero, e = zero, f = zero;
    for (let t = h, p = x; t < end; t += 24, p += 8) {
      const u = v128.load(p), v = v128.load(p, 16), one = v128.load64_splat(t), two = v128.load64_splat(t, 8), three = v128.load64_splat(t, 16);
      a = f64x2.add(a, f64x2.mul(one, u)); b = f64x2.add(b, f64x2.mul(one, v));
      c = f64x2.add(c, f64x2.mul(two, u)); d = f64x2.add(d, f64x2.mul(two, v));
      e = f64x2.add(e, f64x2.mul(three, u)); f = f64x2.add(f, f64x2.mul(three, v));
    }
    most = larger(larger(larger(larger(larger(larger(most, a), b), c), d), e), f);
  }
  const s = f64x2.extract_lane(most, 0), t = f64x2.extract_lane(most, 1);
  return s > t ? s : t;
}

/**
 * n 32-bit numbers in the second half of the place of n doubles become those doubles, times a gain; 1 when one is no finite number. Each double is written where the numbers before it were read already.
 */
export function widen(x: usize, n: i32, gain: f64): i32 {
  const g = f64x2.splat(gain), zero = f64x2.splat(0), whole = n & ~3;
  let p = x + (<usize>n << 2), o = x, a = zero, b = zero;
  for (let i = 0; i < whole; i += 4, p += 16, o += 32) {
    const v = v128.load(p);
    const first = f64x2.mul(g, f64x2.promote_low_f32x4(v)), second = f64x2.mul(g, f64x2.promote_low_f32x4(v128.shuffle<f64>(v, v, 1, 1)));
    v128.store(o, first);
    v128.store(o, second, 16);
    a = madd(first, zero, a);
    b = madd(second, zero, b);
  }
  const s = f64x2.add(a, b);
  let sum = f64x2.extract_lane(s, 0) + f64x2.extract_lane(s, 1);
  for (let i = whole; i < n; i++, p += 4, o += 8) {
    const one = gain * <f64>load<f32>(p);
    store<f64>(o, one);
    sum += one * 0;
  }
  return sum == 0 ? 0 : 1;
}

/**
 * 1 when any of l[0 … n − 1] or r[0 … n − 1] is no finite number: x · 0 is 0 for all others. Four sums a side, so that no addition waits for the one before.
 */
export function unclean(l: usize, r: usize, n: i32): i32 {
  const zero = f64x2.splat(0);
  let a = zero, b = zero, c = zero, d = zero, e = zero, f = zero, g = zero, h = zero;
  const bytes = <usize>(n & ~7) << 3;
  for (let o: usize = 0; o < bytes; o += 64) {
    a = madd(v128.load(l + o), zero, a);
    b = madd(v128.load(l + o, 16), zero, b);
    c = madd(v128.load(l + o, 32), zero, c);
    d = madd(v128.load(l + o, 48), zero, d);
    e = madd(v128.load(r + o), zero, e);
    f = madd(v128.load(r + o, 16), zero, f);
    g = madd(v128.load(r + o, 32), zero, g);
    h = madd(v128.load(r + o, 48), zero, h);
  }
  const s = f64x2.add(f64x2.add(f64x2.add(a, b), f64x2.add(c, d)), f64x2.add(f64x2.add(e, f), f64x2.add(g, h)));
  let sum = f64x2.extract_lane(s, 0) + f64x2.extract_lane(s, 1);
  for (let i = n & ~7; i < n; i++) sum += load<f64>(l + (<usize>i << 3)) * 0 + load<f64>(r + (<usize>i << 3)) * 0;
  return sum == 0 ? 0 : 1;
}
