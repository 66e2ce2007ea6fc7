import type { ByteSource } from './bytes.ts';
import { FormatError } from './errors.ts';
import { Quantiser, type Dither } from './quantise.ts';

// taken out of the global object once: a look-up per sample is slow in sandboxed test runs
const { floor, max, min } = Math;

export interface WavData {
  sampleRate: number;
  /** one array a channel, full scale 1 */
  channels: Float32Array[];
  /** as stored */
  bits: number;
  float: boolean;
}

const MAX_FRAMES = 96000 * 3600;
const PCM = 1;
const FLOAT = 3;
const EXTENSIBLE = 0xfffe;

/**
 * Reads a RIFF WAVE file: 16/24/32-bit integer, 8-bit, 32- and 64-bit float, plain or WAVE_FORMAT_EXTENSIBLE,
 * one or more channels, any rate. A data chunk that is shorter than its header
 * says is an error with the offset, as is anything else that does not fit; nothing is guessed.
 */
export function readWav(bytes: Uint8Array, name = 'WAV file'): WavData {
  const { fmt, body, size } = findSound((at, n) => bytes.subarray(at, at + n), bytes.length, name);
  const v = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  return {
    sampleRate: fmt.rate,
    bits: fmt.bits,
    float: fmt.code === FLOAT,
    channels: decode(v, body, size, fmt, name),
  };
}

/** Bytes of a file from a place on; fewer only at its end. */
export type ReadBytes = (at: number, n: number) => Uint8Array;

/** A WAV file that is read a stretch at a time, from wherever it lies. */
export class WavFile {
  readonly sampleRate: number;
  readonly channels: number;
  readonly frames: number;
  readonly isFloat: boolean;
  private readonly found: ReturnType<typeof findSound>;

  /**
   * @param size bytes of the whole file
   * @throws FormatError as `readWav`
   */
  constructor(
    private readonly bytes: ReadBytes,
    size: number,
    private readonly name = 'WAV file',
  ) {
    this.found = findSound(bytes, size, name);
    const { fmt } = this.found;
    this.sampleRate = fmt.rate;
    this.channels = fmt.channels;
    this.frames = floor(this.found.size / fmt.align);
    this.isFloat = fmt.code === FLOAT;
  }
  /** Frames from a place on, one array a channel; fewer at the end. */
  read(from: number, n: number): Float32Array[] {
    const { fmt, body } = this.found;
    const frames = max(0, min(n, this.frames - from));
    // one byte more: see unpackPairs
    const bytes = this.bytes(body + from * fmt.align - 1, frames * fmt.align + 1);
    const v = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
    return decode(v, 1, frames * fmt.align, fmt, this.name);
  }
}

/** What is known of a sound without its samples. */
export interface SoundFormat {
  /** Hz */
  sampleRate: number;
  channels: number;
  frames: number;
}
/** frames that are looked at together */
const LOOK = 65536;

/**
 * Whether a sound can be played to its last sample, however long it is.
 * @throws FormatError as `readWav`
 */
export function checkSound(source: ByteSource, name: string): SoundFormat {
  const wav = new WavFile((at, n) => source.read(at, n), source.size, name);
  const { sampleRate, channels, frames } = wav;
  if (frames > MAX_FRAMES) throw tooLong(name);
  // whole numbers are samples whatever they are; a fraction may be none
  for (let at = 0; wav.isFloat && at < frames; at += LOOK) wav.read(at, LOOK);
  return { sampleRate, channels, frames };
}
const tooLong = (name: string) => new FormatError(name, '', 'it is longer than an hour at 96 kHz. Split it.');

/** Where in a file the sound lies, and how it is written. */
function findSound(bytes: ReadBytes, length: number, name: string): { fmt: Fmt; body: number; size: number } {
  const tagged = (at: number) => String.fromCharCode(...bytes(at, 4));
  if (length < 12 || tagged(0) !== 'RIFF' || tagged(8) !== 'WAVE') {
    throw new FormatError(name, 'offset 0', 'this is not a WAV file. Export it as WAV and try again.');
  }
  let fmt: Fmt | null = null;
  for (let at = 12; at + 8 <= length;) {
    const id = tagged(at);
    const size = viewOf(bytes(at + 4, 4)).getUint32(0, true);
    const body = at + 8;
    if (id === 'fmt ') fmt = formatOf(bytes(body, min(size, 40)), size, name, at, length - body);
    else if (id === 'data') {
      if (!fmt) throw new FormatError(name, `offset ${at}`, 'the sound comes before its format.');
      if (body + size > length) {
        throw new FormatError(
          name,
          `offset ${at}`,
          `the sound is cut short: ${size} bytes are announced and ${length - body} are there. Copy the file again.`,
        );
      }
      return { fmt, body, size };
    }
    at = body + size + (size & 1);
  }
  throw new FormatError(
    name,
    '',
    fmt ? 'there is no sound in it (no data chunk).' : 'there is no format in it (no fmt chunk).',
  );
}

const viewOf = (b: Uint8Array): DataView => new DataView(b.buffer, b.byteOffset, b.byteLength);

/** The format chunk, whose body begins here; `left`: bytes of the file from there on. */
function formatOf(bytes: Uint8Array, size: number, name: string, at: number, left: number): Fmt {
  if (size < 16 || size > left) {
    throw new FormatError(name, `offset ${at}`, 'the format chunk is cut short.');
  }
  const v = viewOf(bytes);
  const code = v.getUint16(0, true);
  if (code === EXTENSIBLE && size < 40) {
    throw new FormatError(name, `offset ${at}`, 'the extensible format chunk is cut short.');
  }
  const fmt = {
    code: code === EXTENSIBLE ? v.getUint16(24, true) : code,
    channels: v.getUint16(2, true),
    rate: v.getUint32(4, true),
    align: v.getUint16(12, true),
    bits: v.getUint16(14, true),
  };
  check(fmt, name, at);
  return fmt;
}

type Fmt = { code: number; channels: number; rate: number; bits: number; align: number };

function check(f: Fmt, name: string, at: number): void {
  const place = `offset ${at}`;
  if (f.code !== PCM && f.code !== FLOAT) {
    throw new FormatError(
      name,
      place,
      `the coding ${f.code} is not supported. Export it as PCM or 32-bit float.`,
    );
  }
  if (f.channels < 1 || f.channels > 64) {
    throw new FormatError(name, place, `${f.channels} channels are not possible.`);
  }
  if (f.rate < 1000 || f.rate > 768000) {
    throw new FormatError(name, place, `a sample rate of ${f.rate} Hz is not possible.`);
  }
  const ok = f.code === PCM ? [8, 16, 24, 32] : [32, 64];
  if (!ok.includes(f.bits) || f.align !== (f.channels * f.bits) / 8) {
    throw new FormatError(
      name,
      place,
      `${f.bits} bits in ${f.align} bytes a frame are not supported. Export it with 16, 24 or 32 bits.`,
    );
  }
}

function decode(v: DataView, body: number, size: number, f: Fmt, name: string): Float32Array[] {
  const frames = floor(size / f.align);
  if (frames > MAX_FRAMES) throw tooLong(name);
  const width = f.bits / 8;
  const out = Array.from({ length: f.channels }, () => new Float32Array(frames));
  const bytes = new Uint8Array(v.buffer, v.byteOffset, v.byteLength);
  if (width === 3 && f.code === PCM && f.channels === 2) {
    unpackPairs(v, body, out[0], out[1]);
    return out;
  }
  for (let c = 0; c < f.channels; c++) {
    const o = out[c];
    const first = body + c * width;
    if (f.code === FLOAT) {
      for (let i = 0, at = first; i < frames; i++, at += f.align) {
        o[i] = width === 4 ? v.getFloat32(at, true) : v.getFloat64(at, true);
        if (!Number.isFinite(o[i])) throw new FormatError(name, `frame ${i}`, 'a sample is not a number.');
      }
    } else if (width === 3) unpack24(bytes, first, f.align, o);
    else {
      for (let i = 0, at = first; i < frames; i++, at += f.align) {
        if (width === 2) o[i] = v.getInt16(at, true) / 32768;
        else if (width === 4) o[i] = v.getInt32(at, true) / 2147483648;
        else o[i] = (v.getUint8(at) - 128) / 128;
      }
    }
  }
  return out;
}

/**
 * The usual case on its own: two sides of three bytes, least first; read as the upper three bytes of four, of
 * which the lowest is the sample before (a header always lies in front).
 */
function unpackPairs(v: DataView, first: number, l: Float32Array, r: Float32Array): void {
  for (let i = 0, at = first - 1; i < l.length; i++, at += 6) {
    l[i] = (v.getInt32(at, true) >> 8) * ONE;
    r[i] = (v.getInt32(at + 3, true) >> 8) * ONE;
  }
}
/** a power of two: multiplying is as exact as dividing */
const ONE = 1 / 8388608;

/** Three bytes a sample, any number of channels. */
function unpack24(b: Uint8Array, first: number, align: number, o: Float32Array): void {
  for (let i = 0, at = first; i < o.length; i++, at += align) {
    o[i] = (((b[at + 2] << 24) | (b[at + 1] << 16) | (b[at] << 8)) >> 8) * ONE;
  }
}

/** Whole numbers of so many bytes, every `align` bytes from `first` on. */
function putIntegers(v: DataView, first: number, align: number, width: number, numbers: Int32Array): void {
  for (let i = 0, at = first; i < numbers.length; i++, at += align) {
    const n = numbers[i];
    if (width === 2) v.setInt16(at, n, true);
    else if (width === 4) v.setInt32(at, n, true);
    else {
      v.setUint8(at, n & 255);
      v.setUint8(at + 1, (n >> 8) & 255);
      v.setInt8(at + 2, n >> 16);
    }
  }
}

/**
 * Writes a WAV file of 16-, 24- or 32-bit integers or 32-bit float. Integers are rounded to nearest and held at full
 * scale; 16 bit is dithered, since a quiet tone would have harmonics otherwise.
 * @param channels one array a channel, all of one length
 * @param dither of integers: triangular for 16 bit, none for more, when left out
 */
export function writeWav(
  channels: Float32Array[],
  sampleRate: number,
  format: 16 | 24 | 32 | 'float' = 24,
  dither: Dither = format === 16 ? 'triangular' : 'none',
): Uint8Array {
  const float = format === 'float';
  const width = float ? 4 : format / 8;
  const frames = channels[0].length;
  const align = width * channels.length;
  const size = frames * align;
  const bytes = new Uint8Array(44 + size + (size & 1));
  const v = new DataView(bytes.buffer);
  const put = (at: number, s: string) => {
    for (let i = 0; i < 4; i++) bytes[at + i] = s.charCodeAt(i);
  };
  put(0, 'RIFF');
  v.setUint32(4, bytes.length - 8, true);
  put(8, 'WAVE');
  put(12, 'fmt ');
  v.setUint32(16, 16, true);
  v.setUint16(20, float ? FLOAT : PCM, true);
  v.setUint16(22, channels.length, true);
  v.setUint32(24, sampleRate, true);
  v.setUint32(28, sampleRate * align, true);
  v.setUint16(32, align, true);
  v.setUint16(34, width * 8, true);
  put(36, 'data');
  v.setUint32(40, size, true);
  channels.forEach((x, c) => {
    const first = 44 + c * width;
    if (format === 'float') for (let i = 0; i < frames; i++) v.setFloat32(first + i * align, x[i], true);
    else putIntegers(v, first, align, width, new Quantiser(format, dither, c + 1).block(x));
  });
  return bytes;
}
