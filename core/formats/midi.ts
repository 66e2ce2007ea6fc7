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
 * and
 * unknown meta events are passed over; a note that never ends lasts until the end of its track.
 * @throws FormatError that names the byte where reading stopped
 */
export function readMidi(bytes: Uint8Array, file = 'MIDI file'): MidiData {
  if (bytes.length > MAX_BYTES) {
    throw new FormatError(file, '', `it is larger than ${MAX_BYTES / 1048576} MB.`);
  }
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  let at = 0;
  let end = bytes.length;
  const fail = (text: string, where = at): never => {
    throw new FormatError(file, `byte ${where}`, text);
  };
  const u8 = () => (at < end ? bytes[at++] : fail('the file ends in the middle of an event.'));
  const u16 = () =>
    at + 2 <= end ? view.getUint16((at += 2) - 2) : fail('the file ends in the middle of a number.');
  const u32 = () =>
    at + 4 <= end ? view.getUint32((at += 4) - 4) : fail('the file ends in the middle of a number.');
  const word = () => String.fromCharCode(u8(), u8(), u8(), u8());
  const varLength = () => {
    let v = 0;
    for (let i = 0; i < 4; i++) {
      const b = u8();
      v = v * 128 + (b & 127);
      if (b < 128) return v;
    }
    return fail('a length is longer than four bytes.');
  };

  if (bytes.length < 14 || word() !== 'MThd') {
    fail('this is not a Standard MIDI File: it does not begin with “MThd”.', 0);
  }
  const head = u32();
  const format = u16();
  const count = u16();
  const division = u16();
  if (head < 6) fail('the header is too short.', 8);
  if (format > 1) {
    fail(
      format === 2
        ? 'it is of format 2 (independent patterns); formats 0 and 1 can be read.'
        : `there is no format ${format}.`,
      8,
    );
  }
  if (division & 0x8000) fail('its time is counted in film frames; only quarter notes can be read.', 12);
  if (division === 0) fail('a quarter note has no ticks.', 12);
  at = 8 + head;

  const out: MidiData = { format: format as 0 | 1, tempo: 120, meter: [4, 4], tracks: [], notes: [] };
  let events = 0;
  let tempos = 0;
  let other = 0;
  while (at < bytes.length && out.tracks.length < Math.max(1, count)) {
    end = bytes.length;
    const kind = word();
    const length = u32();
    const stop = at + length;
    if (stop > bytes.length) fail(`a block of ${length} bytes is longer than the file.`, at - 4);
    if (kind !== 'MTrk') {
      at = stop;
      continue;
    }
    end = stop;
    const track: MidiTrack = { name: '', notes: [], controllers: [] };
    const open = new Map<number, { tick: number; velocity: number }[]>();
    let tick = 0;
    let status = 0;
    const close = (channel: number, key: number) => {
      const o = open.get(channel * 128 + key)?.shift();
      if (o) {
        track.notes.push({
          at: o.tick / division,
          length: Math.max(1, tick - o.tick) / division,
          channel: channel + 1,
          key,
          velocity: o.velocity,
        });
      }
    };
    while (at < stop) {
      if (++events > MAX_EVENTS) fail(`it has more than ${MAX_EVENTS} events.`);
      tick += varLength();
      let first = u8();
      if (first < 128) {
        if (status === 0) fail('an event has no kind, and there is none before it to repeat.', at - 1);
        at--;
        first = status;
      } else if (first < 0xf0) status = first;
      const channel = first & 15;
      const data = () => {
        const v = u8();
        return v < 128 ? v : fail('a value is larger than 127.', at - 1);
      };
      if (first === 0xff) {
        const type = u8();
        const size = varLength();
        const from = at;
        if (from + size > stop) fail('a note about the file is longer than its track.');
        if (type === 0x51 && size === 3) {
          if (tempos++ === 0) {
            out.tempo =
              Math.round(
                (60000000 / ((bytes[from] << 16) | (bytes[from + 1] << 8) | bytes[from + 2])) * 1000,
              ) / 1000;
          }
        } else if (type === 0x58 && size >= 2 && tick === 0) out.meter = [bytes[from], 2 ** bytes[from + 1]];
        else if (type === 0x03 && !track.name) {
          track.name = new TextDecoder()
            .decode(bytes.subarray(from, from + size))
            .replace(/[^\P{C}]/gu, '')
            .trim()
            .slice(0, 200);
        }
        at = from + size;
        status = 0;
        if (type === 0x2f) break;
      } else if (first === 0xf0 || first === 0xf7) {
        const size = varLength();
        if (at + size > stop) fail('a system message is longer than its track.');
        at += size;
        other++;
        status = 0;
      } else if (first > 0xf0) fail(`a message of kind ${first} does not belong into a file.`, at - 1);
      else if (first >> 4 === 9 || first >> 4 === 8) {
        const key = data();
        const velocity = data();
        if (first >> 4 === 9 && velocity > 0) {
          const k = channel * 128 + key;
          (open.get(k) ?? open.set(k, []).get(k)!).push({ tick, velocity });
        } else close(channel, key);
      } else if (first >> 4 === 11) {
        const number = data();
        const value = data();
        track.controllers.push({ at: tick / division, channel: channel + 1, number, value });
      } else {
        data();
        if (first >> 4 !== 12 && first >> 4 !== 13) data();
        other++;
      }
    }
    for (const [k, list] of open) while (list.length) close(k >> 7, k & 127);
    track.notes.sort((a, b) => a.at - b.at || a.key - b.key);
    at = stop;
    out.tracks.push(track);
  }
  if (!out.tracks.length) fail('there is no track in it.', 14);
  if (tempos > 1) {
    out.notes.push(
      `The tempo changes ${tempos - 1} ${tempos === 2 ? 'time' : 'times'}; a session has one, the first was taken (${out.tempo} bpm).`,
    );
  }
  if (other) {
    out.notes.push(
      `${other} ${other === 1 ? 'message' : 'messages'} beside notes and controllers (programs, pitch bend, system) ${other === 1 ? 'was' : 'were'} left out.`,
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
          bytes: [0x80 | (n.channel - 1), n.key, 64],
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
