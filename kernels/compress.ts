// The linked compressor: the same as core/devices/kernels/plain.ts, which is its check and its fallback.

import { exp2, log2, madd } from './arithmetic';

/** what is left over when a block is no multiple of two */
const SCRATCH: usize = memory.data(32, 16);

// @ts-ignore: decorators are part of the language
@inline
/** gain of two smoothed reductions, on both sides */
function gains(l: usize, r: usize, y: v128, mk: v128, mix: v128, dry: v128): void {
  const g = madd(mix, exp2(f64x2.sub(mk, y)), dry);
  v128.store(l, f64x2.mul(v128.load(l), g));
  v128.store(r, f64x2.mul(v128.load(r), g));
}

// @ts-ignore: decorators are part of the language
@inline
/** the larger, or the smaller, of two pairs */
function further(isUp: bool, a: v128, b: v128): v128 { return isUp ? f64x2.pmax(a, b) : f64x2.pmin(a, b); }

// @ts-ignore: decorators are part of the language
@inline
function turned(x: v128): v128 { return v128.shuffle<f64>(x, x, 1, 0); }

// @ts-ignore: decorators are part of the language
@inline
/**
 * the louder side of n samples, or its RMS with the pole kr > 0, into `work`; the last of an odd count lies
 * beside silence
 */
function levels(dl: usize, dr: usize, n: i32, s: usize, kr: f64, work: usize): void {
  const bytes = <usize>n << 3;
  let o: usize = 0;
  if (kr > 0) {
    let p = load<f64>(s, 16);
    for (; o < bytes; o += 8) {
      const x = abs(load<f64>(dl + o)), z = abs(load<f64>(dr + o)), top = x > z ? x : z;
      p += kr * (top * top - p);
      store<f64>(work + o, sqrt(p));
    }
    store<f64>(s, p, 16);
    store<f64>(s, p, 24);
  }
  for (const pairs = <usize>(n & ~1) << 3; o < pairs; o += 16) v128.store(work + o, f64x2.pmax(f64x2.abs(v128.load(dl + o)), f64x2.abs(v128.load(dr + o))));
  if (o < bytes) {
    const x = abs(load<f64>(dl + o)), z = abs(load<f64>(dr + o));
    store<f64>(work + o, x > z ? x : z);
  }
  if (n & 1) store<f64>(work + bytes, 0);
}

// @ts-ignore: decorators are part of the language
@inline
/**
 * Levels become reductions, and the loudest one goes into the report. Over the foot of the knee: bend · (what
 * lies in the knee)² + slope · (what lies above it).
 */
function curve(work: usize, n: i32, v: usize, report: usize): void {
  const half = load<f64>(v, 8) / 2, lean = load<f64>(v, 16);
  const foot = f64x2.splat(load<f64>(v) - half);
  const knee = f64x2.splat(2 * half);
  const slope = f64x2.splat(lean);
  const bend = f64x2.splat(half > 1e-6 ? lean / (4 * half) : 0);
  const high = f64x2.splat(8e6), zero = f64x2.splat(0);
  let loud = v128.load64_splat(report, 8);
  for (const end = work + (<usize>n << 3); work < end; work += 16) {
    const e = f64x2.pmin(v128.load(work), high);
    loud = f64x2.pmax(loud, e);
    const over = f64x2.pmax(log2(e, foot), zero), within = f64x2.pmin(over, knee);
    v128.store(work, madd(f64x2.mul(bend, within), within, f64x2.mul(slope, f64x2.sub(over, within))));
  }
  v128.store64_lane(report, f64x2.pmax(loud, turned(loud)), 0, 8);
}

// @ts-ignore: decorators are part of the language
@inline
/**
 * Reductions are smoothed and become gains. A step of the smoother, y ← a·y + (1 − a)·x with the pole of attack
 * or release, takes whichever is further: further(a·y + p, r·y + q), p = (1 − a)·x, q = (1 − r)·x. Both poles
 * lie in the two lanes; two steps at
 * once are the furthest of a²·y + a·p0 + p1, a·r·y + a·q0 + p1, a·r·y + r·p0 + q1 and r²·y + r·q0 + q1, since
 * no pole is negative: what waits for y is one multiplication and two comparisons for two samples. Gains are
 * made beside it: nothing waits for them.
 */
function smooth(isUp: bool, l: usize, r: usize, n: i32, v: usize, s: usize, report: usize, work: usize): void {
  const k1 = load<f64>(v, 24), k2 = load<f64>(v, 32), part = load<f64>(v, 48);
  const attack = k1 + k2, release = k1 - k2;
  const enters = f64x2.replace_lane(f64x2.splat(attack), 1, release), turnedEnters = turned(enters);
  const poles = f64x2.sub(f64x2.splat(1), enters);
  const squares = f64x2.mul(poles, poles);
  const mixed = f64x2.mul(poles, turned(poles));
  const mk = v128.load64_splat(v, 40), mix = f64x2.splat(part), dry = f64x2.splat(1 - part);
  let y = v128.load64_splat(s), most = v128.load64_splat(report);
  for (const end = work + (<usize>(n & ~1) << 3); work < end; work += 16, l += 16, r += 16) {
    const x = v128.load64_splat(work), p = f64x2.mul(enters, x), q = f64x2.mul(enters, v128.load64_splat(work, 8));
    const next = madd(poles, y, p);
    const far = further(isUp, madd(squares, y, madd(poles, p, q)), madd(mixed, y, madd(poles, f64x2.mul(turnedEnters, x), q)));
    y = further(isUp, far, turned(far));
    const pair = further(isUp, v128.shuffle<f64>(next, y, 0, 2), v128.shuffle<f64>(next, y, 1, 3));
    most = f64x2.pmax(most, pair);
    gains(l, r, pair, mk, mix, dry);
  }
  if (n & 1) {
    const next = madd(poles, y, f64x2.mul(enters, v128.load64_splat(work)));
    y = further(isUp, next, turned(next));
    most = f64x2.pmax(most, y);
    v128.store64_lane(SCRATCH, v128.load64_splat(l), 0);
    v128.store64_lane(SCRATCH, v128.load64_splat(r), 0, 16);
    gains(SCRATCH, SCRATCH + 16, y, mk, mix, dry);
    v128.store64_lane(l, v128.load64_splat(SCRATCH), 0);
    v128.store64_lane(r, v128.load64_splat(SCRATCH, 16), 0);
  }
  v128.store64_lane(s, y, 0);
  v128.store64_lane(s, y, 0, 8);
  v128.store64_lane(report, f64x2.pmax(most, turned(most)), 0);
}

/**
 * v: threshold, knee, 1 − 1/ratio, attack and release halves (k1, k2), makeup, mix (doubles, log2 units); s: y,
 * –, mean square; report: deepest reduction, loudest level. work: n + 2 doubles. kr > 0: RMS with that pole.
 */
export function compress(l: usize, r: usize, dl: usize, dr: usize, n: i32, v: usize, s: usize, report: usize, kr: f64, work: usize): void {
  levels(dl, dr, n, s, kr, work);
  curve(work, n, v, report);
  // a reduction grows with the attack's pole: the faster of the two lies further up where that is the attack
  if (load<f64>(v, 32) >= 0) smooth(true, l, r, n, v, s, report, work);
  else smooth(false, l, r, n, v, s, report, work);
}
