import { Quantiser, type Dither } from './quantise.ts';
import { FormatError } from './errors.ts';

/**
 * Broadcast Wave: WAV with the extension of EBU Tech 3285 version 2 (2011) and cue points (the “cue ” and “LIST adtl”
 * chunks of the RIFF specification, 1991).
 */

/** The `bext` chunk. Loudness fields that are null are written as “not known” (0x7fff). */
export interface BroadcastExtension {
  /** at most 256 characters */
  description: string;
  /** at most 32 characters each */
  originator: string;
  reference: string;
  /** yyyy-mm-dd and hh:mm:ss */
  date: string;
  time: string;
  /** samples from midnight to the first one of the file */
  timeReference: number;
  /** LUFS, LU, dBTP, LUFS, LUFS; hundredths are kept */
  loudness: number | null;
  range: number | null;
  truePeak: number | null;
  momentary: number | null;
  shortTerm: number | null;
  /** one line for each step: “A=PCM,F=48000,W=24,M=stereo,T=…” */
  history: string;
}

/** A place in a file with a name. */
export interface Cue {
  /** frames */
  at: number;
  name: string;
}

export interface BroadcastOptions {
  sampleRate: number;
  /** 32 is floating point */
  bits: 16 | 24 | 32;
  dither: Dither;
  extension: BroadcastExtension;
  cues: readonly Cue[];
}

const EXTENSION = 602;
const UNKNOWN = 0x7fff;
const PCM = 1;
const FLOAT = 3;
const LARGEST = 0xffffffff;

/**
 * Writes a Broadcast Wave file.
 * @param channels one array or two of one length, full scale 1
 * @throws FormatError when it would be larger than 4 GiB, which its sizes of 32 bits cannot say
 */
export function writeBroadcastWav(channels: readonly Float32Array[], o: BroadcastOptions): Uint8Array {
  const writer = new BroadcastWriter(channels.length, channels[0].length, o);
  const parts = [writer.head(), writer.body(channels), writer.tail()];
  const bytes = new Uint8Array(parts.reduce((sum, p) => sum + p.length, 0));
  let at = 0;
  for (const part of parts) {
    bytes.set(part, at);
    at += part.length;
  }
  return bytes;
}

/** Writes a Broadcast Wave file a piece at a time: its head, the sound in order, its tail. */
export class BroadcastWriter {
  private readonly quantisers: Quantiser[];
  private readonly size: number;

  /** @throws FormatError as `writeBroadcastWav` */
  constructor(
    private readonly channels: number,
    private readonly frames: number,
    private readonly o: BroadcastOptions,
  ) {
    this.size = (frames * channels * o.bits) / 8;
    if (this.size + headOf(channels, 0, o).length + cueChunks(o.cues).length + 1 > LARGEST) {
      throw new FormatError(
        'WAV file',
        '',
        'it would be larger than 4 GiB: print a shorter range or fewer bits.',
      );
    }
    this.quantisers = Array.from({ length: channels }, (_, c) => new Quantiser(o.bits, o.dither, c + 1));
  }
  head(): Uint8Array {
    const head = headOf(this.channels, this.frames, this.o);
    const all = head.length + this.size + this.tail().length;
    new DataView(head.buffer).setUint32(4, all - 8, true);
    return head;
  }
  /** Bytes of the next frames, one array a channel. */
  body(channels: readonly Float32Array[]): Uint8Array {
    const { bits } = this.o;
    const width = bits / 8;
    const align = width * this.channels;
    const bytes = new Uint8Array(channels[0].length * align);
    const view = new DataView(bytes.buffer);
    channels.forEach((x, c) => {
      const at = c * width;
      if (bits === 32) x.forEach((v, i) => view.setFloat32(at + i * align, v, true));
      else putWhole(bytes, at, align, this.quantisers[c].block(x), bits);
    });
    return bytes;
  }
  tail(): Uint8Array {
    const cues = cueChunks(this.o.cues);
    const tail = new Uint8Array((this.size & 1) + cues.length);
    tail.set(cues, this.size & 1);
    return tail;
  }
}

/** Writes whole numbers of two or three bytes, `align` bytes from one to the next. */
function putWhole(bytes: Uint8Array, at: number, align: number, numbers: Int32Array, bits: 16 | 24): void {
  for (let i = 0; i < numbers.length; i++, at += align) {
    const n = numbers[i];
    bytes[at] = n;
    bytes[at + 1] = n >> 8;
    if (bits === 24) bytes[at + 2] = n >> 16;
  }
}

/** Everything before the sound. */
function headOf(channels: number, frames: number, o: BroadcastOptions): Uint8Array {
  const history = ascii(o.extension.history);
  const extension = EXTENSION + history.length;
  const padded = extension + (extension & 1);
  const bytes = new Uint8Array(12 + 8 + padded + 24 + 8);
  const view = new DataView(bytes.buffer);
  const align = (channels * o.bits) / 8;
  tag(bytes, 0, 'RIFF');
  tag(bytes, 8, 'WAVE');
  tag(bytes, 12, 'bext');
  view.setUint32(16, extension, true);
  putExtension(bytes, view, 20, o.extension, history);
  const at = 20 + padded;
  tag(bytes, at, 'fmt ');
  view.setUint32(at + 4, 16, true);
  view.setUint16(at + 8, o.bits === 32 ? FLOAT : PCM, true);
  view.setUint16(at + 10, channels, true);
  view.setUint32(at + 12, o.sampleRate, true);
  view.setUint32(at + 16, o.sampleRate * align, true);
  view.setUint16(at + 20, align, true);
  view.setUint16(at + 22, o.bits, true);
  tag(bytes, at + 24, 'data');
  view.setUint32(at + 28, frames * align, true);
  return bytes;
}

function putExtension(
  bytes: Uint8Array,
  view: DataView,
  at: number,
  e: BroadcastExtension,
  history: Uint8Array,
): void {
  const text = (from: number, size: number, value: string) =>
    bytes.set(ascii(value).subarray(0, size), at + from);
  text(0, 256, e.description);
  text(256, 32, e.originator);
  text(288, 32, e.reference);
  text(320, 10, e.date);
  text(330, 8, e.time);
  view.setUint32(at + 338, e.timeReference % 2 ** 32, true);
  view.setUint32(at + 342, Math.floor(e.timeReference / 2 ** 32), true);
  view.setUint16(at + 346, 2, true);
  [e.loudness, e.range, e.truePeak, e.momentary, e.shortTerm].forEach((value, i) => {
    view.setInt16(at + 412 + 2 * i, hundredths(value), true);
  });
  bytes.set(history, at + EXTENSION);
}
const hundredths = (x: number | null): number =>
  x === null || !Number.isFinite(x) ? UNKNOWN : Math.max(-32768, Math.min(UNKNOWN - 1, Math.round(x * 100)));

/** ASCII as the extension wants it; what it has no letter for is written without its marks, or as a question mark. */
function ascii(text: string): Uint8Array {
  const plain = text
    .normalize('NFKD')
    .replace(/\p{M}/gu, '')
    .replace(/[–—−]/g, '-')
    .replace(/[“”]/g, '"')
    .replace(/[‘’]/g, "'");
  return Uint8Array.from(plain, (c) => (c.charCodeAt(0) < 128 ? c.charCodeAt(0) : 63));
}
function tag(bytes: Uint8Array, at: number, text: string): void {
  for (let i = 0; i < 4; i++) bytes[at + i] = text.charCodeAt(i);
}

/** Cue points, and their names in a list beside them. */
function cueChunks(cues: readonly Cue[]): Uint8Array {
  if (!cues.length) return new Uint8Array(0);
  const names = cues.map((c) => ascii(c.name));
  const sizes = names.map((n) => 4 + n.length + 1);
  const list = 4 + sizes.reduce((sum, s) => sum + 8 + s + (s & 1), 0);
  const bytes = new Uint8Array(12 + 24 * cues.length + 8 + list);
  const view = new DataView(bytes.buffer);
  tag(bytes, 0, 'cue ');
  view.setUint32(4, 4 + 24 * cues.length, true);
  view.setUint32(8, cues.length, true);
  cues.forEach((cue, i) => {
    const at = 12 + 24 * i;
    view.setUint32(at, i + 1, true);
    view.setUint32(at + 4, cue.at, true);
    tag(bytes, at + 8, 'data');
    view.setUint32(at + 20, cue.at, true);
  });
  let at = 12 + 24 * cues.length;
  tag(bytes, at, 'LIST');
  view.setUint32(at + 4, list, true);
  tag(bytes, at + 8, 'adtl');
  at += 12;
  names.forEach((name, i) => {
    tag(bytes, at, 'labl');
    view.setUint32(at + 4, sizes[i], true);
    view.setUint32(at + 8, i + 1, true);
    bytes.set(name, at + 12);
    at += 8 + sizes[i] + (sizes[i] & 1);
  });
  return bytes;
}

/**
 * The broadcast extension of a WAV file, versions 0 to 2; null where it has none.
 * @throws FormatError when the file is no WAV, or the chunk is cut short
 */
export function readBroadcastExtension(bytes: Uint8Array, name = 'WAV file'): BroadcastExtension | null {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  const text = (at: number, size: number) => {
    const part = bytes.subarray(at, at + size);
    const end = part.indexOf(0);
    return String.fromCharCode(...part.subarray(0, end < 0 ? size : end));
  };
  if (bytes.length < 12 || text(0, 4) !== 'RIFF' || text(8, 4) !== 'WAVE') {
    throw new FormatError(name, 'offset 0', 'this is not a WAV file.');
  }
  for (let at = 12; at + 8 <= bytes.length;) {
    const size = view.getUint32(at + 4, true);
    if (text(at, 4) !== 'bext') {
      at += 8 + size + (size & 1);
      continue;
    }
    const from = at + 8;
    if (size < EXTENSION || from + size > bytes.length) {
      throw new FormatError(name, `offset ${at}`, 'the broadcast extension is cut short.');
    }
    const hasLoudness = view.getUint16(from + 346, true) >= 2;
    const loudness = [0, 1, 2, 3, 4].map((i) => {
      const value = view.getInt16(from + 412 + 2 * i, true);
      return !hasLoudness || value === UNKNOWN ? null : value / 100;
    });
    return {
      description: text(from, 256),
      originator: text(from + 256, 32),
      reference: text(from + 288, 32),
      date: text(from + 320, 10),
      time: text(from + 330, 8),
      timeReference: view.getUint32(from + 338, true) + view.getUint32(from + 342, true) * 2 ** 32,
      loudness: loudness[0],
      range: loudness[1],
      truePeak: loudness[2],
      momentary: loudness[3],
      shortTerm: loudness[4],
      history: text(from + EXTENSION, size - EXTENSION),
    };
  }
  return null;
}
