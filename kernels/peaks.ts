// Peaks between samples: the same as core/devices/kernels/peaks.ts, which is its check and its fallback and says what the filters are. Two pairs of filters at four places at a time.

import { madd } from './arithmetic';

// @ts-ignore: decorators are part of the language
@inline
function taller(most: v128, even: v128, odd: v128): v128 { return f64x2.pmax(most, f64x2.add(f64x2.abs(even), f64x2.abs(odd))); }

/** x: the sample right of the first place; row: values a tap, a multiple of four. Up to three places behind the last are looked at and written, too. */
export function peaks(x: usize, n: i32, h: usize, taps: i32, row: i32, out: usize): void {
  const step = <usize>row << 3, end = h + <usize>taps * step, zero = f64x2.splat(0);
  for (let i = 0; i < n; i += 4, x += 32, out += 32) {
    let one = v128.load(out), two = v128.load(out, 16);
    for (let f: usize = 0; f < step; f += 32) {
      let a = zero, b = zero, c = zero, d = zero, p = zero, q = zero, r = zero, s = zero;
      for (let t = h + f, right = x, left = x - 8; t < end; t += step, right += 8, left -= 8) {
        const u = v128.load(right), v = v128.load(left), w = v128.load(right, 16), y = v128.load(left, 16);
        const sum = f64x2.add(u, v), off = f64x2.sub(u, v), sum2 = f64x2.add(w, y), off2 = f64x2.sub(w, y);
        const e = v128.load64_splat(t), o = v128.load64_splat(t, 8), g = v128.load64_splat(t, 16), k = v128.load64_splat(t, 24);
        a = madd(e, sum, a); b = madd(o, off, b); c = madd(g, sum, c); d = madd(k, off, d);
        p = madd(e, sum2, p); q = madd(o, off2, q); r = madd(g, sum2, r); s = madd(k, off2, s);
      }
      one = taller(taller(one, a, b), c, d);
      two = taller(taller(two, p, q), r, s);
    }
    v128.store(out, one);
    v128.store(out, two, 16);
  }
}
