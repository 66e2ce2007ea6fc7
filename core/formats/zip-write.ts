import { deflateSync } from 'fflate';
import { crc32Of, inMemory, stretchesOf, wholeOf, type ByteSource } from './bytes.ts';
import {
  CENTRAL,
  DEFLATED,
  END,
  END64,
  EXTRA64,
  LOCAL,
  LOCATOR64,
  LONG,
  MANY,
  STORED,
  fieldsOf,
  viewOf,
  type Archive,
  type Contents,
  type Entries,
  type Part,
} from './zip.ts';

/** bits of the general purpose flag: sizes after the data, names in UTF-8 (APPNOTE 4.4.4) */
const SIZES_LATER = 8;
const UTF8 = 0x800;
/** versions that can unpack: plain, and archives over 4 GB (APPNOTE 4.4.3) */
const PLAIN = 20;
const OVER_4_GB = 45;

const EMPTY: Archive = { entries: {}, parts: [], comment: new Uint8Array(0) };
const NOTHING = new Uint8Array(0);

/** Takes the bytes of a file in their order. */
export type Sink = (bytes: Uint8Array) => void;

/**
 * Packs entries in their order, a stretch at a time; the same input gives the same bytes. Sounds are stored as they
 * are, everything else is deflated; what is longer than 4 GB is written as ZIP64.
 * @param from the archive that they come from: what is not changed is copied as it lies there (order, dates,
 * packing, folders, comment), what is new follows
 */
export function packZip(entries: Contents, sink: Sink, from: Archive = EMPTY): void {
  join(partsFor(entries, from), from.comment, sink);
}

/** One after the other, so that what was packed for one is forgotten when it is written. */
function* partsFor(entries: Contents, from: Archive): Generator<Part> {
  for (const p of from.parts) {
    if (p.name.endsWith('/') || entries[p.name] === from.entries[p.name]) yield p;
    else if (Object.hasOwn(entries, p.name)) yield packed(p.name, entries[p.name], p);
  }
  const known = new Set(from.parts.map((p) => p.name));
  for (const [name, data] of Object.entries(entries)) if (!known.has(name)) yield packed(name, data);
}

/** Packs entries that are in memory. */
export function writeZip(entries: Entries): Uint8Array {
  const contents: Contents = Object.create(null) as Contents;
  for (const [name, bytes] of Object.entries(entries)) contents[name] = inMemory(bytes);
  return collected((sink) => packZip(contents, sink));
}

/** All that is given to a sink, in one piece. */
export function collected(write: (sink: Sink) => void): Uint8Array {
  const pieces: Uint8Array[] = [];
  write((bytes) => pieces.push(bytes));
  const out = new Uint8Array(pieces.reduce((sum, p) => sum + p.length, 0));
  let at = 0;
  for (const piece of pieces) {
    out.set(piece, at);
    at += piece.length;
  }
  return out;
}

/** A file as an entry; one that takes another's place keeps how it was packed and what its line says beside. */
function packed(name: string, data: ByteSource, old?: Part): Part {
  const line = old ? old.line.slice() : freshLine(name);
  const v = viewOf(line);
  v.setUint32(16, crc32Of(data), true);
  const isStored = v.getUint16(10, true) === STORED;
  const content = isStored ? data : inMemory(deflateSync(wholeOf(data), { level: 6 }));
  return { name, line, extra: old?.extra ?? NOTHING, size: data.size, packed: content };
}

function freshLine(name: string): Uint8Array {
  const text = new TextEncoder().encode(name);
  const line = new Uint8Array(CENTRAL.size + text.length);
  const v = viewOf(line);
  v.setUint32(0, CENTRAL.mark, true);
  v.setUint16(4, PLAIN, true);
  v.setUint16(6, PLAIN, true);
  v.setUint16(8, UTF8, true);
  // sound hardly gets smaller, and takes long
  v.setUint16(10, /\.(wav|flac)$/i.test(name) ? STORED : DEFLATED, true);
  // 1 January 1980, where the dates of the format begin
  v.setUint32(12, 0x00210000, true);
  v.setUint16(28, text.length, true);
  line.set(text, CENTRAL.size);
  return line;
}

function join(parts: Iterable<Part>, comment: Uint8Array, sink: Sink): void {
  let at = 0;
  const put: Sink = (bytes) => {
    sink(bytes);
    at += bytes.length;
  };
  const lines: Uint8Array[] = [];
  for (const p of parts) {
    lines.push(lineOf(p, at));
    put(headOf(p));
    for (const bytes of stretchesOf(p.packed)) put(bytes);
  }
  const directory = at;
  lines.forEach(put);
  put(endOf({ count: lines.length, directory, end: at, comment }));
}

/** Eight bytes for each number. */
function longs(...numbers: number[]): Uint8Array {
  const out = new Uint8Array(8 * numbers.length);
  numbers.forEach((n, i) => viewOf(out).setBigUint64(8 * i, BigInt(n), true));
  return out;
}
/** Extra fields with those of long archives made anew. */
function extrasWith(extra: Uint8Array, numbers: readonly number[]): Uint8Array {
  const kept = [...fieldsOf(extra)].filter((f) => f.id !== EXTRA64).map((f) => f.all);
  if (numbers.length === 0) return together(...kept);
  const head = new Uint8Array(4);
  viewOf(head).setUint16(0, EXTRA64, true);
  viewOf(head).setUint16(2, 8 * numbers.length, true);
  return together(head, longs(...numbers), ...kept);
}
const together = (...pieces: Uint8Array[]) => collected((sink) => pieces.forEach(sink));
const nameOf = (p: Part) => p.line.subarray(CENTRAL.size, CENTRAL.size + viewOf(p.line).getUint16(28, true));
// sizes stand in front of the data here, whatever the other program did
const flagsOf = (p: Part) => viewOf(p.line).getUint16(8, true) & ~SIZES_LATER;
const isLong = (p: Part) => p.size >= LONG || p.packed.size >= LONG;

/** What stands in front of an entry's data. */
function headOf(p: Part): Uint8Array {
  const extra = extrasWith(p.extra, isLong(p) ? [p.size, p.packed.size] : []);
  const head = new Uint8Array(LOCAL.size);
  const v = viewOf(head);
  v.setUint32(0, LOCAL.mark, true);
  // version, flags, method, time, date and checksum stand in the same order in both
  head.set(p.line.subarray(6, 20), 4);
  if (isLong(p)) v.setUint16(4, OVER_4_GB, true);
  v.setUint16(6, flagsOf(p), true);
  v.setUint32(18, isLong(p) ? LONG : p.packed.size, true);
  v.setUint32(22, isLong(p) ? LONG : p.size, true);
  v.setUint16(26, nameOf(p).length, true);
  v.setUint16(28, extra.length, true);
  return together(head, nameOf(p), extra);
}

/** An entry's line in the directory. */
function lineOf(p: Part, at: number): Uint8Array {
  const behind = CENTRAL.size + nameOf(p).length;
  const extraSize = viewOf(p.line).getUint16(30, true);
  const numbers = [p.size, p.packed.size, at];
  const extra = extrasWith(
    p.line.subarray(behind, behind + extraSize),
    numbers.filter((n) => n >= LONG),
  );
  const line = together(p.line.subarray(0, behind), extra, p.line.subarray(behind + extraSize));
  const v = viewOf(line);
  if (numbers.some((n) => n >= LONG)) v.setUint16(6, OVER_4_GB, true);
  v.setUint16(8, flagsOf(p), true);
  v.setUint32(20, Math.min(p.packed.size, LONG), true);
  v.setUint32(24, Math.min(p.size, LONG), true);
  v.setUint16(30, extra.length, true);
  v.setUint32(42, Math.min(at, LONG), true);
  return line;
}

interface Ending {
  count: number;
  directory: number;
  end: number;
  comment: Uint8Array;
}

function endOf({ count, directory, end, comment }: Ending): Uint8Array {
  const size = end - directory;
  const isLongArchive = count >= MANY || size >= LONG || directory >= LONG;
  const last = new Uint8Array(END.size + comment.length);
  const v = viewOf(last);
  v.setUint32(0, END.mark, true);
  v.setUint16(8, Math.min(count, MANY), true);
  v.setUint16(10, Math.min(count, MANY), true);
  v.setUint32(12, Math.min(size, LONG), true);
  v.setUint32(16, Math.min(directory, LONG), true);
  v.setUint16(20, comment.length, true);
  last.set(comment, END.size);
  return isLongArchive ? together(longEnd(count, size, directory, end), last) : last;
}

/** The two records in front of the end of an archive over 4 GB. */
function longEnd(count: number, size: number, directory: number, end: number): Uint8Array {
  const record = new Uint8Array(END64.size);
  const v = viewOf(record);
  v.setUint32(0, END64.mark, true);
  v.setBigUint64(4, BigInt(END64.size - 12), true);
  v.setUint16(12, OVER_4_GB, true);
  v.setUint16(14, OVER_4_GB, true);
  record.set(longs(count, count, size, directory), 24);
  const locator = new Uint8Array(LOCATOR64.size);
  const l = viewOf(locator);
  l.setUint32(0, LOCATOR64.mark, true);
  l.setBigUint64(8, BigInt(end), true);
  l.setUint32(16, 1, true);
  return together(record, locator);
}
