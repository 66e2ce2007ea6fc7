import { unzipSync, zipSync } from 'fflate';
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
export type Entries = Record<string, Uint8Array>;

/**
 * Unpacks a ZIP within limits on entry count and unpacked size; names that lead outside the archive are
 * refused, and so is an entry whose size or content is not as announced.
 */
export function readZip(bytes: Uint8Array, name: string, limits: ZipLimits = ZIP_LIMITS): Entries {
  if (bytes.length < 22 || bytes[0] !== 0x50 || bytes[1] !== 0x4b) {
    throw new FormatError(
      name,
      'offset 0',
      'this is not a ZIP archive. Choose the file that the other program exported.',
    );
  }
  const seen = new Set<string>();
  const sizes = new Map<string, number>();
  let count = 0;
  let total = 0;
  let out: Entries;
  try {
    out = unzipSync(bytes, {
      filter: (f) => {
        if (++count > limits.entries) {
          throw new FormatError(name, '', `it holds more than ${limits.entries} entries.`);
        }
        if (unsafe(f.name)) {
          throw new FormatError(
            name,
            `entry “${f.name}”`,
            'this name leads outside the archive; the file was not read.',
          );
        }
        if (seen.has(f.name)) throw new FormatError(name, `entry “${f.name}”`, 'this name is there twice.');
        seen.add(f.name);
        total += f.originalSize;
        if (f.originalSize > limits.entryBytes || total > limits.totalBytes) {
          throw new FormatError(
            name,
            `entry “${f.name}”`,
            `it unpacks to more than ${Math.round(limits.totalBytes / 1048576)} MB; the file was not read.`,
          );
        }
        // deflate packs at most about 1032 : 1 (RFC 1951); more than that is a lie about the size
        if (f.originalSize > 65536 && f.originalSize > f.size * 1100) {
          throw new FormatError(
            name,
            `entry “${f.name}”`,
            'its announced size is impossible; the file was not read.',
          );
        }
        sizes.set(f.name, f.originalSize);
        return !f.name.endsWith('/');
      },
    });
  } catch (e) {
    if (e instanceof FormatError) throw e;
    throw new FormatError(name, '', `the archive is damaged (${(e as Error).message}). Export it again.`);
  }
  const sums = checksums(bytes);
  for (const [entry, data] of Object.entries(out)) {
    if (data.length !== sizes.get(entry)) {
      throw new FormatError(name, `entry “${entry}”`, 'it is shorter than announced. Export it again.');
    }
    if (sums.get(entry) !== undefined && sums.get(entry) !== crc32(data)) {
      throw new FormatError(name, `entry “${entry}”`, 'its content is damaged (checksum). Export it again.');
    }
  }
  return out;
}

/** Packs entries in their order; the same input gives the same bytes. */
export const writeZip = (entries: Entries): Uint8Array =>
  zipSync(entries, { level: 6, mtime: new Date(1980, 0, 1, 0, 0, 0) });

const unsafe = (n: string) =>
  n.includes('\\') ||
  n.includes('\0') ||
  n.startsWith('/') ||
  /^[a-z]:/i.test(n) ||
  n.split('/').includes('..');

/** CRC-32 of every entry as the central directory gives it (PKWARE APPNOTE 4.3.12). */
function checksums(bytes: Uint8Array): Map<string, number> {
  const v = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  const out = new Map<string, number>();
  let end = bytes.length - 22;
  while (end >= 0 && v.getUint32(end, true) !== 0x06054b50) end--;
  if (end < 0) return out;
  const text = new TextDecoder();
  let at = v.getUint32(end + 16, true);
  for (
    let n = v.getUint16(end + 10, true);
    n > 0 && at + 46 <= bytes.length && v.getUint32(at, true) === 0x02014b50;
    n--
  ) {
    const [len, extra, comment] = [
      v.getUint16(at + 28, true),
      v.getUint16(at + 30, true),
      v.getUint16(at + 32, true),
    ];
    out.set(text.decode(bytes.subarray(at + 46, at + 46 + len)), v.getUint32(at + 16, true));
    at += 46 + len + extra + comment;
  }
  return out;
}

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
