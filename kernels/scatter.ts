// A step of the reverb's network: the same as core/devices/kernels/scatter.ts, which is its check and its fallback, and says what the rings, the map, the values and the rows are. Rows hold 16 samples (128 bytes); four
// samples at a time, and up to three more than asked for where their count is no multiple of four: they are written over before they are read.

import { both, madd, nmadd } from './arithmetic';

const N: usize = 16;
const ROW: usize = 128;
const U: usize = 0, V: usize = N * ROW, X: usize = 2 * N * ROW, Y: usize = X + 2 * ROW;
const LINES: usize = 48, SCATTER: usize = 64, INPUTS: usize = 80, SUMS: usize = 82, RINGS: usize = 84;
const TAP_COUNT: usize = 3 * RINGS, TAP_LEFT: usize = TAP_COUNT + 1, TAP_RIGHT: usize = TAP_LEFT + N;
const ABSORB: usize = 48, TURN: usize = ABSORB + 5 * N, OUT: usize = TURN + 2 * N, DIRECT: usize = OUT + 8, EARLY_LEFT: usize = DIRECT + 8, EARLY_RIGHT: usize = EARLY_LEFT + N;

/** gains of rings that come out as they are */
const ONES: usize = memory.data<f64>([1, 1, 1, 1, 1, 1, 1, 1, 1, 1, 1, 1, 1, 1, 1, 1]);

// @ts-ignore: decorators are part of the language
@inline
/** Byte address in a ring of the sample that lies `back` behind `at`. */
function place(rings: usize, map: usize, ring: usize, at: i32, back: i32): usize {
  const entry = map + ring * 12;
  return rings + (<usize>(load<i32>(entry) + ((at - back) & load<i32>(entry, 4))) << 3);
}
// @ts-ignore: decorators are part of the language
@inline
function delayOf(map: usize, ring: usize): i32 { return load<i32>(map + ring * 12, 8); }

/** A row into a ring, and into what repeats its beginning. */
function write(rings: usize, map: usize, ring: usize, at: i32, row: usize, bytes: usize): void {
  copy(place(rings, map, ring, at, 0), row, bytes);
  repeat(rings, map, ring, at, bytes);
}
// @ts-ignore: decorators are part of the language
@inline
function copy(to: usize, from: usize, bytes: usize): void {
  for (let o: usize = 0; o < bytes; o += 32) {
    const a = v128.load(from + o), b = v128.load(from + o, 16);
    v128.store(to + o, a);
    v128.store(to + o, b, 16);
  }
}

/** What was just written at the beginning of a ring, into what repeats it. */
function repeat(rings: usize, map: usize, ring: usize, at: i32, bytes: usize): void {
  const mask = load<i32>(map + ring * 12, 4), from = place(rings, map, ring, at, 0);
  if ((at & mask) < 16) copy(from + (<usize>(mask + 1) << 3), from, bytes);
}

/** The first reflections of one side: a whole row, half of it at a time, which fits into registers. */
function reflect(rings: usize, map: usize, ring: usize, at: i32, count: i32, taps: usize, gains: usize, row: usize): void {
  for (let o: usize = 0; o < ROW; o += 64) {
    let a = f64x2.splat(0), b = a, c = a, d = a;
    for (let t: usize = 0; t < <usize>count; t++) {
      const back = place(rings, map, ring, at, load<i32>(taps + (t << 2))) + o, g = v128.load64_splat(gains + (t << 3));
      a = madd(g, v128.load(back), a);
      b = madd(g, v128.load(back, 16), b);
      c = madd(g, v128.load(back, 32), c);
      d = madd(g, v128.load(back, 48), d);
    }
    v128.store(row + o, a); v128.store(row + o, b, 16); v128.store(row + o, c, 32); v128.store(row + o, d, 48);
  }
}

/** Rows times the Hadamard matrix of sixteen, not scaled, in two halves of four times four. */
function hadamard(rows: usize, bytes: usize): void {
  for (let j: usize = 0; j < 4; j++) butterfly(rows + j * ROW, 4 * ROW, bytes);
  for (let j: usize = 0; j < N; j += 4) butterfly(rows + j * ROW, ROW, bytes);
}
// @ts-ignore: decorators are part of the language
@inline
function butterfly(row: usize, apart: usize, bytes: usize): void {
  for (const end = row + bytes; row < end; row += 16) {
    const a = v128.load(row), b = v128.load(row + apart), c = v128.load(row + 2 * apart), d = v128.load(row + 3 * apart);
    const p = f64x2.add(a, b), q = f64x2.sub(a, b), u = f64x2.add(c, d), v = f64x2.sub(c, d);
    v128.store(row, f64x2.add(p, u));
    v128.store(row + apart, f64x2.add(q, v));
    v128.store(row + 2 * apart, f64x2.sub(p, u));
    v128.store(row + 3 * apart, f64x2.sub(q, v));
  }
}

/** The first half of the matrix on what comes out of four places of rings, times their gains (doubles, 32 bytes apart), into rows that lie four apart. */
function arrive(p: usize, q: usize, u: usize, w: usize, gains: usize, row: usize, bytes: usize): void {
  const gp = v128.load64_splat(gains), gq = v128.load64_splat(gains, 32), gu = v128.load64_splat(gains, 64), gw = v128.load64_splat(gains, 96);
  for (const end = row + bytes; row < end; row += 16, p += 16, q += 16, u += 16, w += 16) {
    const a = f64x2.mul(gp, v128.load(p)), b = f64x2.mul(gq, v128.load(q)), c = f64x2.mul(gu, v128.load(u)), d = f64x2.mul(gw, v128.load(w));
    const e = f64x2.add(a, b), f = f64x2.sub(a, b), g = f64x2.add(c, d), h = f64x2.sub(c, d);
    v128.store(row, f64x2.add(e, g));
    v128.store(row, f64x2.add(f, h), 512);
    v128.store(row, f64x2.sub(e, g), 1024);
    v128.store(row, f64x2.sub(f, h), 1536);
  }
}
/** The second half on four rows beside each other, into four places of rings. */
function leave(row: usize, p: usize, q: usize, u: usize, w: usize, bytes: usize): void {
  for (const end = row + bytes; row < end; row += 16, p += 16, q += 16, u += 16, w += 16) {
    const a = v128.load(row), b = v128.load(row, 128), c = v128.load(row, 256), d = v128.load(row, 384);
    const e = f64x2.add(a, b), f = f64x2.sub(a, b), g = f64x2.add(c, d), h = f64x2.sub(c, d);
    v128.store(p, f64x2.add(e, g));
    v128.store(q, f64x2.add(f, h));
    v128.store(u, f64x2.sub(e, g));
    v128.store(w, f64x2.sub(f, h));
  }
}
/** The same with a quarter of it on top of four other rows, of U. */
function leaveOver(row: usize, p: usize, q: usize, u: usize, w: usize, bytes: usize): void {
  const quarter = f64x2.splat(0.25);
  for (const end = row + bytes; row < end; row += 16, p += 16, q += 16, u += 16, w += 16) {
    const a = v128.load(row), b = v128.load(row, 128), c = v128.load(row, 256), d = v128.load(row, 384), under = row - V;
    const e = f64x2.add(a, b), f = f64x2.sub(a, b), g = f64x2.add(c, d), h = f64x2.sub(c, d);
    v128.store(p, madd(quarter, f64x2.add(e, g), v128.load(under)));
    v128.store(q, madd(quarter, f64x2.add(f, h), v128.load(under, 128)));
    v128.store(u, madd(quarter, f64x2.sub(e, g), v128.load(under, 256)));
    v128.store(w, madd(quarter, f64x2.sub(f, h), v128.load(under, 384)));
  }
}

// @ts-ignore: decorators are part of the language
@inline
function late(rings: usize, map: usize, ring: usize, at: i32): usize { return place(rings, map, ring, at, delayOf(map, ring)); }

/** Sixteen rings, from one on, come out through the first half of the matrix. */
function out(rings: usize, map: usize, ring: usize, at: i32, gains: usize, rows: usize, bytes: usize): void {
  for (let k = ring; k < ring + 4; k++, gains += 8, rows += ROW) {
    arrive(late(rings, map, k, at), late(rings, map, k + 4, at), late(rings, map, k + 8, at), late(rings, map, k + 12, at), gains, rows, bytes);
  }
}
/** Sixteen rows go through the second half into rings, from one on. */
function into(rings: usize, map: usize, ring: usize, at: i32, rows: usize, isOver: bool, bytes: usize): void {
  for (let k = ring; k < ring + N; k += 4, rows += 4 * ROW) {
    const p = place(rings, map, k, at, 0), q = place(rings, map, k + 1, at, 0), u = place(rings, map, k + 2, at, 0), w = place(rings, map, k + 3, at, 0);
    if (isOver) leaveOver(rows, p, q, u, w, bytes);
    else leave(rows, p, q, u, w, bytes);
    for (let r = k; r < k + 4; r++) repeat(rings, map, r, at, bytes);
  }
}

/** The absorbing filters of four lines beside each other, on exactly m samples: they remember. Reads the lines, fills their rows. */
function absorb(k: usize, m: i32, at: i32, rings: usize, map: usize, values: usize, filters: usize, work: usize): void {
  let p = place(rings, map, LINES + k, at, delayOf(map, LINES + k)), q = place(rings, map, LINES + k + 1, at, delayOf(map, LINES + k + 1));
  let u = place(rings, map, LINES + k + 2, at, delayOf(map, LINES + k + 2)), w = place(rings, map, LINES + k + 3, at, delayOf(map, LINES + k + 3));
  const c = values + (ABSORB + 5 * k) * 8, s = filters + k * 16;
  const b0 = both(c, c + 40), b1 = both(c + 8, c + 48), b2 = both(c + 16, c + 56), a1 = both(c + 24, c + 64), a2 = both(c + 32, c + 72);
  const d0 = both(c + 80, c + 120), d1 = both(c + 88, c + 128), d2 = both(c + 96, c + 136), e1 = both(c + 104, c + 144), e2 = both(c + 112, c + 152);
  let s1 = both(s, s + 16), s2 = both(s + 8, s + 24), t1 = both(s + 32, s + 48), t2 = both(s + 40, s + 56);
  let row = work + V + k * ROW;
  for (const end = row + (<usize>m << 3); row < end; row += 8, p += 8, q += 8, u += 8, w += 8) {
    const x = both(p, q), z = both(u, w);
    const y = madd(b0, x, s1), v = madd(d0, z, t1);
    s1 = nmadd(a1, y, madd(b1, x, s2));
    t1 = nmadd(e1, v, madd(d1, z, t2));
    s2 = nmadd(a2, y, f64x2.mul(b2, x));
    t2 = nmadd(e2, v, f64x2.mul(d2, z));
    v128.store64_lane(row, y, 0);
    v128.store64_lane(row + ROW, y, 1);
    v128.store64_lane(row + 2 * ROW, v, 0);
    v128.store64_lane(row + 3 * ROW, v, 1);
  }
  v128.store64_lane(s, s1, 0); v128.store64_lane(s + 16, s1, 1);
  v128.store64_lane(s + 8, s2, 0); v128.store64_lane(s + 24, s2, 1);
  v128.store64_lane(s + 32, t1, 0); v128.store64_lane(s + 48, t1, 1);
  v128.store64_lane(s + 40, t2, 0); v128.store64_lane(s + 56, t2, 1);
}

/** Turns each pair of channels against each other, into their rings. */
function turn(m: i32, at: i32, rings: usize, map: usize, values: usize, work: usize, bytes: usize): void {
  const two = f64x2.splat(2);
  for (let j: usize = 0; j < 8; j++) {
    const t = values + (TURN + 4 * j) * 8;
    const c0 = load<f64>(t), c1 = load<f64>(t, 8), d0 = load<f64>(t, 16), d1 = load<f64>(t, 24);
    let p = work + V + j * ROW, u = place(rings, map, SCATTER + j, at, 0), w = place(rings, map, SCATTER + j + 8, at, 0);
    const dc = f64x2.splat(c1), dd = f64x2.splat(d1), cc = f64x2.splat(c0), ss = f64x2.splat(d0);
    let i = f64x2.replace_lane(f64x2.splat(0), 1, 1);
    for (const end = p + bytes; p < end; p += 16, u += 16, w += 16) {
      const c = madd(i, dc, cc), d = madd(i, dd, ss), a = v128.load(p), b = v128.load(p, 1024);
      v128.store(u, nmadd(d, b, f64x2.mul(c, a)));
      v128.store(w, madd(d, a, f64x2.mul(c, b)));
      i = f64x2.add(i, two);
    }
    repeat(rings, map, SCATTER + j, at, bytes);
    repeat(rings, map, SCATTER + j + 8, at, bytes);
    store<f64>(t, c0 + <f64>m * c1);
    store<f64>(t, d0 + <f64>m * d1, 16);
  }
}

/** What is heard: first reflections, what was spread, and the lines. */
function listen(l: usize, r: usize, m: i32, values: usize, work: usize): void {
  let left = work + Y;
  const pairs = <usize>(m & ~1) << 3;
  for (let o: usize = 0; o < 128; o += 16) {
    if (o >= <usize>((m + 1) & ~1) << 3) break;
    let x = v128.load(left + o), y = v128.load(left + o, 128);
    for (let j: usize = 0; j < 8; j++) {
      const g = v128.load64_splat(values + (OUT + j) * 8), h = v128.load64_splat(values + (DIRECT + j) * 8);
      const u = work + j * 2 * ROW + o;
      const a = madd(g, v128.load(u, 2048), f64x2.mul(h, v128.load(u)));
      const b = madd(g, v128.load(u, 2176), f64x2.mul(h, v128.load(u, 128)));
      x = f64x2.add(x, f64x2.add(a, b));
      y = f64x2.add(y, f64x2.sub(a, b));
    }
    if (o < pairs) { v128.store(l + o, x); v128.store(r + o, y); }
    else { v128.store64_lane(l + o, x, 0); v128.store64_lane(r + o, y, 0); }
  }
}

// @ts-ignore: decorators are part of the language
@inline
/** Two samples into the rows of the input: both sides, their sum and their difference. */
function enter(row: usize, a: v128, b: v128): void {
  v128.store(row + X, f64x2.add(a, b));
  v128.store(row + X + ROW, f64x2.sub(a, b));
  v128.store(row + Y, a);
  v128.store(row + Y + ROW, b);
}

export function scatter(l: usize, r: usize, m: i32, at: i32, rings: usize, map: usize, values: usize, filters: usize, work: usize): void {
  const bytes = <usize>((m + 3) & ~3) << 3;
  const whole = <usize>(m & ~1) << 3;
  for (let o: usize = 0; o < whole; o += 16) enter(work + o, v128.load(l + o), v128.load(r + o));
  if (m & 1) enter(work + whole, v128.load64_zero(l + whole), v128.load64_zero(r + whole));
  write(rings, map, INPUTS, at, work + Y, bytes);
  write(rings, map, INPUTS + 1, at, work + Y + ROW, bytes);
  write(rings, map, SUMS, at, work + X, bytes);
  write(rings, map, SUMS + 1, at, work + X + ROW, bytes);
  const count = load<i32>(map + TAP_COUNT * 4);
  reflect(rings, map, INPUTS, at, count, map + TAP_LEFT * 4, values + EARLY_LEFT * 8, work + Y);
  reflect(rings, map, INPUTS + 1, at, count, map + TAP_RIGHT * 4, values + EARLY_RIGHT * 8, work + Y + ROW);
  for (let k: usize = 0; k < 4; k++) {
    // even lines hear the sum, odd ones the difference; k + 4, k + 8 and k + 12 are as even as k
    const ring = SUMS + (k & 1);
    arrive(place(rings, map, ring, at, delayOf(map, k)), place(rings, map, ring, at, delayOf(map, k + 4)), place(rings, map, ring, at, delayOf(map, k + 8)), place(rings, map, ring, at, delayOf(map, k + 12)), values + k * 8, work + U + k * ROW, bytes);
  }
  into(rings, map, N, at, work + U, false, bytes);
  out(rings, map, N, at, values + N * 8, work + U, bytes);
  into(rings, map, 2 * N, at, work + U, false, bytes);
  out(rings, map, 2 * N, at, values + 2 * N * 8, work + U, bytes);
  for (let j: usize = 0; j < N; j += 4) butterfly(work + U + j * ROW, ROW, bytes);
  for (let k: usize = 0; k < N; k += 4) absorb(k, m, at, rings, map, values, filters, work);
  listen(l, r, m, values, work);
  hadamard(work + V, bytes);
  turn(m, at, rings, map, values, work, bytes);
  out(rings, map, SCATTER, at, ONES, work + V, bytes);
  into(rings, map, LINES, at, work + V, true, bytes);
}
