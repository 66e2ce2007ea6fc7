// Second-order sections after each other, on both sides at once: the same as core/devices/kernels/plain.ts,
// which is its check and its fallback. Sections are 5 doubles (b0 b1 b2 a1 a2), states 4 (left s1 s2, right s1
// s2).
//
// The states are those of the transposed direct form II, y = b0·x + s1, but a state follows from the states
// before and not from y (c1 = b1 − a1·b0, c2 = b2 − a2·b0): s1 ← c1·x + s2 − a1·s1, s2 ← c2·x − a2·s1. A step
// then waits for two additions less, and two samples a turn read each coefficient once.

import { both, madd, nmadd } from './arithmetic';

/** b0 c1 a1 c2 a2 of up to four sections, each for both sides (80 bytes a section): more than there are registers */
const COEFFICIENTS: usize = memory.data(320, 16);

function prepare(to: usize, c: usize): void {
  const b0 = v128.load64_splat(c), a1 = v128.load64_splat(c, 24), a2 = v128.load64_splat(c, 32);
  v128.store(to, b0);
  v128.store(to, nmadd(a1, b0, v128.load64_splat(c, 8)), 16);
  v128.store(to, a1, 32);
  v128.store(to, nmadd(a2, b0, v128.load64_splat(c, 16)), 48);
  v128.store(to, a2, 64);
}

function four(l: usize, r: usize, n: i32, c: usize, s: usize, i: i32, j: i32, k: i32, m: i32): void {
  prepare(COEFFICIENTS, c + <usize>i * 40);
  prepare(COEFFICIENTS + 80, c + <usize>j * 40);
  prepare(COEFFICIENTS + 160, c + <usize>k * 40);
  prepare(COEFFICIENTS + 240, c + <usize>m * 40);
  const sp = s + <usize>i * 32, sq = s + <usize>j * 32, sr = s + <usize>k * 32, st = s + <usize>m * 32;
  let u1 = sides(sp, 0);
  let u2 = sides(sp, 8);
  let v1 = sides(sq, 0);
  let v2 = sides(sq, 8);
  let w1 = sides(sr, 0);
  let w2 = sides(sr, 8);
  let z1 = sides(st, 0);
  let z2 = sides(st, 8);
  for (const end = l + ((<usize>(n & ~1)) << 3); l < end; l += 16, r += 16) {
    const left = v128.load(l), right = v128.load(r);
    let x = v128.shuffle<f64>(left, right, 0, 2), y = v128.shuffle<f64>(left, right, 1, 3);
    {
      const b0 = v128.load(COEFFICIENTS, 0);
      const c1 = v128.load(COEFFICIENTS, 16);
      const a1 = v128.load(COEFFICIENTS, 32);
      const c2 = v128.load(COEFFICIENTS, 48);
      const a2 = v128.load(COEFFICIENTS, 64);
      const p = nmadd(a1, u1, madd(c1, x, u2)), q = nmadd(a2, u1, f64x2.mul(c2, x));
      x = madd(b0, x, u1);
      u1 = nmadd(a1, p, madd(c1, y, q));
      u2 = nmadd(a2, p, f64x2.mul(c2, y));
      y = madd(b0, y, p);
    }
    {
      const b0 = v128.load(COEFFICIENTS, 80);
      const c1 = v128.load(COEFFICIENTS, 96);
      const a1 = v128.load(COEFFICIENTS, 112);
      const c2 = v128.load(COEFFICIENTS, 128);
      const a2 = v128.load(COEFFICIENTS, 144);
      const p = nmadd(a1, v1, madd(c1, x, v2)), q = nmadd(a2, v1, f64x2.mul(c2, x));
      x = madd(b0, x, v1);
      v1 = nmadd(a1, p, madd(c1, y, q));
      v2 = nmadd(a2, p, f64x2.mul(c2, y));
      y = madd(b0, y, p);
    }
    {
      const b0 = v128.load(COEFFICIENTS, 160);
      const c1 = v128.load(COEFFICIENTS, 176);
      const a1 = v128.load(COEFFICIENTS, 192);
      const c2 = v128.load(COEFFICIENTS, 208);
      const a2 = v128.load(COEFFICIENTS, 224);
      const p = nmadd(a1, w1, madd(c1, x, w2)), q = nmadd(a2, w1, f64x2.mul(c2, x));
      x = madd(b0, x, w1);
      w1 = nmadd(a1, p, madd(c1, y, q));
      w2 = nmadd(a2, p, f64x2.mul(c2, y));
      y = madd(b0, y, p);
    }
    {
      const b0 = v128.load(COEFFICIENTS, 240);
      const c1 = v128.load(COEFFICIENTS, 256);
      const a1 = v128.load(COEFFICIENTS, 272);
      const c2 = v128.load(COEFFICIENTS, 288);
      const a2 = v128.load(COEFFICIENTS, 304);
      const p = nmadd(a1, z1, madd(c1, x, z2)), q = nmadd(a2, z1, f64x2.mul(c2, x));
      x = madd(b0, x, z1);
      z1 = nmadd(a1, p, madd(c1, y, q));
      z2 = nmadd(a2, p, f64x2.mul(c2, y));
      y = madd(b0, y, p);
    }
    v128.store(l, v128.shuffle<f64>(x, y, 0, 2));
    v128.store(r, v128.shuffle<f64>(x, y, 1, 3));
  }
  if (n & 1) {
    let x = both(l, r);
    {
      const p = nmadd(v128.load(COEFFICIENTS, 32), u1, madd(v128.load(COEFFICIENTS, 16), x, u2));
      const q = nmadd(v128.load(COEFFICIENTS, 64), u1, f64x2.mul(v128.load(COEFFICIENTS, 48), x));
      x = madd(v128.load(COEFFICIENTS, 0), x, u1);
      u1 = p;
      u2 = q;
    }
    {
      const p = nmadd(v128.load(COEFFICIENTS, 112), v1, madd(v128.load(COEFFICIENTS, 96), x, v2));
      const q = nmadd(v128.load(COEFFICIENTS, 144), v1, f64x2.mul(v128.load(COEFFICIENTS, 128), x));
      x = madd(v128.load(COEFFICIENTS, 80), x, v1);
      v1 = p;
      v2 = q;
    }
    {
      const p = nmadd(v128.load(COEFFICIENTS, 192), w1, madd(v128.load(COEFFICIENTS, 176), x, w2));
      const q = nmadd(v128.load(COEFFICIENTS, 224), w1, f64x2.mul(v128.load(COEFFICIENTS, 208), x));
      x = madd(v128.load(COEFFICIENTS, 160), x, w1);
      w1 = p;
      w2 = q;
    }
    {
      const p = nmadd(v128.load(COEFFICIENTS, 272), z1, madd(v128.load(COEFFICIENTS, 256), x, z2));
      const q = nmadd(v128.load(COEFFICIENTS, 304), z1, f64x2.mul(v128.load(COEFFICIENTS, 288), x));
      x = madd(v128.load(COEFFICIENTS, 240), x, z1);
      z1 = p;
      z2 = q;
    }
    v128.store64_lane(l, x, 0);
    v128.store64_lane(r, x, 1);
  }
  keep(sp, u1, u2);
  keep(sq, v1, v2);
  keep(sr, w1, w2);
  keep(st, z1, z2);
}

function two(l: usize, r: usize, n: i32, c: usize, s: usize, i: i32, j: i32): void {
  prepare(COEFFICIENTS, c + <usize>i * 40);
  prepare(COEFFICIENTS + 80, c + <usize>j * 40);
  const sp = s + <usize>i * 32, sq = s + <usize>j * 32;
  let u1 = sides(sp, 0), u2 = sides(sp, 8), v1 = sides(sq, 0), v2 = sides(sq, 8);
  for (const end = l + ((<usize>(n & ~1)) << 3); l < end; l += 16, r += 16) {
    const left = v128.load(l), right = v128.load(r);
    let x = v128.shuffle<f64>(left, right, 0, 2), y = v128.shuffle<f64>(left, right, 1, 3);
    {
      const b0 = v128.load(COEFFICIENTS, 0);
      const c1 = v128.load(COEFFICIENTS, 16);
      const a1 = v128.load(COEFFICIENTS, 32);
      const c2 = v128.load(COEFFICIENTS, 48);
      const a2 = v128.load(COEFFICIENTS, 64);
      const p = nmadd(a1, u1, madd(c1, x, u2)), q = nmadd(a2, u1, f64x2.mul(c2, x));
      x = madd(b0, x, u1);
      u1 = nmadd(a1, p, madd(c1, y, q));
      u2 = nmadd(a2, p, f64x2.mul(c2, y));
      y = madd(b0, y, p);
    }
    {
      const b0 = v128.load(COEFFICIENTS, 80);
      const c1 = v128.load(COEFFICIENTS, 96);
      const a1 = v128.load(COEFFICIENTS, 112);
      const c2 = v128.load(COEFFICIENTS, 128);
      const a2 = v128.load(COEFFICIENTS, 144);
      const p = nmadd(a1, v1, madd(c1, x, v2)), q = nmadd(a2, v1, f64x2.mul(c2, x));
      x = madd(b0, x, v1);
      v1 = nmadd(a1, p, madd(c1, y, q));
      v2 = nmadd(a2, p, f64x2.mul(c2, y));
      y = madd(b0, y, p);
    }
    v128.store(l, v128.shuffle<f64>(x, y, 0, 2));
    v128.store(r, v128.shuffle<f64>(x, y, 1, 3));
  }
  if (n & 1) {
    let x = both(l, r);
    {
      const p = nmadd(v128.load(COEFFICIENTS, 32), u1, madd(v128.load(COEFFICIENTS, 16), x, u2));
      const q = nmadd(v128.load(COEFFICIENTS, 64), u1, f64x2.mul(v128.load(COEFFICIENTS, 48), x));
      x = madd(v128.load(COEFFICIENTS, 0), x, u1);
      u1 = p;
      u2 = q;
    }
    {
      const p = nmadd(v128.load(COEFFICIENTS, 112), v1, madd(v128.load(COEFFICIENTS, 96), x, v2));
      const q = nmadd(v128.load(COEFFICIENTS, 144), v1, f64x2.mul(v128.load(COEFFICIENTS, 128), x));
      x = madd(v128.load(COEFFICIENTS, 80), x, v1);
      v1 = p;
      v2 = q;
    }
    v128.store64_lane(l, x, 0);
    v128.store64_lane(r, x, 1);
  }
  keep(sp, u1, u2);
  keep(sq, v1, v2);
}

function one(l: usize, r: usize, n: i32, c: usize, s: usize, i: i32): void {
  prepare(COEFFICIENTS, c + <usize>i * 40);
  const sp = s + <usize>i * 32;
  let u1 = sides(sp, 0), u2 = sides(sp, 8);
  for (const end = l + ((<usize>(n & ~1)) << 3); l < end; l += 16, r += 16) {
    const left = v128.load(l), right = v128.load(r);
    let x = v128.shuffle<f64>(left, right, 0, 2), y = v128.shuffle<f64>(left, right, 1, 3);
    {
      const b0 = v128.load(COEFFICIENTS, 0);
      const c1 = v128.load(COEFFICIENTS, 16);
      const a1 = v128.load(COEFFICIENTS, 32);
      const c2 = v128.load(COEFFICIENTS, 48);
      const a2 = v128.load(COEFFICIENTS, 64);
      const p = nmadd(a1, u1, madd(c1, x, u2)), q = nmadd(a2, u1, f64x2.mul(c2, x));
      x = madd(b0, x, u1);
      u1 = nmadd(a1, p, madd(c1, y, q));
      u2 = nmadd(a2, p, f64x2.mul(c2, y));
      y = madd(b0, y, p);
    }
    v128.store(l, v128.shuffle<f64>(x, y, 0, 2));
    v128.store(r, v128.shuffle<f64>(x, y, 1, 3));
  }
  if (n & 1) {
    let x = both(l, r);
    {
      const p = nmadd(v128.load(COEFFICIENTS, 32), u1, madd(v128.load(COEFFICIENTS, 16), x, u2));
      const q = nmadd(v128.load(COEFFICIENTS, 64), u1, f64x2.mul(v128.load(COEFFICIENTS, 48), x));
      x = madd(v128.load(COEFFICIENTS, 0), x, u1);
      u1 = p;
      u2 = q;
    }
    v128.store64_lane(l, x, 0);
    v128.store64_lane(r, x, 1);
  }
  keep(sp, u1, u2);
}

// @ts-ignore: decorators are part of the language
@inline
/** one state of both sides: left at s, right 16 bytes on */
function sides(s: usize, at: usize): v128 { return both(s + at, s + at + 16); }

// @ts-ignore: decorators are part of the language
@inline
/** what is under 1e-30 becomes zero: denormal numbers cost ten times */
function settled(v: v128): v128 { return v128.and(v, f64x2.gt(f64x2.abs(v), f64x2.splat(1e-30))); }

// @ts-ignore: decorators are part of the language
@inline
function keep(s: usize, s1: v128, s2: v128): void {
  s1 = settled(s1);
  s2 = settled(s2);
  v128.store64_lane(s, s1, 0); v128.store64_lane(s + 8, s2, 0);
  v128.store64_lane(s + 16, s1, 1); v128.store64_lane(s + 24, s2, 1);
}

// @ts-ignore: decorators are part of the language
@inline
function nth(list: usize, k: i32): i32 { return load<i32>(list + (<usize>k << 2)); }

/** The sections listed in `list` (i32), in order, on n samples of both sides. */
export function cascade(l: usize, r: usize, n: i32, c: usize, s: usize, list: usize, count: i32): void {
  let k = 0;
  for (; k + 3 < count; k += 4) four(l, r, n, c, s, nth(list, k), nth(list, k + 1), nth(list, k + 2), nth(list, k + 3));
  if (k + 1 < count) { two(l, r, n, c, s, nth(list, k), nth(list, k + 1)); k += 2; }
  if (k < count) one(l, r, n, c, s, nth(list, k));
}
