import { sha256 } from '@noble/hashes/sha2.js';
import { bytesToHex } from '@noble/hashes/utils.js';

/** Bytes that lie somewhere, in memory or on a disk, and are read a stretch at a time. */
export interface ByteSource {
  readonly size: number;
  /** the file that they lie in, and from where on */
  readonly place?: { path: string; at: number };
  /** So many bytes from a place on; fewer only at the end. They are read and never changed. */
  read(at: number, n: number): Uint8Array;
}

/** Bytes that are read together when a source is gone through from its beginning to its end. */
export const STRETCH = 1024 * 1024;

/** Bytes that are in memory already. */
export const inMemory = (bytes: Uint8Array): ByteSource => ({
  size: bytes.length,
  read: (at, n) => bytes.subarray(at, at + n),
});

/** A part of a source: so many bytes of it from a place on. */
export const partOf = (source: ByteSource, from: number, size: number): ByteSource => ({
  size,
  ...(source.place ? { place: { path: source.place.path, at: source.place.at + from } } : {}),
  read: (at, n) => source.read(from + at, Math.max(0, Math.min(n, size - at))),
});

/** All of it, in memory. */
export const wholeOf = (source: ByteSource): Uint8Array => source.read(0, source.size);

/** Its bytes in their order, a stretch at a time. */
export function* stretchesOf(source: ByteSource): Generator<Uint8Array> {
  for (let at = 0; at < source.size; at += STRETCH) yield source.read(at, STRETCH);
}

/** A hash that is fed bit by bit. */
export interface Hash {
  update(bytes: Uint8Array): void;
  /** lower-case hex */
  hex(): string;
}

/** SHA-256 (FIPS 180-4) that runs wherever this program does; a server has a faster one. */
export function portableHash(): Hash {
  const hash = sha256.create();
  return { update: (bytes) => void hash.update(bytes), hex: () => bytesToHex(hash.digest()) };
}

/** SHA-256 of a source, which may be larger than memory. */
export function sha256Of(source: ByteSource, makeHash: () => Hash = portableHash): string {
  const hash = makeHash();
  for (const bytes of stretchesOf(source)) hash.update(bytes);
  return hash.hex();
}

/** Tables of CRC-32 for four bytes at once. */
const CRC = (() => {
  const tables = Array.from({ length: 4 }, () => new Uint32Array(256));
  for (let n = 0; n < 256; n++) {
    let c = n;
    for (let k = 0; k < 8; k++) c = c & 1 ? (c >>> 1) ^ 0xedb88320 : c >>> 1;
    tables[0][n] = c;
  }
  for (let t = 1; t < 4; t++) {
    for (let n = 0; n < 256; n++) {
      const c = tables[t - 1][n];
      tables[t][n] = (c >>> 8) ^ tables[0][c & 255];
    }
  }
  return tables;
})();

/**
 * CRC-32 as ZIP and PNG have it (ISO 3309), four bytes at a time.
 * @param before of the bytes in front of these
 */
export function crc32(data: Uint8Array, before = 0): number {
  const [t0, t1, t2, t3] = CRC;
  let c = ~before;
  let i = 0;
  for (; i + 4 <= data.length; i += 4) {
    c ^= data[i] | (data[i + 1] << 8) | (data[i + 2] << 16) | (data[i + 3] << 24);
    c = t3[c & 255] ^ t2[(c >>> 8) & 255] ^ t1[(c >>> 16) & 255] ^ t0[c >>> 24];
  }
  for (; i < data.length; i++) c = t0[(c ^ data[i]) & 255] ^ (c >>> 8);
  return ~c >>> 0;
}

/** CRC-32 of a source, which may be larger than memory. */
export function crc32Of(source: ByteSource): number {
  let sum = 0;
  for (const bytes of stretchesOf(source)) sum = crc32(bytes, sum);
  return sum;
}
