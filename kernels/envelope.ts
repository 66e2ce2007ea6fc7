// The size of a sound: the same as core/devices/kernels/envelope.ts, which is its check and its fallback and says what the state is. Left and right beside each other.

// @ts-ignore: decorators are part of the language
@inline
function section(v: v128, c: f64, p: usize): v128 {
  const y = f64x2.sub(f64x2.mul(f64x2.splat(c), f64x2.add(v, v128.load(p, 16))), v128.load(p));
  v128.store(p, v);
  v128.store(p, y, 16);
  return y;
}

/** l[0 … n − 1] and r become the larger of their magnitude and that of their analytic signal. */
export function envelope(l: usize, r: usize, n: i32, s: usize): void {
  let turn: usize = load<f64>(s, 528) == 0 ? 0 : 32;
  let late = v128.load(s, 512);
  for (const end = l + (<usize>n << 3); l < end; l += 8, r += 8) {
    const x = v128.load64_lane(r, v128.load64_splat(l), 1), p = s + turn;
    let a = section(x, 0.6923878 * 0.6923878, p);
    let b = section(x, 0.4021921162426 * 0.4021921162426, p + 256);
    a = section(a, 0.9360654322959 * 0.9360654322959, p + 64);
    b = section(b, 0.8561710882420 * 0.8561710882420, p + 320);
    a = section(a, 0.988229522686 * 0.988229522686, p + 128);
    b = section(b, 0.9722909545651 * 0.9722909545651, p + 384);
    a = section(a, 0.9987488452737 * 0.9987488452737, p + 192);
    b = section(b, 0.9952884791278 * 0.9952884791278, p + 448);
    const size = f64x2.pmax(f64x2.sqrt(f64x2.add(f64x2.mul(late, late), f64x2.mul(b, b))), f64x2.abs(x));
    v128.store64_lane(l, size, 0);
    v128.store64_lane(r, size, 1);
    late = a;
    turn = 32 - turn;
  }
  v128.store(s, late, 512);
  store<f64>(s, turn == 0 ? 0 : 1, 528);
}
