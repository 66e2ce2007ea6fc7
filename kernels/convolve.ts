// The sums of a convolution: the same as core/devices/kernels/convolve.ts, which is their check and their fallback and says how spectra lie.

import { madd, nmadd } from './arithmetic';

/** Up to three samples behind the last one are read and written, too. */
export function head(x: usize, n: i32, h: usize, taps: i32, out: usize): void {
  const end = h + (<usize>taps << 3), zero = f64x2.splat(0);
  for (let i = 0; i < n; i += 4, x += 32, out += 32) {
    let a = zero, b = zero;
    for (let t = h, p = x; t < end; t += 8, p -= 8) {
      const g = v128.load64_splat(t);
      a = madd(g, v128.load(p), a);
      b = madd(g, v128.load(p, 16), b);
    }
    v128.store(out, a);
    v128.store(out, b, 16);
  }
}

// @ts-ignore: decorators are part of the language
@inline
function placeOf(newest: i32, part: i32, count: i32): usize {
  const place = newest - part;
  return <usize>(place < 0 ? place + count : place);
}

/** Two parts at a time, along their bins, so that memory is read in order; bin 0 by itself. */
export function multiply(sum: usize, blocks: usize, stride: i32, count: i32, parts: usize, bins: i32, newest: i32, from: i32, to: i32): void {
  const size = <usize>bins << 3, step = <usize>stride << 3;
  let real = load<f64>(sum), half = load<f64>(sum + size);
  let p = from;
  for (; p + 1 < to; p += 2) {
    let x = blocks + placeOf(newest, p, count) * step, y = blocks + placeOf(newest, p + 1, count) * step;
    let h = parts + (<usize>p * size << 1), i = h + (size << 1);
    real = real + load<f64>(x) * load<f64>(h) + load<f64>(y) * load<f64>(i);
    half = half + load<f64>(x + size) * load<f64>(h + size) + load<f64>(y + size) * load<f64>(i + size);
    for (let u = sum, end = sum + size; u < end; u += 16, x += 16, y += 16, h += 16, i += 16) {
      const a = v128.load(x), b = v128.load(x + size), c = v128.load(h), d = v128.load(h + size);
      const e = v128.load(y), f = v128.load(y + size), g = v128.load(i), j = v128.load(i + size);
      v128.store(u, nmadd(f, j, madd(e, g, nmadd(b, d, madd(a, c, v128.load(u))))));
      v128.store(u + size, madd(f, g, madd(e, j, madd(b, c, madd(a, d, v128.load(u + size))))));
    }
  }
  if (p < to) {
    let x = blocks + placeOf(newest, p, count) * step, h = parts + (<usize>p * size << 1);
    real += load<f64>(x) * load<f64>(h);
    half += load<f64>(x + size) * load<f64>(h + size);
    for (let u = sum, end = sum + size; u < end; u += 16, x += 16, h += 16) {
      const a = v128.load(x), b = v128.load(x + size), c = v128.load(h), d = v128.load(h + size);
      v128.store(u, nmadd(b, d, madd(a, c, v128.load(u))));
      v128.store(u + size, madd(b, c, madd(a, d, v128.load(u + size))));
    }
  }
  store<f64>(sum, real);
  store<f64>(sum + size, half);
}
