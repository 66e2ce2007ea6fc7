import { MAX_LEVEL, MIN_LEVEL } from './types.ts';

type Range = readonly [least: number, most: number];
/** s: a day, and the longest print; quarters of a song; s that are waited for silence */
const DAY: Range = [0, 86400];
const QUARTERS: Range = [0, 100000];
const LEVEL: Range = [MIN_LEVEL, MAX_LEVEL];
const SIDES: Range = [-100, 100];
const PERCENT: Range = [0, 100];
/** 1 to 16, and 0 for all of them */
const CHANNEL: Range = [0, 16];
const KEY: Range = [0, 127];
const TEMPO: Range = [10, 999];
const RATE: Range = [8000, 384000];

/**
 * How far numbers of a document go, by their type and name: for the checks of the core, and for the JSON Schemas. Units
 * stand in the types. Values of devices have their own tables (`DEVICE_TYPES`).
 */
export const RANGES = {
  Session: { sampleRate: RATE, tempo: TEMPO },
  PresetReference: { tempo: TEMPO, sampleRate: RATE },
  Device: { revision: [1, 999] },
  Track: { level: LEVEL, pan: SIDES, inputTrim: [-60, 60] },
  Input: { output: [1, 64], channel: CHANNEL },
  Output: { channel: CHANNEL },
  MidiFilter: { low: KEY, high: KEY },
  Strand: { level: LEVEL, pan: SIDES },
  Blend: { position: PERCENT },
  Handle: { value: PERCENT },
  Tie: { curve: SIDES },
  Send: { level: LEVEL, pan: SIDES, place: [1, 64] },
  Clip: { start: DAY, offset: DAY, length: DAY, gain: [MIN_LEVEL, 36] },
  NoteClip: { start: QUARTERS, length: QUARTERS },
  Port: { number: [1, 9999], alignment: [-20, 40] },
  Control: { min: [-1e6, 1e6], max: [-1e6, 1e6] },
  Measured: { delay: [-1e6, 1e6], gain: [-300, 100], sampleRate: RATE },
  Line: { delay: [0, 200000], gain: [-100, 40] },
  PrintLevel: { ceiling: [-40, 0], target: [-60, 0] },
} as const satisfies Record<string, Record<string, Range>>;
