import * as plain from './plain.ts';
import { BINARIES } from './wasm.gen.ts';

export { CEILING, FLOOR, K1, K2, LK, MK, MX, MixList, S, T, W } from './plain.ts';

/**
 * The inner loops of EQ, compressor and mixing behind one door, and the buffers that they work on. Where
 * WebAssembly has SIMD, the kernels of kernels/index.ts run on buffers inside their memory; everything
 * else, buffers from elsewhere included, goes through the TypeScript ones. Which of the two it is, is found
 * once when this module loads, by running both on the same numbers.
 */
interface Simd {
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
  mix(l: number, r: number, n: number, table: number, count: number): void;
  raise(up: number, g: number, dst: number, n: number, taps: number, skip: number): void;
  lower(even: number, odd: number, g: number, dst: number, n: number, taps: number, skip: number): void;
  split(src: number, even: number, odd: number, n: number): void;
  saturate(x: number, n: number, gain: number, bias: number): void;
  clip(x: number, n: number, gain: number, ceiling: number, soft: number, s: number): void;
}

/** What is used of WebAssembly's own interface: the core knows neither a browser's names nor Node's. */
interface Wasm {
  Memory: new (o: { initial: number; maximum: number }) => { buffer: ArrayBuffer };
  Module: new (bytes: Uint8Array) => object;
  Instance: new (module: object, imports: object) => { exports: unknown };
}

/**
 * 48 MiB; pages that are never touched cost nothing. When it is full, buffers come from the heap and the
 * plain kernels take over.
 */
const BYTES = 48 * 1024 * 1024;
const TABLE_SLOTS = 64;

let buffer: ArrayBuffer | null = null;
let simd: Simd | null = null;
/** all of the kernels' memory as doubles */
let heap: Float64Array | null = null;
let wanted = true;
let top = 256;
const free = new Map<number, number[]>();
let table = 0;
let tableInts: Int32Array = new Int32Array(0);
let tableDoubles: Float64Array = new Float64Array(0);

const returned = new FinalizationRegistry<[object, number, number]>(([of, at, bytes]) =>
  giveBack(of, at, bytes),
);
const giveBack = (of: object, at: number, bytes: number) => {
  if (of !== buffer) return;
  const list = free.get(bytes);
  if (list) list.push(at);
  else free.set(bytes, [at]);
};

/** Buffers that were made for something that ends at a known moment. */
export class Arena {
  readonly made: { token: object; of: object; at: number; bytes: number }[] = [];
  /** Gives everything back at once; none of the buffers may be used any more. */
  release(): void {
    for (const m of this.made) {
      returned.unregister(m.token);
      giveBack(m.of, m.at, m.bytes);
    }
    this.made.length = 0;
  }
}
let arena: Arena | null = null;
/** Runs f; the buffers made meanwhile belong to the arena. */
export function within<R>(a: Arena | null, f: () => R): R {
  const before = arena;
  arena = a;
  try {
    return f();
  } finally {
    arena = before;
  }
}

function take(bytes: number, as: (b: ArrayBuffer, at: number) => object): object | null {
  if (!buffer || !wanted) return null;
  const size = (bytes + 15) & ~15;
  let at = free.get(size)?.pop();
  if (at === undefined) {
    if (top + size > BYTES) return null;
    at = top;
    top += size;
  }
  const out = as(buffer, at);
  const token = {};
  returned.register(out, [buffer, at, size], token);
  arena?.made.push({ token, of: buffer, at, bytes: size });
  return out;
}

/** A buffer of n doubles, all zero, where the kernels reach it. */
export function doubles(n: number): Float64Array {
  const a = take(n * 8, (b, at) => new Float64Array(b, at, n)) as Float64Array | null;
  return a ? a.fill(0) : new Float64Array(n);
}
/** The same of 32-bit whole numbers. */
export function ints(n: number): Int32Array {
  const a = take(n * 4, (b, at) => new Int32Array(b, at, n)) as Int32Array | null;
  return a ? a.fill(0) : new Int32Array(n);
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
  if (simd && l.buffer === buffer && r.buffer === buffer && s.buffer === buffer) {
    simd.cascade(
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
  if (
    simd &&
    l.buffer === buffer &&
    r.buffer === buffer &&
    dl.buffer === buffer &&
    dr.buffer === buffer &&
    s.buffer === buffer
  ) {
    const o = from * 8;
    simd.compress(
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

/** Adds all sources of a list to l and r. */
export function mix(l: Float64Array, r: Float64Array, n: number, m: plain.MixList): void {
  if (m.count === 0) return;
  if (!simd || l.buffer !== buffer || r.buffer !== buffer || m.count > TABLE_SLOTS) {
    plain.mix(l, r, n, m);
    return;
  }
  for (let k = 0; k < m.count; k++) {
    const a = m.l[k];
    const b = m.r[k];
    if (a.buffer !== buffer || b.buffer !== buffer) {
      plain.mix(l, r, n, m);
      return;
    }
    tableInts[k * 6] = a.byteOffset;
    tableInts[k * 6 + 1] = b.byteOffset;
    tableDoubles[k * 3 + 1] = m.gl[k];
    tableDoubles[k * 3 + 2] = m.gr[k];
  }
  simd.mix(l.byteOffset, r.byteOffset, n, table, m.count);
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
  if (simd && up.buffer === buffer && dst.buffer === buffer && g.buffer === buffer) {
    simd.raise(up.byteOffset, g.byteOffset, dst.byteOffset + at * 8, n, taps, skip);
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
  if (
    simd &&
    src.buffer === buffer &&
    even.buffer === buffer &&
    odd.buffer === buffer &&
    g.buffer === buffer
  ) {
    simd.split(src.byteOffset, even.byteOffset + taps * 8, odd.byteOffset + taps * 8, n);
    if (dst.buffer === buffer) {
      simd.lower(even.byteOffset, odd.byteOffset, g.byteOffset, dst.byteOffset, n, taps, skip);
      return;
    }
    plain.sumDown(even, odd, g, dst, n, taps, skip);
    return;
  }
  plain.lower(src, even, odd, g, dst, n, taps, skip);
}

/**
 * (tanh(gain · x + bias) − tanh(bias)) / (1 − tanh²(bias)) on the samples from … to − 1, an even number of
 * them.
 */
export function saturate(x: Float64Array, from: number, to: number, gain: number, bias: number): void {
  if (simd && x.buffer === buffer) simd.saturate(x.byteOffset + from * 8, to - from, gain, bias);
  else plain.saturate(x, from, to, gain, bias);
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
  if (simd && x.buffer === buffer && s.buffer === buffer) {
    simd.clip(x.byteOffset + from * 8, to - from, gain, ceiling, soft, s.byteOffset);
  } else plain.clipBlock(x, from, to, gain, ceiling, soft, s);
}

/**
 * dst[at …] = src[from …], n of them; the two stretches may lie in one buffer. Inside the kernels' memory the
 * machine's own move does it, without making a view.
 */
export function copy(dst: Float64Array, at: number, src: Float64Array, from: number, n: number): void {
  if (heap && dst.buffer === buffer && src.buffer === buffer) {
    const s = src.byteOffset / 8 + from;
    heap.copyWithin(dst.byteOffset / 8 + at, s, s + n);
  } else for (let i = 0; i < n; i++) dst[at + i] = src[from + i];
}

/** Which kernels run: “simd” or “plain”. */
export const backend = (): 'simd' | 'plain' => (simd ? 'simd' : 'plain');

/**
 * Chooses by hand, for checks and benches; asking for SIMD where there is none leaves the plain ones. What
 * was made before goes on as it is.
 */
export function useBackend(which: 'simd' | 'plain'): void {
  wanted = which === 'simd';
  simd = wanted ? loaded : null;
}

let loaded: Simd | null = null;
for (const binary of BINARIES) {
  try {
    const wasm = (globalThis as unknown as { WebAssembly: Wasm }).WebAssembly;
    const memory = new wasm.Memory({ initial: BYTES / 65536, maximum: BYTES / 65536 });
    const instance = new wasm.Instance(new wasm.Module(binary), {
      env: {
        memory,
        abort: () => {
          throw new Error('A kernel stopped.');
        },
      },
    });
    buffer = memory.buffer;
    heap = new Float64Array(buffer);
    simd = loaded = instance.exports as Simd;
    table = 256;
    tableInts = new Int32Array(buffer, table, TABLE_SLOTS * 6);
    tableDoubles = new Float64Array(buffer, table, TABLE_SLOTS * 3);
    top = table + TABLE_SLOTS * 24;
    if (agrees()) break;
  } catch {
    /* no WebAssembly, no SIMD of this kind in it, or a page that does not allow it: the next one, or the plain kernels, do the same work */
  }
  simd = loaded = null;
  buffer = null;
}

/** Both backends on the same few samples: a SIMD unit that computes something else is not used. */
function agrees(): boolean {
  const n = 23;
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
  simd = null;
  const slow = run();
  simd = loaded;
  return fast.every((x, i) => Math.abs(x - slow[i]) < 1e-5);
}
