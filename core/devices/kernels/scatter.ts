/**
 * A few samples of the reverb's network in TypeScript: what the SIMD kernel is checked against, and what runs where
 * there is no SIMD.
 */

/** channels of the network */
const N = 16;
/** samples that are worked on together at most; no delay is shorter, so within a step nothing waits for itself */
export const STEP = 16;
/** samples behind the end of a ring that repeat its beginning: a step is read in one piece */
export const GUARD = 72;

/**
 * Rings: the stages that spread the input (the first has delays only, into the rings of sum and difference), the lines,
 * the delays of the scattering, the input of both sides, their sum and their difference.
 */
export const SPREAD = 0;
export const LINES = 3 * N;
export const SCATTER = 4 * N;
export const INPUTS = 5 * N;
export const SUMS = 5 * N + 2;
export const RINGS = 5 * N + 4;
/** Places in the map: offset, mask and delay of each ring, then how many first reflections there are, and theirs. */
export const TAP_COUNT = 3 * RINGS;
export const TAP_LEFT = TAP_COUNT + 1;
export const TAP_RIGHT = TAP_LEFT + N;
export const MAP = TAP_RIGHT + N;
/** Places in the values: gains of the spreading, absorbing filters, turns, outputs, gains of the first reflections. */
export const GAINS = 0;
export const ABSORB = 3 * N;
/** cosine and its step, sine and its step, of each pair of channels */
export const TURN = ABSORB + 5 * N;
export const OUT = TURN + 4 * (N / 2);
export const DIRECT = OUT + N / 2;
export const EARLY_LEFT = DIRECT + N / 2;
export const EARLY_RIGHT = EARLY_LEFT + N;
export const VALUES = EARLY_RIGHT + N;
/** Rows of a step: what is spread, the lines, sum and difference of the input, the outputs. */
const U = 0;
const V = N * STEP;
const X = 2 * N * STEP;
const Y = X + 2 * STEP;
export const WORK = Y + 2 * STEP;

/** What a step of the network works on. */
export interface ScatterState {
  rings: Float64Array;
  map: Int32Array;
  values: Float64Array;
  /** two states of each absorbing filter */
  filters: Float64Array;
  work: Float64Array;
}

/** The samples from … from + m − 1 of both sides become those of the network; `at` counts the samples before them. */
export function scatter(
  l: Float64Array,
  r: Float64Array,
  from: number,
  m: number,
  at: number,
  s: ScatterState,
): void {
  const { work, values } = s;
  for (let i = 0; i < m; i++) {
    const a = l[from + i];
    const b = r[from + i];
    work[X + i] = a + b;
    work[X + STEP + i] = a - b;
    work[Y + i] = a;
    work[Y + STEP + i] = b;
  }
  write(INPUTS, Y, m, at, s);
  write(INPUTS + 1, Y + STEP, m, at, s);
  write(SUMS, X, m, at, s);
  write(SUMS + 1, X + STEP, m, at, s);
  reflect(EARLY_LEFT, TAP_LEFT, 0, m, at, s);
  reflect(EARLY_RIGHT, TAP_RIGHT, 1, m, at, s);
  for (let k = 0; k < N; k++) {
    read(SUMS + (k & 1), s.map[3 * k + 2], U + k * STEP, values[GAINS + k], m, at, s);
  }
  hadamard(work, U, m);
  for (let k = N; k < 3 * N; k++) {
    swap(SPREAD + k, U + (k % N) * STEP, values[GAINS + k], m, at, s);
    if (k % N === N - 1) hadamard(work, U, m);
  }
  for (let k = 0; k < N; k++) {
    read(LINES + k, s.map[3 * (LINES + k) + 2], V + k * STEP, 1, m, at, s);
    absorb(k, m, s);
  }
  listen(l, r, from, m, s);
  hadamard(work, V, m);
  turn(m, s);
  for (let k = 0; k < N; k++) swap(SCATTER + k, V + k * STEP, 1, m, at, s);
  hadamard(work, V, m);
  for (let k = 0; k < N; k++) {
    for (let i = k * STEP; i < k * STEP + m; i++) work[V + i] = 0.25 * work[V + i] + work[U + i];
    write(LINES + k, V + k * STEP, m, at, s);
  }
}

function read(
  ring: number,
  delay: number,
  row: number,
  gain: number,
  m: number,
  at: number,
  s: ScatterState,
): void {
  const { rings, map, work } = s;
  const back = map[3 * ring] + ((at - delay) & map[3 * ring + 1]);
  for (let i = 0; i < m; i++) work[row + i] = gain * rings[back + i];
}

function write(ring: number, row: number, m: number, at: number, s: ScatterState): void {
  const { rings, map, work } = s;
  const mask = map[3 * ring + 1];
  const to = map[3 * ring] + (at & mask);
  for (let i = 0; i < m; i++) rings[to + i] = work[row + i];
  if ((at & mask) >= STEP) return;
  for (let i = 0; i < m; i++) rings[to + mask + 1 + i] = work[row + i];
}

/** A row goes into a ring, and what was in it comes out. */
function swap(ring: number, row: number, gain: number, m: number, at: number, s: ScatterState): void {
  write(ring, row, m, at, s);
  read(ring, s.map[3 * ring + 2], row, gain, m, at, s);
}

/** The first reflections of one side, into its output row. */
function reflect(gains: number, taps: number, side: number, m: number, at: number, s: ScatterState): void {
  const { rings, map, values, work } = s;
  const ring = 3 * (INPUTS + side);
  const row = Y + side * STEP;
  for (let i = 0; i < m; i++) work[row + i] = 0;
  for (let t = 0; t < map[TAP_COUNT]; t++) {
    const g = values[gains + t];
    const back = map[ring] + ((at - map[taps + t]) & map[ring + 1]);
    for (let i = 0; i < m; i++) work[row + i] += g * rings[back + i];
  }
}

/** Each sample of all channels times the Hadamard matrix of sixteen, not scaled. */
function hadamard(work: Float64Array, rows: number, m: number): void {
  for (let j = 0; j < 4; j++) butterfly(work, rows + j * STEP, 4 * STEP, m);
  for (let j = 0; j < N; j += 4) butterfly(work, rows + j * STEP, STEP, m);
}
function butterfly(work: Float64Array, row: number, apart: number, m: number): void {
  for (let i = row; i < row + m; i++) {
    const p = work[i] + work[i + apart];
    const q = work[i] - work[i + apart];
    const u = work[i + 2 * apart] + work[i + 3 * apart];
    const v = work[i + 2 * apart] - work[i + 3 * apart];
    work[i] = p + u;
    work[i + apart] = q + v;
    work[i + 2 * apart] = p - u;
    work[i + 3 * apart] = q - v;
  }
}

/** The absorbing filter of a line, transposed direct form II. */
function absorb(k: number, m: number, { work, values, filters }: ScatterState): void {
  const c = ABSORB + 5 * k;
  let s1 = filters[2 * k];
  let s2 = filters[2 * k + 1];
  for (let i = V + k * STEP; i < V + k * STEP + m; i++) {
    const x = work[i];
    const y = values[c] * x + s1;
    s1 = values[c + 1] * x - values[c + 3] * y + s2;
    s2 = values[c + 2] * x - values[c + 4] * y;
    work[i] = y;
  }
  filters[2 * k] = s1;
  filters[2 * k + 1] = s2;
}

/** What is heard of it: first reflections, what was spread, and the lines. */
function listen(l: Float64Array, r: Float64Array, from: number, m: number, s: ScatterState): void {
  const { work, values } = s;
  for (let i = 0; i < m; i++) {
    let left = work[Y + i];
    let right = work[Y + STEP + i];
    for (let j = 0; j < N / 2; j++) {
      const p = 2 * j * STEP + i;
      const q = p + STEP;
      const a = values[OUT + j] * work[V + p] + values[DIRECT + j] * work[U + p];
      const b = values[OUT + j] * work[V + q] + values[DIRECT + j] * work[U + q];
      left += a + b;
      right += a - b;
    }
    l[from + i] = left;
    r[from + i] = right;
  }
}

/** Turns each pair of channels against each other, a little further with each sample. */
function turn(m: number, { work, values }: ScatterState): void {
  for (let j = 0; j < N / 2; j++) {
    const t = TURN + 4 * j;
    const p = V + j * STEP;
    const q = p + (N / 2) * STEP;
    for (let i = 0; i < m; i++) {
      const c = values[t] + i * values[t + 1];
      const d = values[t + 2] + i * values[t + 3];
      const a = work[p + i];
      const b = work[q + i];
      work[p + i] = c * a - d * b;
      work[q + i] = d * a + c * b;
    }
    values[t] += m * values[t + 1];
    values[t + 2] += m * values[t + 3];
  }
}
