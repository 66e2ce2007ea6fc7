import { cutText, NAME_LENGTH } from '../model/text.ts';
import type { MidiController, MidiNote } from '../model/types.ts';
import { FormatError } from './errors.ts';

/** Notes and controllers of one track of a Standard MIDI File, in quarter notes from its start. */
export interface MidiTrack {
  name: string;
  notes: MidiNote[];
  controllers: MidiController[];
}
export interface MidiData {
  format: 0 | 1;
  /** bpm; the first that the file tells */ tempo: number;
  meter: [number, number];
  tracks: MidiTrack[];
  /** what was left out, in plain words */ notes: string[];
}

/** Ticks in a quarter note of the files that we write. */
export const TICKS = 480;
const MAX_BYTES = 16 * 1024 * 1024;
const MAX_EVENTS = 200000;

/**
 * Reads a Standard MIDI File of format 0 or 1 (MIDI Association, Standard MIDI Files 1.0, RP-001; from
 * memory): notes, controllers, names, the first tempo and time signature. Running status, system exclusive
 * and unknown meta events are passed over; a note that never ends lasts until the end of its track.
 * @throws FormatError whose place is the byte where reading stopped
 */
export function readMidi(bytes: Uint8Array, file = 'MIDI file'): MidiData {
  if (bytes.length > MAX_BYTES) {
    throw new FormatError(file, '', `it is larger than ${MAX_BYTES / 1048576} MB.`);
  }
  const c = new Cursor(bytes, file);
  const { format, count, division } = readHeader(c);
  const r: Reading = { division, tempo: 120, meter: [4, 4], events: 0, tempos: 0, other: 0, mended: [] };
  const tracks: MidiTrack[] = [];
  while (c.at < bytes.length && tracks.length < Math.max(1, count)) {
    c.end = bytes.length;
    const kind = c.word();
    const length = c.u32();
    const stop = c.at + length;
    if (stop > bytes.length) c.fail(`a block of ${length} bytes is longer than the file.`, c.at - 4);
    c.end = stop;
    if (kind === 'MTrk') tracks.push(readTrack(c, r));
    c.at = stop;
  }
  if (!tracks.length) c.fail('there is no track in it.', 14);
  return { format, tempo: r.tempo, meter: r.meter, tracks, notes: leftOut(r) };
}

/** A place in a file: reads numbers (the largest byte first) and never past the end of its block. */
class Cursor {
  at = 0;
  end: number;
  private readonly view: DataView;
  constructor(
    readonly bytes: Uint8Array,
    private readonly file: string,
  ) {
    this.end = bytes.length;
    this.view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  }
  fail(text: string, where = this.at): never {
    throw new FormatError(this.file, `byte ${where}`, text);
  }
  u8(): number {
    return this.at < this.end ? this.bytes[this.at++] : this.fail('the file ends in the middle of an event.');
  }
  u16(): number {
    return this.view.getUint16(this.pass(2));
  }
  u32(): number {
    return this.view.getUint32(this.pass(4));
  }
  word(): string {
    return String.fromCharCode(this.u8(), this.u8(), this.u8(), this.u8());
  }
  /** a number in up to four bytes of seven bits */
  varLength(): number {
    let v = 0;
    for (let i = 0; i < 4; i++) {
      const b = this.u8();
      v = v * 128 + (b & 127);
      if (b < 128) return v;
    }
    return this.fail('a length is longer than four bytes.');
  }
  /** a value of a message: 0 … 127 */
  data(): number {
    const v = this.u8();
    return v < 128 ? v : this.fail('a value is larger than 127.', this.at - 1);
  }
  private pass(size: number): number {
    if (this.at + size > this.end) this.fail('the file ends in the middle of a number.');
    this.at += size;
    return this.at - size;
  }
}

/** What is gathered over all tracks of a file. */
interface Reading {
  /** ticks in a quarter note */
  division: number;
  tempo: number;
  meter: [number, number];
  events: number;
  tempos: number;
  /** messages that are passed over */
  other: number;
  /** what no session can have, and what was taken in its place */
  mended: string[];
}
/** bpm that a session can have, and the largest number of a meter */
const TEMPOS = [10, 999] as const;
const METER_MOST = 64;

function readHeader(c: Cursor): { format: 0 | 1; count: number; division: number } {
  if (c.bytes.length < 14 || c.word() !== 'MThd') {
    c.fail('this is not a Standard MIDI File: it does not begin with “MThd”.', 0);
  }
  const size = c.u32();
  const [format, count, division] = [c.u16(), c.u16(), c.u16()];
  if (size < 6) c.fail('the header is too short.', 8);
  if (format === 2) c.fail('it is of format 2 (independent patterns); formats 0 and 1 can be read.', 8);
  if (format > 2) c.fail(`there is no format ${format}.`, 8);
  if (division & 0x8000) c.fail('its time is counted in film frames; only quarter notes can be read.', 12);
  if (division === 0) c.fail('a quarter note has no ticks.', 12);
  c.at = 8 + size;
  return { format: format as 0 | 1, count, division };
}

const RELEASE = 64;

/** The notes of one channel and key that begin one over another: they end in the order in which they began. */
interface Sounding {
  begun: { tick: number; note: MidiNote }[];
  /** how many of them have ended */
  ended: number;
}

/** A track while it is read. */
class TrackReading {
  readonly track: MidiTrack = { name: '', notes: [], controllers: [] };
  tick = 0;
  /** the kind of the last message, for running status */
  status = 0;
  private readonly open = new Map<number, Sounding>();
  constructor(private readonly division: number) {}
  /** Notes stand in the order in which they begin, which does not depend on how long they last. */
  start(channel: number, key: number, velocity: number): void {
    const where = channel * 128 + key;
    const note: MidiNote = { at: this.tick / this.division, length: 0, channel: channel + 1, key, velocity };
    this.track.notes.push(note);
    const sounding = this.open.get(where) ?? { begun: [], ended: 0 };
    sounding.begun.push({ tick: this.tick, note });
    this.open.set(where, sounding);
  }
  /** @param release how fast the key was let go; 64 where nobody measured it (MIDI 1.0) */
  close(channel: number, key: number, release = RELEASE): void {
    const sounding = this.open.get(channel * 128 + key);
    if (!sounding || sounding.ended === sounding.begun.length) return;
    const { tick, note } = sounding.begun[sounding.ended++];
    note.length = Math.max(1, this.tick - tick) / this.division;
    if (release !== RELEASE) note.release = release;
  }
  control(channel: number, number: number, value: number): void {
    this.track.controllers.push({ at: this.tick / this.division, channel: channel + 1, number, value });
  }
  /** Ends what still sounds, and puts the notes of one moment in the order of their keys. */
  finish(): MidiTrack {
    for (const [where, { begun, ended }] of this.open) {
      for (let i = ended; i < begun.length; i++) this.close(where >> 7, where & 127);
    }
    this.track.notes.sort((a, b) => a.at - b.at || a.key - b.key);
    return this.track;
  }
}

function readTrack(c: Cursor, r: Reading): MidiTrack {
  const t = new TrackReading(r.division);
  while (c.at < c.end) {
    if (++r.events > MAX_EVENTS) c.fail(`it has more than ${MAX_EVENTS} events.`);
    t.tick += c.varLength();
    const first = kindOf(c, t);
    if (first === 0xff) {
      if (readMeta(c, t, r)) break;
    } else if (first === 0xf0 || first === 0xf7) passSystem(c, t, r);
    else if (first > 0xf0) c.fail(`a message of kind ${first} does not belong into a file.`, c.at - 1);
    else readMessage(first, c, t, r);
  }
  return t.finish();
}

/** The kind of the next event: its own, or that of the one before (running status). */
function kindOf(c: Cursor, t: TrackReading): number {
  const first = c.u8();
  if (first >= 128) {
    if (first < 0xf0) t.status = first;
    return first;
  }
  if (t.status === 0) c.fail('an event has no kind, and there is none before it to repeat.', c.at - 1);
  c.at--;
  return t.status;
}

const TEMPO = 0x51;
const METER = 0x58;
const NAME = 0x03;
const END = 0x2f;

/** An event about the file. @returns whether it ends the track */
function readMeta(c: Cursor, t: TrackReading, r: Reading): boolean {
  const type = c.u8();
  const size = c.varLength();
  const from = c.at;
  if (from + size > c.end) c.fail('a note about the file is longer than its track.');
  const [a, b, d] = c.bytes.subarray(from, from + 3);
  if (type === TEMPO && size === 3) {
    if (r.tempos++ === 0) r.tempo = tempoOf((a << 16) | (b << 8) | d, r);
  } else if (type === METER && size >= 2 && t.tick === 0) r.meter = meterOf(a, b, r);
  else if (type === NAME && !t.track.name) t.track.name = plainText(c.bytes.subarray(from, from + size));
  c.at = from + size;
  t.status = 0;
  return type === END;
}

/** bpm to a thousandth, from microseconds in a quarter note. */
function tempoOf(micros: number, r: Reading): number {
  const bpm = Math.round((60000000 / micros) * 1000) / 1000;
  const held = micros > 0 ? Math.min(TEMPOS[1], Math.max(TEMPOS[0], bpm)) : 120;
  if (held !== bpm) {
    const what = micros > 0 ? `a tempo of ${bpm} bpm` : 'a tempo without end';
    r.mended.push(`The file has ${what}; ${held} bpm was taken.`);
  }
  return held;
}

/** A time signature: beats, and the power of two of their length. */
function meterOf(beats: number, power: number, r: Reading): [number, number] {
  if (beats >= 1 && beats <= METER_MOST && 2 ** power <= METER_MOST) return [beats, 2 ** power];
  r.mended.push(`The file has a time signature of ${beats}/2^${power}; 4/4 was taken.`);
  return [4, 4];
}

/** A text without control characters, of at most 200. */
const plainText = (bytes: Uint8Array): string =>
  cutText(
    new TextDecoder()
      .decode(bytes)
      .replace(/[^\P{C}]/gu, '')
      .trim(),
    NAME_LENGTH,
  );

function passSystem(c: Cursor, t: TrackReading, r: Reading): void {
  const size = c.varLength();
  if (c.at + size > c.end) c.fail('a system message is longer than its track.');
  c.at += size;
  r.other++;
  t.status = 0;
}

function readMessage(first: number, c: Cursor, t: TrackReading, r: Reading): void {
  const [kind, channel] = [first >> 4, first & 15];
  const value = c.data();
  // programs and channel pressure have one value, all others two
  const second = kind === 12 || kind === 13 ? 0 : c.data();
  if (kind === 9 && second > 0) t.start(channel, value, second);
  else if (kind === 8) t.close(channel, value, second);
  else if (kind === 9) t.close(channel, value);
  else if (kind === 11) t.control(channel, value, second);
  else r.other++;
}

/** What was left out, in plain words. */
function leftOut(r: Reading): string[] {
  const out = [...r.mended];
  if (r.tempos > 1) {
    const times = r.tempos === 2 ? 'time' : 'times';
    out.push(
      `The tempo changes ${r.tempos - 1} ${times}; a session has one, the first was taken (${r.tempo} bpm).`,
    );
  }
  if (r.other) {
    const [what, were] = r.other === 1 ? ['message', 'was'] : ['messages', 'were'];
    out.push(
      `${r.other} ${what} beside notes and controllers (programs, pitch bend, system) ${were} left out.`,
    );
  }
  return out;
}

/**
 * Writes a Standard MIDI File of format 1: a track with tempo and time signature, then one for each of ours.
 * Times are rounded to 1/480 of a quarter.
 */
export function writeMidi(data: { tempo: number; meter: [number, number]; tracks: MidiTrack[] }): Uint8Array {
  const text = (s: string) => [...new TextEncoder().encode(s)];
  const meta = (type: number, bytes: number[]) => [0xff, type, ...size(bytes.length), ...bytes];
  const micros = Math.round(60000000 / data.tempo);
  const chunk = (kind: string, body: number[]) => [
    ...text(kind),
    ...[24, 16, 8, 0].map((s) => (body.length >>> s) & 255),
    ...body,
  ];
  const track = (events: { tick: number; order: number; bytes: number[] }[]) => {
    events.sort((a, b) => a.tick - b.tick || a.order - b.order);
    const body: number[] = [];
    let now = 0;
    for (const e of events) {
      for (const b of size(e.tick - now)) body.push(b);
      for (const b of e.bytes) body.push(b);
      now = e.tick;
    }
    body.push(...size(0), ...meta(0x2f, []));
    return chunk('MTrk', body);
  };
  const tick = (quarters: number) => Math.round(quarters * TICKS);
  const conductor = track([
    { tick: 0, order: 0, bytes: meta(0x51, [(micros >> 16) & 255, (micros >> 8) & 255, micros & 255]) },
    { tick: 0, order: 1, bytes: meta(0x58, [data.meter[0], Math.round(Math.log2(data.meter[1])), 24, 8]) },
  ]);
  const tracks = data.tracks.map((t) =>
    track([
      { tick: 0, order: -1, bytes: meta(0x03, text(t.name)) },
      ...t.controllers.map((c) => ({
        tick: tick(c.at),
        order: 1,
        bytes: [0xb0 | (c.channel - 1), c.number, c.value],
      })),
      // ends come before beginnings of the same moment, so that a repeated note sounds twice
      ...t.notes.flatMap((n) => [
        { tick: tick(n.at), order: 2, bytes: [0x90 | (n.channel - 1), n.key, n.velocity] },
        {
          tick: Math.max(tick(n.at) + 1, tick(n.at + n.length)),
          order: 0,
          bytes: [0x80 | (n.channel - 1), n.key, n.release ?? RELEASE],
        },
      ]),
    ]),
  );
  return Uint8Array.from([
    ...chunk('MThd', [0, 1, 0, data.tracks.length + 1, TICKS >> 8, TICKS & 255]),
    ...conductor,
    ...tracks.flat(),
  ]);
}

/** A number in groups of seven bits, most first. */
function size(v: number): number[] {
  const out = [v & 127];
  while ((v >>>= 7) > 0) out.unshift((v & 127) | 128);
  return out;
}
