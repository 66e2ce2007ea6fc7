import { deflateSync, inflateSync } from 'fflate';
import { FormatError } from './errors.ts';

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

/** Signatures of PKWARE APPNOTE 4.3.7, 4.3.12 and 4.3.16, and the lengths of what follows them. */
const LOCAL = { mark: 0x04034b50, size: 30 };
const CENTRAL = { mark: 0x02014b50, size: 46 };
const END = { mark: 0x06054b50, size: 22 };
const STORED = 0;
const DEFLATED = 8;
/** bits of the general purpose flag: encrypted, sizes after the data, names in UTF-8 (APPNOTE 4.4.4) */
const ENCRYPTED = 1;
const SIZES_LATER = 8;
const UTF8 = 0x800;

/** An entry of an archive as it lies there: its line in the central directory and its packed data. */
interface Part {
  name: string;
  line: Uint8Array;
  extra: Uint8Array;
  packed: Uint8Array;
}

/** An archive that was read, with what its files alone do not say: order, dates, packing, folders, comment. */
export interface Archive {
  entries: Entries;
  parts: Part[];
  comment: Uint8Array;
}

const EMPTY: Archive = { entries: {}, parts: [], comment: new Uint8Array(0) };

/**
 * Unpacks a ZIP within limits on entry count and unpacked size; names that lead outside the archive are
 * refused, and so is an entry whose size or content is not as announced.
 */
export function readArchive(bytes: Uint8Array, name: string, limits: ZipLimits = ZIP_LIMITS): Archive {
  if (bytes.length < END.size || bytes[0] !== 0x50 || bytes[1] !== 0x4b) {
    const way = 'this is not a ZIP archive. Choose the file that the other program exported.';
    throw new FormatError(name, 'offset 0', way);
  }
  const v = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  const entries = noEntries();
  const parts: Part[] = [];
  const names = new Set<string>();
  let total = 0;
  try {
    const end = endOf(v);
    const count = v.getUint16(end + 10, true);
    if (count > limits.entries) {
      throw new FormatError(name, '', `it holds more than ${limits.entries} entries.`);
    }
    let at = v.getUint32(end + 16, true);
    for (let n = 0; n < count; n++) {
      const part = partAt(bytes, v, at);
      refuse(part, name, names);
      names.add(part.name);
      const size = sizeOf(part);
      total += size;
      if (size > limits.entryBytes || total > limits.totalBytes) {
        const most = Math.round(limits.totalBytes / 1048576);
        throw wrong(name, part, `it unpacks to more than ${most} MB; the file was not read.`);
      }
      parts.push(part);
      if (!part.name.endsWith('/')) entries[part.name] = unpacked(part, size, name);
      at += part.line.length;
    }
    return {
      entries,
      parts,
      comment: bytes.slice(end + END.size, end + END.size + v.getUint16(end + 20, true)),
    };
  } catch (e) {
    if (e instanceof FormatError) throw e;
    throw new FormatError(name, '', `the archive is damaged (${(e as Error).message}). Export it again.`);
  }
}

/** The files of an archive alone. */
export const readZip = (bytes: Uint8Array, name: string, limits?: ZipLimits): Entries =>
  readArchive(bytes, name, limits).entries;

/**
 * Packs entries in their order; the same input gives the same bytes.
 * @param from the archive that they come from: what is not changed is copied as it lies there (order, dates,
 * packing, folders, comment), what is new follows
 */
export function writeZip(entries: Entries, from: Archive = EMPTY): Uint8Array {
  const parts = from.parts.flatMap((p) => {
    if (p.name.endsWith('/') || entries[p.name] === from.entries[p.name]) return [p];
    return Object.hasOwn(entries, p.name) ? [packed(p.name, entries[p.name], p)] : [];
  });
  const known = new Set(from.parts.map((p) => p.name));
  for (const [name, data] of Object.entries(entries)) if (!known.has(name)) parts.push(packed(name, data));
  return joined(parts, from.comment);
}

export const noEntries = (): Entries => Object.create(null) as Entries;
/** The same files in a list of its own. */
export const copyEntries = (e: Entries): Entries => Object.assign(noEntries(), e);

const wrong = (file: string, part: Part, what: string) => new FormatError(file, `entry “${part.name}”`, what);
const view = (a: Uint8Array) => new DataView(a.buffer, a.byteOffset, a.byteLength);
const methodOf = (p: Part) => view(p.line).getUint16(10, true);
const sumOf = (p: Part) => view(p.line).getUint32(16, true);
const sizeOf = (p: Part) => view(p.line).getUint32(24, true);

function endOf(v: DataView): number {
  // the comment behind it is 65,535 bytes long at most
  const first = Math.max(0, v.byteLength - END.size - 65535);
  for (let at = v.byteLength - END.size; at >= first; at--) {
    if (v.getUint32(at, true) === END.mark && at + END.size + v.getUint16(at + 20, true) <= v.byteLength) {
      return at;
    }
  }
  throw new Error('its directory is missing');
}

function partAt(bytes: Uint8Array, v: DataView, at: number): Part {
  if (at + CENTRAL.size > bytes.length || v.getUint32(at, true) !== CENTRAL.mark) {
    throw new Error('its directory is cut off');
  }
  const [nameSize, extraSize, comment] = [28, 30, 32].map((o) => v.getUint16(at + o, true));
  const line = bytes.subarray(at, at + CENTRAL.size + nameSize + extraSize + comment);
  const local = v.getUint32(at + 42, true);
  if (local + LOCAL.size > bytes.length || v.getUint32(local, true) !== LOCAL.mark) {
    throw new Error('an entry is not where it should be');
  }
  const [localName, localExtra] = [v.getUint16(local + 26, true), v.getUint16(local + 28, true)];
  const data = local + LOCAL.size + localName + localExtra;
  const packedSize = v.getUint32(at + 20, true);
  if (data + packedSize > bytes.length) throw new Error('an entry is cut off');
  return {
    name: new TextDecoder().decode(bytes.subarray(at + CENTRAL.size, at + CENTRAL.size + nameSize)),
    line,
    extra: bytes.subarray(data - localExtra, data),
    packed: bytes.subarray(data, data + packedSize),
  };
}

function refuse(part: Part, file: string, seen: ReadonlySet<string>): void {
  const v = view(part.line);
  if (unsafe(part.name)) {
    throw wrong(file, part, 'this name leads outside the archive; the file was not read.');
  }
  if (seen.has(part.name)) throw wrong(file, part, 'this name is there twice.');
  if (v.getUint16(8, true) & ENCRYPTED) {
    throw wrong(file, part, 'it is encrypted. Export it without a password.');
  }
  const method = methodOf(part);
  if (method !== STORED && method !== DEFLATED) {
    throw wrong(file, part, `it is packed by a method (${method}) that is not read here. Export it again.`);
  }
  const size = sizeOf(part);
  if (size === 0xffffffff || part.packed.length === 0xffffffff) {
    throw wrong(file, part, 'it is larger than 4 GB; the file was not read.');
  }
  // deflate packs at most about 1032 : 1 (RFC 1951); more than that is a lie about the size
  if (size > 65536 && size > part.packed.length * 1100) {
    throw wrong(file, part, 'its announced size is impossible; the file was not read.');
  }
}

function unpacked(part: Part, size: number, file: string): Uint8Array {
  // one byte more than announced, so that what is longer is seen
  const data =
    methodOf(part) === STORED
      ? part.packed.slice()
      : inflateSync(part.packed, { out: new Uint8Array(size + 1) }).slice();
  if (data.length < size) throw wrong(file, part, 'it is shorter than announced. Export it again.');
  if (data.length > size || crc32(data) !== sumOf(part)) {
    throw wrong(file, part, 'its content is damaged (checksum). Export it again.');
  }
  return data;
}

/** A file as an entry; one that takes another's place keeps how it was packed and what its line says beside. */
function packed(name: string, data: Uint8Array, old?: Part): Part {
  const text = new TextEncoder().encode(name);
  const line = old ? old.line.slice() : new Uint8Array(CENTRAL.size + text.length);
  const v = view(line);
  if (!old) {
    v.setUint32(0, CENTRAL.mark, true);
    v.setUint16(4, 20, true);
    v.setUint16(6, 20, true);
    v.setUint16(8, UTF8, true);
    v.setUint16(10, DEFLATED, true);
    // 1 January 1980, where the dates of the format begin
    v.setUint32(12, 0x00210000, true);
    v.setUint16(28, text.length, true);
    line.set(text, CENTRAL.size);
  }
  const stored = v.getUint16(10, true) === STORED;
  const out = stored ? data : deflateSync(data, { level: 6 });
  v.setUint32(16, crc32(data), true);
  v.setUint32(20, out.length, true);
  v.setUint32(24, data.length, true);
  return { name, line, extra: old?.extra ?? new Uint8Array(0), packed: out };
}

function joined(parts: Part[], comment: Uint8Array): Uint8Array {
  const nameOf = (p: Part) => p.line.subarray(CENTRAL.size, CENTRAL.size + view(p.line).getUint16(28, true));
  const sizes = parts.map((p) => LOCAL.size + nameOf(p).length + p.extra.length + p.packed.length);
  const data = sizes.reduce((a, b) => a + b, 0);
  const lines = parts.reduce((a, p) => a + p.line.length, 0);
  const out = new Uint8Array(data + lines + END.size + comment.length);
  const v = view(out);
  let at = 0;
  let directory = data;
  parts.forEach((p, i) => {
    out.set(p.line, directory);
    // sizes stand in front of the data here, whatever the other program did
    const flags = view(p.line).getUint16(8, true) & ~SIZES_LATER;
    v.setUint16(directory + 8, flags, true);
    v.setUint32(directory + 42, at, true);
    v.setUint32(at, LOCAL.mark, true);
    // version, flags, method, time, date, checksum and both sizes stand in the same order in both
    out.set(p.line.subarray(6, 28), at + 4);
    v.setUint16(at + 6, flags, true);
    v.setUint16(at + 26, nameOf(p).length, true);
    v.setUint16(at + 28, p.extra.length, true);
    out.set(nameOf(p), at + LOCAL.size);
    out.set(p.extra, at + LOCAL.size + nameOf(p).length);
    out.set(p.packed, at + sizes[i] - p.packed.length);
    at += sizes[i];
    directory += p.line.length;
  });
  v.setUint32(directory, END.mark, true);
  v.setUint16(directory + 8, parts.length, true);
  v.setUint16(directory + 10, parts.length, true);
  v.setUint32(directory + 12, lines, true);
  v.setUint32(directory + 16, data, true);
  v.setUint16(directory + 20, comment.length, true);
  out.set(comment, directory + END.size);
  return out;
}

const unsafe = (n: string) =>
  n.includes('\\') ||
  n.includes('\0') ||
  n.startsWith('/') ||
  /^[a-z]:/i.test(n) ||
  n.split('/').includes('..');

const CRC = Uint32Array.from({ length: 256 }, (_, n) => {
  let c = n;
  for (let k = 0; k < 8; k++) c = c & 1 ? (c >>> 1) ^ 0xedb88320 : c >>> 1;
  return c;
});

function crc32(data: Uint8Array): number {
  let c = 0xffffffff;
  for (let i = 0; i < data.length; i++) c = CRC[(c ^ data[i]) & 255] ^ (c >>> 8);
  return (c ^ 0xffffffff) >>> 0;
}
