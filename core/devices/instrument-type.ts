import type { MidiAddress, Params } from '../model/types.ts';

/** One part of an instrument: what can be played by itself and has an output. */
export interface InstrumentPart {
  /** beginning of its values' ids: "p3" */
  id: string;
  name: string;
  /** a microphone picks up every part; it is not played by itself */
  kind: 'part' | 'mic';
  /** the value that holds its output, and what it says: "main", "3", "3L" */
  outParam: string;
  out: string;
  /** MIDI key that plays it alone, and its number for a strike without a key */
  key: number;
  strike: number;
  /** what it sounds like: decides what it is put together with */
  sound: string;
  pan: number;
  /** of a part with a channel of its own */
  address?: MidiAddress;
  /** controller numbers that it listens to: the value's id, what it moves, the number */
  controllers?: { param: string; label: string; number: number; usual: number }[];
}

/** What makes a device type an instrument. */
export interface InstrumentType {
  /** separate stereo outputs beside the main one */
  outputs: number;
  /** drums: on channel 10 where that is free (General MIDI) */
  drums?: boolean;
  /** plays low notes: a pattern for it begins two octaves lower */
  low?: boolean;
  /** of one whose parts each listen at an address of their own: the values that put its first parts there */
  addressed?(addresses: readonly MidiAddress[]): Params;
  parts(params: Params): InstrumentPart[];
  /** the value that trims an output before the faders; 0 is the main one */
  trim(pair: number): string | null;
}

/** One layer of a pattern: whole steps of a sixteenth. */
export interface PatternLayer {
  channel: number;
  /** for each step: velocity 0–127 */ steps: number[];
  /** key of each hit in turn */ keys: number[];
  /** share of a step that a note lasts */ gate: number;
}
