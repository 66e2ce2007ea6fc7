// A delay line read between its samples: the same as core/devices/kernels/between.ts, which is its check and its fallback.

import { madd } from './arithmetic';

// @ts-ignore: decorators are part of the language
@inline
/** Two taps of a row and of the next one, a part of the way, times two samples. */
function tap(y: v128, h: usize, x: usize, part: v128): v128 {
  const a = v128.load(h);
  return madd(madd(part, f64x2.sub(v128.load(h, 128), a), a), v128.load(x), y);
}

/** table: 16 taps at 256 places; times become what was there. */
export function between(ring: usize, mask: i32, at: i32, times: usize, n: i32, table: usize): void {
  for (let k = 0; k < n; k++, times += 8) {
    const d = load<f64>(times), whole = <i32>d, place = (1 - (d - <f64>whole)) * 256, p = <i32>place;
    const part = f64x2.splat(place - <f64>p);
    const h = table + (<usize>p << 7), x = ring + (<usize>((at + k - whole - 8) & mask) << 3);
    let a = f64x2.splat(0), b = a;
    a = tap(a, h, x, part); b = tap(b, h + 16, x + 16, part);
    a = tap(a, h + 32, x + 32, part); b = tap(b, h + 48, x + 48, part);
    a = tap(a, h + 64, x + 64, part); b = tap(b, h + 80, x + 80, part);
    a = tap(a, h + 96, x + 96, part); b = tap(b, h + 112, x + 112, part);
    const y = f64x2.add(a, b);
    store<f64>(times, f64x2.extract_lane(y, 0) + f64x2.extract_lane(y, 1));
  }
}
