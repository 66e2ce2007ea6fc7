import { Inflate, inflateSync } from 'fflate';
import { FormatError } from './errors.ts';
import { crc32, crc32Of, inMemory, partOf, stretchesOf, wholeOf, type ByteSource } from './bytes.ts';

export interface ZipLimits {
  entries: number;
  entryBytes: number;
  totalBytes: number;
}
export const ZIP_LIMITS: ZipLimits = {
  entries: 5000,
  entryBytes: 512 * 1024 * 1024,
  totalBytes: 1024 * 1024 * 1024,
};
/** Files by name, without a prototype: any name is only a name. */
export type Entries = Record<string, Uint8Array>;
/** The same, wherever their bytes lie. */
export type Contents = Record<string, ByteSource>;

/**
 * Signatures of PKWARE APPNOTE 4.3.7, 4.3.12, 4.3.16 and, for archives over 4 GB, 4.3.14 and 4.3.15; the lengths of
 * what follows them.
 */
export const LOCAL = { mark: 0x04034b50, size: 30 };
export const CENTRAL = { mark: 0x02014b50, size: 46 };
export const END = { mark: 0x06054b50, size: 22 };
export const END64 = { mark: 0x06064b50, size: 56 };
export const LOCATOR64 = { mark: 0x07064b50, size: 20 };
/** the extra field with sizes and places that four bytes do not hold (APPNOTE 4.5.3), and what stands for them */
export const EXTRA64 = 1;
export const LONG = 0xffffffff;
export const MANY = 0xffff;
export const STORED = 0;
export const DEFLATED = 8;
/** bit of the general purpose flag: encrypted (APPNOTE 4.4.4) */
const ENCRYPTED = 1;
/** a directory longer than this is none */
const LONGEST_DIRECTORY = 64 * 1024 * 1024;
/** packed files up to this size are unpacked in memory, even where there is a place beside it */
const SMALL = 16 * 1024 * 1024;

/** An entry of an archive as it lies there: its line in the central directory and its packed data. */
export interface Part {
  name: string;
  line: Uint8Array;
  /** extra fields in front of the data */
  extra: Uint8Array;
  /** bytes when unpacked */
  size: number;
  packed: ByteSource;
}

/** An archive that was read, with what its files alone do not say: order, dates, packing, folders, comment. */
export interface Archive {
  entries: Contents;
  parts: Part[];
  comment: Uint8Array;
}

/** A place for what is unpacked and too long for memory. */
export interface Unpacking extends ByteSource {
  write(bytes: Uint8Array): void;
}
export interface OpenOptions {
  limits?: ZipLimits;
  /** memory, where there is none */
  scratch?: () => Unpacking;
  /** the archive was read whole once: what was found good then is not looked at again */
  trusted?: boolean;
}

/**
 * Opens a ZIP within limits on entry count and unpacked size; names that lead outside the archive are refused, and so
 * is an entry whose size or content is not as announced. What is stored as it is stays where it lies.
 */
export function openArchive(source: ByteSource, name: string, options: OpenOptions = {}): Archive {
  const start = source.read(0, 2);
  if (source.size < END.size || start[0] !== 0x50 || start[1] !== 0x4b) {
    const way = 'this is not a ZIP archive. Choose the file that the other program exported.';
    throw new FormatError(name, 'offset 0', way);
  }
  try {
    return new Opening(source, name, options).open();
  } catch (e) {
    if (e instanceof FormatError) throw e;
    throw new FormatError(name, '', `the archive is damaged (${(e as Error).message}). Export it again.`);
  }
}

/** The same of an archive in memory. */
export const readArchive = (bytes: Uint8Array, name: string, limits?: ZipLimits): Archive =>
  openArchive(inMemory(bytes), name, { limits });

/** The files of an archive alone. */
export function readZip(bytes: Uint8Array, name: string, limits?: ZipLimits): Entries {
  const out = noEntries<Uint8Array>();
  for (const [key, content] of Object.entries(readArchive(bytes, name, limits).entries)) {
    out[key] = wholeOf(content).slice();
  }
  return out;
}

export const noEntries = <T>(): Record<string, T> => Object.create(null) as Record<string, T>;
export const viewOf = (a: Uint8Array): DataView => new DataView(a.buffer, a.byteOffset, a.byteLength);
export const methodOf = (p: Part): number => viewOf(p.line).getUint16(10, true);
const sumOf = (p: Part) => viewOf(p.line).getUint32(16, true);
const wrong = (file: string, part: { name: string }, what: string) =>
  new FormatError(file, `entry “${part.name}”`, what);
const damaged = (file: string, part: Part) =>
  wrong(file, part, 'its content is damaged (checksum). Export it again.');
const long = (v: DataView, at: number) => Number(v.getBigUint64(at, true));

/** Where the directory lies. */
interface Directory {
  count: number;
  at: number;
  end: number;
  comment: Uint8Array;
}

class Opening {
  private readonly limits: ZipLimits;

  constructor(
    private readonly source: ByteSource,
    private readonly file: string,
    private readonly options: OpenOptions,
  ) {
    this.limits = options.limits ?? ZIP_LIMITS;
  }

  open(): Archive {
    const { count, at, end, comment } = this.directory();
    if (count > this.limits.entries) {
      throw new FormatError(this.file, '', `it holds more than ${this.limits.entries} entries.`);
    }
    if (at > end || end - at > LONGEST_DIRECTORY) throw new Error('its directory is missing');
    const lines = this.source.read(at, end - at);
    const entries = noEntries<ByteSource>();
    const parts: Part[] = [];
    const names = new Set<string>();
    let total = 0;
    for (let n = 0, from = 0; n < count; n++) {
      const part = this.partAt(lines, from);
      this.refuse(part, names);
      names.add(part.name);
      total += part.size;
      if (part.size > this.limits.entryBytes || total > this.limits.totalBytes) {
        const most = Math.round(this.limits.totalBytes / 1048576);
        throw wrong(this.file, part, `it unpacks to more than ${most} MB; the file was not read.`);
      }
      parts.push(part);
      if (!part.name.endsWith('/')) entries[part.name] = this.content(part);
      from += part.line.length;
    }
    return { entries, parts, comment };
  }

  private directory(): Directory {
    // the comment behind it is 65,535 bytes long at most
    const from = Math.max(0, this.source.size - END.size - 65535);
    const tail = this.source.read(from, this.source.size - from);
    const v = viewOf(tail);
    for (let i = tail.length - END.size; i >= 0; i--) {
      const isHere = v.getUint32(i, true) === END.mark;
      if (!isHere || i + END.size + v.getUint16(i + 20, true) > tail.length) continue;
      const found = {
        count: v.getUint16(i + 10, true),
        at: v.getUint32(i + 16, true),
        end: from + i,
        comment: tail.slice(i + END.size, i + END.size + v.getUint16(i + 20, true)),
      };
      return this.longDirectory(found) ?? found;
    }
    throw new Error('its directory is missing');
  }
  /** What the records for archives over 4 GB say, where they are there. */
  private longDirectory(found: Directory): Directory | null {
    const at = found.end - LOCATOR64.size;
    const locator = at < 0 ? new Uint8Array(0) : this.source.read(at, LOCATOR64.size);
    if (locator.length < LOCATOR64.size || viewOf(locator).getUint32(0, true) !== LOCATOR64.mark) return null;
    const end = long(viewOf(locator), 8);
    const record = this.source.read(end, END64.size);
    if (record.length < END64.size || viewOf(record).getUint32(0, true) !== END64.mark) {
      throw new Error('its directory is cut off');
    }
    return { ...found, count: long(viewOf(record), 32), at: long(viewOf(record), 48), end };
  }

  private partAt(lines: Uint8Array, from: number): Part {
    const v = viewOf(lines);
    if (from + CENTRAL.size > lines.length || v.getUint32(from, true) !== CENTRAL.mark) {
      throw new Error('its directory is cut off');
    }
    const [nameSize, extraSize, comment] = [28, 30, 32].map((o) => v.getUint16(from + o, true));
    const behind = from + CENTRAL.size + nameSize;
    const line = lines.subarray(from, behind + extraSize + comment);
    const name = new TextDecoder().decode(lines.subarray(from + CENTRAL.size, behind));
    const { size, packed, at } = this.sizes(v, from, lines.subarray(behind, behind + extraSize));
    const local = this.source.read(at, LOCAL.size);
    if (local.length < LOCAL.size || viewOf(local).getUint32(0, true) !== LOCAL.mark) {
      throw new Error('an entry is not where it should be');
    }
    const [localName, localExtra] = [26, 28].map((o) => viewOf(local).getUint16(o, true));
    const data = at + LOCAL.size + localName + localExtra;
    if (data + packed > this.source.size) throw new Error('an entry is cut off');
    const extra = this.source.read(data - localExtra, localExtra).slice();
    return { name, line, extra, size, packed: partOf(this.source, data, packed) };
  }
  /** Sizes and place of an entry, from the extra field where its line has no room for them. */
  private sizes(v: DataView, from: number, extra: Uint8Array): { size: number; packed: number; at: number } {
    const [packed, size, at] = [20, 24, 42].map((o) => v.getUint32(from + o, true));
    const field = [...fieldsOf(extra)].find((f) => f.id === EXTRA64);
    if (!field) return { size, packed, at };
    let next = 0;
    const real = (short: number) => {
      if (short !== LONG) return short;
      next += 8;
      return long(viewOf(field.data), next - 8);
    };
    // in this order, and only those that their own four bytes do not hold
    const [realSize, realPacked, realAt] = [real(size), real(packed), real(at)];
    return { size: realSize, packed: realPacked, at: realAt };
  }

  private refuse(part: Part, seen: ReadonlySet<string>): void {
    if (unsafe(part.name)) {
      throw wrong(this.file, part, 'this name leads outside the archive; the file was not read.');
    }
    if (seen.has(part.name)) throw wrong(this.file, part, 'this name is there twice.');
    if (viewOf(part.line).getUint16(8, true) & ENCRYPTED) {
      throw wrong(this.file, part, 'it is encrypted. Export it without a password.');
    }
    const method = methodOf(part);
    if (method !== STORED && method !== DEFLATED) {
      const what = `it is packed by a method (${method}) that is not read here. Export it again.`;
      throw wrong(this.file, part, what);
    }
    // deflate packs at most about 1032 : 1 (RFC 1951); more than that is a lie about the size
    if (part.size > 65536 && part.size > part.packed.size * 1100) {
      throw wrong(this.file, part, 'its announced size is impossible; the file was not read.');
    }
  }

  private content(part: Part): ByteSource {
    if (methodOf(part) === DEFLATED) return this.unpacked(part);
    if (part.packed.size < part.size) {
      throw wrong(this.file, part, 'it is shorter than announced. Export it again.');
    }
    const isGood = this.options.trusted || crc32Of(part.packed) === sumOf(part);
    if (part.packed.size > part.size || !isGood) throw damaged(this.file, part);
    return part.packed;
  }
  private unpacked(part: Part): ByteSource {
    const { scratch, trusted } = this.options;
    if (trusted) return unpackedLater(part, this.file);
    if (scratch && part.size > SMALL) return this.unpackedInto(part, scratch());
    // one byte more than announced, so that what is longer is seen
    const data = inflateSync(wholeOf(part.packed), { out: new Uint8Array(part.size + 1) }).slice();
    if (data.length < part.size) {
      throw wrong(this.file, part, 'it is shorter than announced. Export it again.');
    }
    if (data.length > part.size || crc32(data) !== sumOf(part)) throw damaged(this.file, part);
    return inMemory(data);
  }
  private unpackedInto(part: Part, place: Unpacking): ByteSource {
    let [size, sum] = [0, 0];
    const inflate = new Inflate((bytes) => {
      size += bytes.length;
      if (size > part.size) throw damaged(this.file, part);
      sum = crc32(bytes, sum);
      place.write(bytes);
    });
    for (const bytes of stretchesOf(part.packed)) inflate.push(bytes);
    inflate.push(new Uint8Array(0), true);
    if (size < part.size) throw wrong(this.file, part, 'it is shorter than announced. Export it again.');
    if (sum !== sumOf(part)) throw damaged(this.file, part);
    return partOf(place, 0, size);
  }
}

/** longer ones are kept when they were unpacked: they are read a stretch at a time */
const KEPT = 256 * 1024;

/** Packed data that was found good before: unpacked when somebody reads it. */
function unpackedLater(part: Part, file: string): ByteSource {
  let data: Uint8Array | null = null;
  const unpack = () => {
    try {
      return inflateSync(wholeOf(part.packed), { out: new Uint8Array(part.size) });
    } catch {
      throw damaged(file, part);
    }
  };
  const all = () => (part.size > KEPT ? (data ??= unpack()) : unpack());
  return { size: part.size, read: (at, n) => all().subarray(at, at + n) };
}

/** The extra fields of an entry (APPNOTE 4.5.1); what is cut off at their end is left out. */
export function* fieldsOf(extra: Uint8Array): Generator<{ id: number; data: Uint8Array; all: Uint8Array }> {
  const v = viewOf(extra);
  for (let at = 0; at + 4 <= extra.length;) {
    const end = at + 4 + v.getUint16(at + 2, true);
    if (end > extra.length) return;
    yield { id: v.getUint16(at, true), data: extra.subarray(at + 4, end), all: extra.subarray(at, end) };
    at = end;
  }
}

const unsafe = (n: string) =>
  n.includes('\\') ||
  n.includes('\0') ||
  n.startsWith('/') ||
  /^[a-z]:/i.test(n) ||
  n.split('/').includes('..');
