import * as plain from './plain.ts';
import { BETWEEN_SIZE, betweenTable, between as plainBetween } from './between.ts';
import { head as plainHead, multiply as plainMultiply, type Spectra } from './convolve.ts';
import { envelope as plainEnvelope } from './envelope.ts';
import { peaks as plainPeaks } from './peaks.ts';
import { scatter as plainScatter, type ScatterState } from './scatter.ts';
import { Segments, type Segment, type Wasm } from './memory.ts';
import { BINARIES } from './wasm.gen.ts';

export { Arena, within } from './memory.ts';
export { CEILING, FLOOR, K1, K2, LK, MK, MX, MixList, S, T, W } from './plain.ts';

/**
 * The inner loops of EQ, compressor and mixing behind one door, and the buffers that they work on. Where
 * WebAssembly has SIMD, the kernels of kernels/index.ts run on buffers inside their memory; everything
 * else, buffers from elsewhere included, goes through the TypeScript ones. Which of the two it is, is found
 * once, before the first buffer is made, by running both on the same numbers.
 */
interface Simd {
  /** where what the kernels keep for themselves ends */
  END: { readonly value: number };
  cascade(l: number, r: number, n: number, c: number, s: number, list: number, count: number): void;
  compress(
    l: number,
    r: number,
    dl: number,
    dr: number,
    n: number,
    v: number,
    s: number,
    report: number,
    kr: number,
    work: number,
  ): void;
  powers(x: number, n: number): void;
  mix(l: number, r: number, n: number, table: number, count: number): void;
  raise(up: number, g: number, dst: number, n: number, taps: number, skip: number): void;
  lower(even: number, odd: number, g: number, dst: number, n: number, taps: number, skip: number): void;
  split(src: number, even: number, odd: number, n: number): void;
  saturate(x: number, n: number, gain: number, bias: number): void;
  saturateMean(x: number, n: number, gain: number, bias: number, s: number): void;
  unclean(l: number, r: number, n: number): number;
  widen(x: number, n: number, gain: number): number;
  clip(x: number, n: number, gain: number, ceiling: number, soft: number, s: number): void;
  tallest(x: number, n: number, h: number, taps: number): number;
  envelope(l: number, r: number, n: number, s: number): void;
  between(ring: number, mask: number, at: number, times: number, n: number, table: number): void;
  head(x: number, n: number, h: number, taps: number, out: number): void;
  multiply(
    sum: number,
    blocks: number,
    stride: number,
    count: number,
    parts: number,
    bins: number,
    newest: number,
    from: number,
    to: number,
  ): void;
  peaks(x: number, n: number, h: number, taps: number, row: number, out: number): void;
  scatter(
    l: number,
    r: number,
    m: number,
    at: number,
    rings: number,
    map: number,
    values: number,
    filters: number,
    work: number,
  ): void;
}

/** Sources that one call of the mixing kernel takes. */
const TABLE_SLOTS = 64;
/** behind what the kernels keep for themselves */
const TABLE = 1024;
/** the taps between samples stand in every segment */
const TAPS = TABLE + TABLE_SLOTS * 24;
const RESERVED = TAPS + BETWEEN_SIZE * 8;
const furnish = (heap: Float64Array) => heap.set(betweenTable(), TAPS / 8);

let memory: Segments<Simd> | null = null;
let isChosen = false;
/** The kernels' memory; who needs the first buffer chooses. A page that only shows things never does. */
function chosen(): Segments<Simd> | null {
  if (!isChosen) choose(BINARIES);
  return memory;
}
/** whether new buffers go where the kernels reach them, and the kernels run */
let wanted = true;

/**
 * The segment that an array lies in; null when SIMD is not there or not wanted, or the array lies outside.
 * Every door below asks it for one array and all others for the same buffer, before an offset reaches a
 * kernel. (Written out, since arguments in a list would be an allocation for every block.)
 */
const home = (array: Float64Array): Segment<Simd> | null => (memory && wanted ? memory.of(array) : null);

/**
 * Runs f; the buffers made meanwhile lie beside an array, or, without one, together: a line with its devices
 * runs in one kind of kernels from end to end.
 */
export function beside<R>(array: Float64Array | null, f: () => R): R {
  const there = chosen();
  return there ? there.beside(array, f) : f();
}

/** A buffer of n doubles, all zero, where the kernels reach it. */
export function doubles(n: number): Float64Array {
  const there = wanted ? chosen()?.take(n * 8, (b, at) => new Float64Array(b, at, n)) : null;
  return there ? there.fill(0) : new Float64Array(n);
}
/** The same with whatever is in it: for who fills all of it anyway, a part at a time. */
export const roughDoubles = (n: number): Float64Array =>
  (wanted ? chosen()?.take(n * 8, (b, at) => new Float64Array(b, at, n)) : null) ?? new Float64Array(n);
/** A buffer of n 32-bit whole numbers, all zero, where the kernels reach it. */
export function ints(n: number): Int32Array {
  const there = wanted ? chosen()?.take(n * 4, (b, at) => new Int32Array(b, at, n)) : null;
  return there ? there.fill(0) : new Int32Array(n);
}

/** Sections on the samples from … to − 1; see plain.cascade. */
export function cascade(
  l: Float64Array,
  r: Float64Array,
  from: number,
  to: number,
  c: Float64Array,
  s: Float64Array,
  list: Int32Array,
  count: number,
): void {
  if (count === 0) return;
  const at = home(l);
  if (
    at &&
    r.buffer === at.buffer &&
    c.buffer === at.buffer &&
    s.buffer === at.buffer &&
    list.buffer === at.buffer
  ) {
    at.kernels.cascade(
      l.byteOffset + from * 8,
      r.byteOffset + from * 8,
      to - from,
      c.byteOffset,
      s.byteOffset,
      list.byteOffset,
      count,
    );
  } else plain.cascade(l, r, from, to, c, s, list, count);
}

/** One gain for both sides, after the louder; see plain.linked. `work` holds maxBlock + 4 doubles. */
export function linked(
  l: Float64Array,
  r: Float64Array,
  dl: Float64Array,
  dr: Float64Array,
  from: number,
  to: number,
  v: Float64Array,
  s: Float64Array,
  report: Float64Array,
  kr: number,
  work: Float64Array,
): void {
  const at = home(l);
  if (
    at &&
    r.buffer === at.buffer &&
    dl.buffer === at.buffer &&
    dr.buffer === at.buffer &&
    v.buffer === at.buffer &&
    s.buffer === at.buffer &&
    report.buffer === at.buffer &&
    work.buffer === at.buffer
  ) {
    const o = from * 8;
    at.kernels.compress(
      l.byteOffset + o,
      r.byteOffset + o,
      dl.byteOffset + o,
      dr.byteOffset + o,
      to - from,
      v.byteOffset,
      s.byteOffset,
      report.byteOffset,
      kr,
      work.byteOffset,
    );
  } else plain.linked(l, r, dl, dr, from, to, v, s, report, kr, work);
}

/** The samples x from … to − 1 become 2^x; they lie in −48 … 16. */
export function powers(x: Float64Array, from: number, to: number): void {
  const simd = home(x)?.kernels;
  if (simd) simd.powers(x.byteOffset + from * 8, to - from);
  else plain.powers(x, from, to);
}

/**
 * Puts silence where either side is no finite number, for its first n samples; says whether there was any.
 * One such sample would stay in every filter and every echo that it passes.
 */
export function clean(l: Float64Array, r: Float64Array, n: number): boolean {
  const at = home(l);
  const isUnclean =
    at && r.buffer === at.buffer
      ? at.kernels.unclean(l.byteOffset, r.byteOffset, n) === 1
      : plain.unclean(l, r, n);
  if (!isUnclean) return false;
  for (let i = 0; i < n; i++) {
    if (!Number.isFinite(l[i])) l[i] = 0;
    if (!Number.isFinite(r[i])) r[i] = 0;
  }
  return true;
}

/** 32-bit numbers become doubles where they lie; true when one is no finite number; see plain.widen. */
export function widen(x: Float64Array, floats: Float32Array, n: number, gain: number): boolean {
  const simd = home(x)?.kernels;
  return simd ? simd.widen(x.byteOffset, n, gain) === 1 : plain.widen(x, floats, n, gain);
}

/** Adds all sources of a list to l and r. */
export function mix(l: Float64Array, r: Float64Array, n: number, m: plain.MixList): void {
  if (m.count === 0) return;
  const at = m.count <= TABLE_SLOTS ? home(l) : null;
  if (!at || r.buffer !== at.buffer || !fillTable(at, m)) {
    plain.mix(l, r, n, m);
    return;
  }
  at.kernels.mix(l.byteOffset, r.byteOffset, n, TABLE, m.count);
}

/** Writes where the sources lie and how loud they are; false when one lies elsewhere. */
function fillTable({ buffer, heap, words }: Segment<Simd>, m: plain.MixList): boolean {
  for (let k = 0; k < m.count; k++) {
    const [a, b] = [m.l[k], m.r[k]];
    if (a.buffer !== buffer || b.buffer !== buffer) return false;
    words[TABLE / 4 + k * 6] = a.byteOffset;
    words[TABLE / 4 + k * 6 + 1] = b.byteOffset;
    heap[TABLE / 8 + k * 3 + 1] = m.gl[k];
    heap[TABLE / 8 + k * 3 + 2] = m.gr[k];
  }
  return true;
}

/** Half-band filter upwards; see plain.raise. */
export function raise(
  up: Float64Array,
  g: Float64Array,
  dst: Float64Array,
  at: number,
  n: number,
  taps: number,
  skip: number,
): void {
  const own = home(up);
  if (own && g.buffer === own.buffer && dst.buffer === own.buffer) {
    own.kernels.raise(up.byteOffset, g.byteOffset, dst.byteOffset + at * 8, n, taps, skip);
  } else plain.raise(up, g, dst, at, n, taps, skip);
}

/** Half-band filter downwards; see plain.lower. */
export function lower(
  src: Float64Array,
  even: Float64Array,
  odd: Float64Array,
  g: Float64Array,
  dst: Float64Array,
  n: number,
  taps: number,
  skip: number,
): void {
  const at = home(src);
  const isTogether = at && even.buffer === at.buffer && odd.buffer === at.buffer && g.buffer === at.buffer;
  if (!isTogether) {
    plain.lower(src, even, odd, g, dst, n, taps, skip);
    return;
  }
  const simd = at.kernels;
  simd.split(src.byteOffset, even.byteOffset + taps * 8, odd.byteOffset + taps * 8, n);
  if (dst.buffer === at.buffer) {
    simd.lower(even.byteOffset, odd.byteOffset, g.byteOffset, dst.byteOffset, n, taps, skip);
  } else plain.sumDown(even, odd, g, dst, n, taps, skip);
}

/**
 * (tanh(gain · x + bias) − tanh(bias)) / (1 − tanh²(bias)) on the samples from … to − 1, an even number of
 * them.
 */
export function saturate(x: Float64Array, from: number, to: number, gain: number, bias: number): void {
  const simd = home(x)?.kernels;
  if (simd) simd.saturate(x.byteOffset + from * 8, to - from, gain, bias);
  else plain.saturate(x, from, to, gain, bias);
}

/** Saturation by the antiderivative on the samples from … to − 1, an even number of them; see plain.saturateMean. */
export function saturateMean(
  x: Float64Array,
  from: number,
  to: number,
  gain: number,
  bias: number,
  s: Float64Array,
): void {
  const at = home(x);
  if (at && s.buffer === at.buffer) {
    at.kernels.saturateMean(x.byteOffset + from * 8, to - from, gain, bias, s.byteOffset);
  } else plain.saturateMean(x, from, to, gain, bias, s);
}

/**
 * Clipping by the antiderivative on the samples from … to − 1, an even number of them; see plain.clipBlock.
 */
export function clipBlock(
  x: Float64Array,
  from: number,
  to: number,
  gain: number,
  ceiling: number,
  soft: number,
  s: Float64Array,
): void {
  const at = home(x);
  if (at && s.buffer === at.buffer) {
    at.kernels.clip(x.byteOffset + from * 8, to - from, gain, ceiling, soft, s.byteOffset);
  } else plain.clipBlock(x, from, to, gain, ceiling, soft, s);
}

/**
 * The largest magnitude of three filters at n places of a window, each over as many samples from there on as it has
 * taps; h: their taps, interleaved.
 */
export function tallest(x: Float64Array, n: number, h: Float64Array): number {
  const at = n % 4 === 0 ? home(x) : null;
  return at && h.buffer === at.buffer
    ? at.kernels.tallest(x.byteOffset, n, h.byteOffset, h.length / 3)
    : plain.tallest(x, n, h);
}

/** The first n samples of both sides become their sizes; see envelope.envelope. */
export function envelope(l: Float64Array, r: Float64Array, n: number, s: Float64Array): void {
  const at = home(l);
  if (at && r.buffer === at.buffer && s.buffer === at.buffer) {
    at.kernels.envelope(l.byteOffset, r.byteOffset, n, s.byteOffset);
  } else plainEnvelope(l, r, n, s);
}

/** A delay line read between its samples; see between.between. */
export function between(ring: Float64Array, mask: number, at: number, times: Float64Array, n: number): void {
  const own = home(ring);
  if (own && times.buffer === own.buffer) {
    own.kernels.between(ring.byteOffset, mask, at, times.byteOffset, n, TAPS);
  } else plainBetween(ring, mask, at, times, n);
}

/** The first samples of a convolution; see convolve.head. Three samples behind the last are read and written, too. */
export function head(
  x: Float64Array,
  from: number,
  n: number,
  h: Float64Array,
  out: Float64Array,
  at: number,
): void {
  const own = home(x);
  if (own && h.buffer === own.buffer && out.buffer === own.buffer) {
    own.kernels.head(x.byteOffset + from * 8, n, h.byteOffset, h.length, out.byteOffset + at * 8);
  } else plainHead(x, from, n, h, out, at);
}

/** Adds products of spectra; see convolve.multiply. A number of bins that four divides. */
export function multiply(sum: Float64Array, s: Spectra, newest: number, from: number, to: number): void {
  const own = home(sum);
  if (own && s.blocks.buffer === own.buffer && s.parts.buffer === own.buffer) {
    own.kernels.multiply(
      sum.byteOffset,
      s.blocks.byteOffset + s.first * 8,
      s.stride,
      s.count,
      s.parts.byteOffset,
      s.bins,
      newest,
      from,
      to,
    );
  } else plainMultiply(sum, s, newest, from, to);
}

/** The height of n places, each at least what it was; see peaks.peaks. Three behind the last are looked at, too. */
export function peaks(
  x: Float64Array,
  from: number,
  n: number,
  h: Float64Array,
  taps: number,
  out: Float64Array,
  at: number,
): void {
  const own = home(x);
  if (own && h.buffer === own.buffer && out.buffer === own.buffer) {
    own.kernels.peaks(
      x.byteOffset + from * 8,
      n,
      h.byteOffset,
      taps,
      h.length / taps,
      out.byteOffset + at * 8,
    );
  } else plainPeaks(x, from, n, h, taps, out, at);
}

/** A few samples of the reverb's network, from … from + m − 1; see scatter.scatter. */
export function scatter(
  l: Float64Array,
  r: Float64Array,
  from: number,
  m: number,
  at: number,
  s: ScatterState,
): void {
  const own = home(l);
  if (
    own &&
    r.buffer === own.buffer &&
    s.rings.buffer === own.buffer &&
    s.map.buffer === own.buffer &&
    s.values.buffer === own.buffer &&
    s.filters.buffer === own.buffer &&
    s.work.buffer === own.buffer
  ) {
    own.kernels.scatter(
      l.byteOffset + from * 8,
      r.byteOffset + from * 8,
      m,
      at,
      s.rings.byteOffset,
      s.map.byteOffset,
      s.values.byteOffset,
      s.filters.byteOffset,
      s.work.byteOffset,
    );
  } else plainScatter(l, r, from, m, at, s);
}

/**
 * dst[at …] = src[from …], n of them; the two stretches may lie in one buffer. Inside the kernels' memory the
 * machine's own move does it, without making a view.
 */
export function copy(dst: Float64Array, at: number, src: Float64Array, from: number, n: number): void {
  const segment = memory?.of(dst);
  if (segment && src.buffer === segment.buffer) {
    const first = src.byteOffset / 8 + from;
    segment.heap.copyWithin(dst.byteOffset / 8 + at, first, first + n);
  } else for (let i = 0; i < n; i++) dst[at + i] = src[from + i];
}

/** Chooses now, for a thread that must not stop for it later. */
export const makeReady = (): void => void chosen();

/** Which kernels run: “simd” or “plain”. */
export const backend = (): 'simd' | 'plain' => (chosen() && wanted ? 'simd' : 'plain');

/**
 * Chooses by hand, for checks and benches; asking for SIMD where there is none leaves the plain ones. What
 * was made before goes on as it is.
 */
export function useBackend(which: 'simd' | 'plain'): void {
  wanted = which === 'simd';
}

/** Takes the first kernels that run here and agree with the plain ones. */
function choose(binaries: readonly Uint8Array[]): void {
  isChosen = true;
  const asked = wanted;
  memory = binaries.reduce<typeof memory>((found, binary) => found ?? tried(binary), null);
  wanted = asked;
}
/** The memory of kernels that do what the plain ones do; null where they don't. */
function tried(binary: Uint8Array): typeof memory {
  try {
    const wasm = (globalThis as unknown as { WebAssembly: Wasm }).WebAssembly;
    memory = new Segments<Simd>(wasm, new wasm.Module(binary), RESERVED, furnish);
    return agrees() ? memory : null;
  } catch {
    // no WebAssembly, no SIMD of this kind, or a page that forbids it: the next, or the plain ones, do the work
    return null;
  }
}

/**
 * From now on every sum is rounded as everywhere else: fused multiply-add, which some machines have, would make another
 * last bit. What was made before goes on in the plain kernels.
 */
export function beExact(): void {
  choose(BINARIES.slice(1));
}

/**
 * Both backends on the same few samples: a SIMD unit that computes something else is not used, nor one whose own
 * memory reaches into the table.
 */
function agrees(): boolean {
  const n = 23;
  wanted = true;
  if (home(doubles(n))!.kernels.END.value > TABLE) return false;
  const run = () => {
    const [l, r] = [doubles(n), doubles(n)];
    for (let i = 0; i < n; i++) {
      l[i] = Math.sin(i);
      r[i] = Math.cos(i * 3);
    }
    const c = doubles(15);
    const s = doubles(12);
    const list = ints(3);
    c.set([0.9, -0.3, 0.1, -0.5, 0.2, 0.8, 0.1, 0, -0.2, 0.1, 0.7, 0, 0.2, 0.3, -0.1]);
    list.set([0, 1, 2]);
    cascade(l, r, 0, n, c, s, list, 3);
    const v = doubles(8);
    v.set([-3, 1, 0.75, 0.2, 0.1, 0.5, 1, 1]);
    linked(l, r, l, r, 0, n, v, doubles(4), doubles(2), 0, doubles(n + 4));
    const m = new plain.MixList();
    m.push(l, r, 0.5, 0.25);
    const [a, b] = [doubles(n), doubles(n)];
    mix(a, b, n, m);
    return [...a, ...b];
  };
  const fast = run();
  wanted = false;
  const slow = run();
  return fast.every((x, i) => Math.abs(x - slow[i]) < 1e-5);
}
