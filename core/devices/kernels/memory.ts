/**
 * The memory that the kernels reach. A WebAssembly memory that grows takes all views of it away, so it grows
 * in whole segments instead: each has a memory and an instance of the kernels of its own, and a kernel runs
 * where all of its arrays lie together.
 */

/** What is used of WebAssembly's own interface: the core knows neither a browser's names nor Node's. */
export interface Wasm {
  Memory: new (o: { initial: number; maximum: number }) => { buffer: ArrayBuffer };
  Module: new (bytes: Uint8Array) => object;
  Instance: new (module: object, imports: object) => { exports: unknown };
}

/** Bytes of a segment; pages that are never touched cost nothing. */
const SEGMENT = 64 * 1024 * 1024;
const PAGE = 65536;
/** More than this (2 GiB) is left to the heap and the plain kernels. */
const MOST = 32;
/** where a vector is read in one piece */
const ALIGN = 16;
/** Bytes that a line with its whole chain hardly ever needs more of. */
const LINE = 4 * 1024 * 1024;

interface Range {
  at: number;
  size: number;
}

/** One memory with its kernels, and which of its bytes are free. */
export class Segment<K> {
  readonly buffer: ArrayBuffer;
  /** all of it as doubles */
  readonly heap: Float64Array;
  /** the same as whole numbers of 32 bits */
  readonly words: Int32Array;
  readonly kernels: K;
  /** everything from here on was never given away */
  private top: number;
  /** given back, by size: a buffer of the same size is taken at once */
  private readonly exact = new Map<number, number[]>();
  /** given back and joined, by place */
  private ranges: Range[] = [];
  private loose = false;

  /** @param reserved bytes at the beginning that are not given away */
  constructor(wasm: Wasm, module: object, reserved: number) {
    const memory = new wasm.Memory({ initial: SEGMENT / PAGE, maximum: SEGMENT / PAGE });
    const abort = () => {
      throw new Error('A kernel stopped.');
    };
    this.kernels = new wasm.Instance(module, { env: { memory, abort } }).exports as K;
    this.buffer = memory.buffer;
    this.heap = new Float64Array(memory.buffer);
    this.words = new Int32Array(memory.buffer);
    this.top = align(reserved);
  }

  /** The place of so many bytes, or −1. */
  take(size: number): number {
    const same = this.exact.get(size)?.pop();
    if (same !== undefined) return same;
    if (this.top + size <= SEGMENT) {
      this.top += size;
      return this.top - size;
    }
    const from = this.split(size);
    if (from >= 0 || !this.loose) return from;
    this.join();
    if (this.top + size <= SEGMENT) {
      this.top += size;
      return this.top - size;
    }
    return this.split(size);
  }
  giveBack(at: number, size: number): void {
    const list = this.exact.get(size);
    if (list) list.push(at);
    else this.exact.set(size, [at]);
    this.loose = true;
  }

  /** Whether so many bytes are free in one piece. */
  hasRoom(size: number): boolean {
    if (this.top + size <= SEGMENT) return true;
    if (this.loose) this.join();
    return this.top + size <= SEGMENT || this.ranges.some((range) => range.size >= size);
  }

  private split(size: number): number {
    const i = this.ranges.findIndex((range) => range.size >= size);
    if (i < 0) return -1;
    const { at, size: room } = this.ranges[i];
    if (room === size) this.ranges.splice(i, 1);
    else this.ranges[i] = { at: at + size, size: room - size };
    return at;
  }
  /** Neighbours that are free become one, whatever their sizes were. */
  private join(): void {
    const all = [...this.ranges];
    for (const [size, places] of this.exact) for (const at of places) all.push({ at, size });
    all.sort((a, b) => a.at - b.at);
    const joined: Range[] = [];
    for (const range of all) {
      const last = joined.at(-1);
      if (last && last.at + last.size === range.at) last.size += range.size;
      else joined.push({ ...range });
    }
    const end = joined.at(-1);
    if (end && end.at + end.size === this.top) {
      this.top = end.at;
      joined.pop();
    }
    this.exact.clear();
    this.ranges = joined;
    this.loose = false;
  }
}

const align = (bytes: number) => (bytes + ALIGN - 1) & ~(ALIGN - 1);

/** Buffers that were made for something that ends at a known moment. */
export class Arena {
  readonly made: Lent[] = [];
  /** Gives everything back at once; none of the buffers may be used any more. */
  release(): void {
    for (const lent of this.made) {
      returned.unregister(lent);
      takeBack(lent);
    }
    this.made.length = 0;
  }
}
/** A place that was given away. It comes back once: twice, and two owners would have it afterwards. */
interface Lent {
  of: { giveBack(at: number, size: number): void };
  at: number;
  size: number;
  isBack: boolean;
}
function takeBack(lent: Lent): void {
  if (lent.isBack) return;
  lent.isBack = true;
  lent.of.giveBack(lent.at, lent.size);
}
/** Buffers that nobody holds any more come back by themselves, some time: also in the middle of an arena's life. */
const returned = new FinalizationRegistry<Lent>(takeBack);

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

/** All segments of one build of the kernels. */
export class Segments<K> {
  private readonly all: Segment<K>[] = [];
  private readonly byBuffer = new Map<ArrayBufferLike, Segment<K>>();
  private last: Segment<K>;
  private home: Segment<K> | null = null;

  constructor(
    private readonly wasm: Wasm,
    private readonly module: object,
    private readonly reserved: number,
    /** writes what stands in every segment from its beginning on, within what is reserved */
    private readonly furnish: (heap: Float64Array) => void,
  ) {
    this.last = this.add();
  }

  private add(): Segment<K> {
    const segment = new Segment<K>(this.wasm, this.module, this.reserved);
    this.furnish(segment.heap);
    this.all.push(segment);
    this.byBuffer.set(segment.buffer, segment);
    return segment;
  }

  /** The segment that an array lies in; null outside. */
  of(array: { readonly buffer: ArrayBufferLike }): Segment<K> | null {
    const { buffer } = array;
    if (buffer !== this.last.buffer) this.last = this.byBuffer.get(buffer) ?? this.last;
    return this.last.buffer === buffer ? this.last : null;
  }

  /** A view of so many bytes in one of the segments; null when there is no room left in any. */
  take<V extends object>(bytes: number, view: (buffer: ArrayBuffer, at: number) => V): V | null {
    const size = align(bytes);
    const at = this.home?.take(size) ?? -1;
    if (at >= 0) return this.hand(this.home!, at, size, view);
    for (;;) {
      for (let i = this.all.length - 1; i >= 0; i--) {
        const at = this.all[i].take(size);
        if (at >= 0) return this.hand(this.all[i], at, size, view);
      }
      if (size > SEGMENT - align(this.reserved) || this.all.length >= MOST) return null;
      try {
        this.add();
      } catch {
        // the machine has no more memory to reserve: the heap and the plain kernels take over
        return null;
      }
    }
  }
  /**
   * Runs f; the buffers made meanwhile lie where an array lies, or, without one, together in a segment that
   * has room for a whole line: kernels only run on what lies together.
   */
  beside<R>(array: Float64Array | null, f: () => R): R {
    const before = this.home;
    this.home = array ? this.of(array) : this.roomy();
    try {
      return f();
    } finally {
      this.home = before;
    }
  }
  private roomy(): Segment<K> | null {
    const found = this.all.findLast((segment) => segment.hasRoom(LINE));
    if (found || this.all.length >= MOST) return found ?? null;
    try {
      return this.add();
    } catch {
      return null;
    }
  }

  private hand<V extends object>(
    of: Segment<K>,
    at: number,
    size: number,
    view: (buffer: ArrayBuffer, at: number) => V,
  ): V {
    const made = view(of.buffer, at);
    const lent: Lent = { of, at, size, isBack: false };
    returned.register(made, lent, lent);
    arena?.made.push(lent);
    return made;
  }
}
