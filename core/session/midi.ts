import { DEVICE_TYPES } from '../devices/index.ts';
import { outPlace, type OutPlace } from '../devices/instrument.ts';
import type { InstrumentPart } from '../devices/instrument-type.ts';
import { devicesIn, mapDevices } from './slots.ts';
import type { Device, Id, Input, MidiAddress, MidiPort, Session, Take, Track } from '../model/types.ts';

export const MIDI_PORTS: readonly MidiPort[] = ['A', 'B', 'C', 'D'];
export const MIDI_CHANNELS = Array.from({ length: 16 }, (_, i) => i + 1);

/**
 * Percussion keys as General MIDI Level 1 has them (MIDI Association, GM Level 1, percussion key map; from
 * memory).
 */
export const PERCUSSION: Record<number, string> = {
  35: 'Acoustic bass drum',
  36: 'Bass drum',
  37: 'Side stick',
  38: 'Snare',
  39: 'Hand clap',
  40: 'Electric snare',
  41: 'Low floor tom',
  42: 'Closed hi-hat',
  43: 'High floor tom',
  44: 'Pedal hi-hat',
  45: 'Low tom',
  46: 'Open hi-hat',
  47: 'Low-mid tom',
  48: 'High-mid tom',
  49: 'Crash 1',
  50: 'High tom',
  51: 'Ride 1',
  52: 'China',
  53: 'Ride bell',
  54: 'Tambourine',
  55: 'Splash',
  56: 'Cowbell',
  57: 'Crash 2',
  58: 'Vibraslap',
  59: 'Ride 2',
  69: 'Cabasa',
  70: 'Maracas',
  75: 'Claves',
  76: 'High wood block',
  77: 'Low wood block',
};

const NOTE_NAMES = ['C', 'C♯', 'D', 'E♭', 'E', 'F', 'F♯', 'G', 'A♭', 'A', 'B♭', 'B'];
/** "C4" for 60 (the middle C as most programs count it: common practice; the standard names no octaves). */
export const keyName = (key: number): string =>
  `${NOTE_NAMES[((key % 12) + 12) % 12]}${Math.floor(key / 12) - 1}`;

export const addressText = (a: { port: string; channel: number }): string =>
  `port ${a.port}, ${a.channel === 0 ? 'all channels' : `channel ${a.channel}`}`;
export const sameAddress = (a: MidiAddress, b: MidiAddress): boolean =>
  a.port === b.port && a.channel === b.channel;

/** Whether a track's input lets an event of a port and channel in. */
export const accepts = (input: Input, port: string, channel: number): boolean =>
  input.kind === 'midi' && input.port === port && (input.channel === 0 || input.channel === channel);

/** An instrument that plays, with its parts as they are set. */
export interface Instrument {
  track: Track;
  device: Device;
  parts: InstrumentPart[];
}

/** Instruments of a track, inactive ones left out. */
export const instrumentsOn = (t: Track): Instrument[] =>
  devicesIn(t.chain).flatMap((device) => {
    const spec = DEVICE_TYPES[device.type]?.instrument;
    return spec && device.state !== 'inactive'
      ? [{ track: t, device, parts: spec.parts(device.params) }]
      : [];
  });
export const instrumentsIn = (s: Session): Instrument[] =>
  s.tracks.filter((t) => t.state === 'on').flatMap(instrumentsOn);

/**
 * One thing that hears an address: a part with its own channel, or a whole instrument on what its line takes.
 */
export interface Listener extends MidiAddress {
  track: Id;
  device: Device;
  name: string;
  part?: InstrumentPart;
}

/**
 * Everything in a session that listens to notes, address by address; an instrument that takes all channels
 * listens on each of them.
 */
export function listenersIn(tracks: readonly Track[]): Listener[] {
  return tracks
    .filter((t) => t.state === 'on')
    .flatMap((t) => {
      const input = t.input;
      if (input.kind !== 'midi') return [];
      return instrumentsOn(t).flatMap(({ device, parts }): Listener[] => {
        const own = parts.filter((p) => p.address);
        if (own.length) {
          return own.flatMap((part) =>
            accepts(input, part.address!.port, part.address!.channel)
              ? [
                  {
                    ...part.address!,
                    track: t.id,
                    device,
                    name: `${part.name} of ${device.name} on ${t.name}`,
                    part,
                  },
                ]
              : [],
          );
        }
        return (input.channel ? [input.channel] : MIDI_CHANNELS).map((channel) => ({
          port: input.port,
          channel,
          track: t.id,
          device,
          name: `${device.name} on ${t.name}`,
        }));
      });
    });
}

/**
 * Addresses that a MIDI track sends to: one where its output sets the channel, otherwise those of its
 * patterns and notes.
 */
export function sentBy(t: Track): MidiAddress[] {
  const out = t.output;
  if (t.role !== 'midi' || out.kind !== 'midi') return [];
  const made = devicesIn(t.chain)
    .filter((d) => d.state === 'on')
    .flatMap((d) => DEVICE_TYPES[d.type]?.pattern?.(d.params) ?? [])
    .map((l) => l.channel);
  const played = (t.notes ?? []).flatMap((c) => [
    ...c.notes.map((n) => n.channel),
    ...c.controllers.map((x) => x.channel),
  ]);
  const all = [...new Set([...made, ...played])].sort((a, b) => a - b);
  return all.length && out.channel
    ? [{ port: out.port, channel: out.channel }]
    : all.map((channel) => ({ port: out.port, channel }));
}

/**
 * Addresses that something new should keep away from: of everything that would listen if it were on, and of
 * every line that sends there, whether it has notes yet or not.
 */
export function claimedAddresses(tracks: readonly Track[]): MidiAddress[] {
  const awake = tracks.map((t): Track => ({
    ...t,
    state: 'on',
    chain: mapDevices(t.chain, (d) => ({ ...d, state: 'on' })),
  }));
  const sent = awake.flatMap((t) =>
    t.output.kind === 'midi' && t.output.channel
      ? [{ port: t.output.port, channel: t.output.channel }]
      : sentBy(t),
  );
  return [...listenersIn(awake), ...sent];
}

/** The addresses that nobody listens on, in order. */
export function freeAddresses(taken: readonly MidiAddress[]): MidiAddress[] {
  const used = new Set(taken.map((a) => `${a.port}${a.channel}`));
  return MIDI_PORTS.flatMap((port) => MIDI_CHANNELS.map((channel) => ({ port, channel }))).filter(
    (a) => !used.has(`${a.port}${a.channel}`),
  );
}

/** What a line takes of an instrument; only for lines that do. */
export const outOf = (t: Track) => t.input as Extract<Input, { kind: 'deviceOutput' }>;
/** The half of a pair that it takes; a stereo line and a sum take both. */
export const sideTaken = (t: Track): OutPlace['side'] => {
  const x = outOf(t).take;
  return x === 'left' || x === 'right' ? x : 'both';
};
/** Whether a part comes out where a line listens. */
export const landsOn = (p: { out: string }, t: Track): boolean => {
  const o = outPlace(p.out);
  return o.pair > 0 && o.pair === outOf(t).output && hears(outOf(t).take, o.side);
};

/** Tracks that take an output of an instrument. */
export const takersOf = (s: { tracks: readonly Track[] }, slot: Id): Track[] =>
  s.tracks.filter((t) => t.input.kind === 'deviceOutput' && t.input.slot === slot);

const HALVES: Record<OutPlace['side'], string> = { left: 'L', right: 'R', both: '' };
/** How an output is stored. */
export const outText = (p: OutPlace): string => (p.pair === 0 ? 'main' : `${p.pair}${HALVES[p.side]}`);
/** "Main", "3 (stereo)", "3 left". */
export const outLabel = (p: OutPlace): string =>
  p.pair === 0 ? 'Main' : `${p.pair} ${p.side === 'both' ? 'stereo' : p.side}`;
/** How a line takes a part that comes out on a side: a mono line sums a pair. */
export const takeOf = (side: OutPlace['side'], channels: 1 | 2): Take => {
  if (side === 'both') return channels === 1 ? 'sum' : 'stereo';
  return side;
};
/** Whether what comes out at a place is heard by a track that takes this half of a pair. */
export const hears = (take: Take, side: OutPlace['side']): boolean =>
  take === 'stereo' || take === 'sum' || side === 'both' || take === side;
