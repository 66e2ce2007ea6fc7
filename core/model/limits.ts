import { MAX_LEVEL, MIN_LEVEL } from './types.ts';

type Range = readonly [least: number, most: number];
type Table<Of> = Record<string, Record<string, Of>>;

/** s: a day, and the longest print; what is waited for in a print; quarters of a song, and s of what is on its way */
const DAY: Range = [0, 86400];
const TAIL: Range = [0, 120];
const TIME: Range = [0, 100000];
const LEVEL: Range = [MIN_LEVEL, MAX_LEVEL];
const SIDES: Range = [-100, 100];
const PERCENT: Range = [0, 100];
/** 1 to 16, and 0 for all of them */
const CHANNELS: Range = [0, 16];
const CHANNEL: Range = [1, 16];
const SEVEN_BITS: Range = [0, 127];
const TEMPO: Range = [10, 999];
const RATE: Range = [8000, 384000];
const PLACE: Range = [0, 31];
const COUNTED: Range = [1, 1e9];

/**
 * How far numbers of a document go, or the numbers of a list, by their type and name: for the checks of the core, and
 * for the JSON Schemas. Units stand in the types. Values of devices have their own tables (`DEVICE_TYPES`).
 */
export const RANGES = {
  Session: { sampleRate: RATE, tempo: TEMPO },
  StarterSettings: { sampleRate: RATE, tempo: TEMPO },
  Preset: { version: COUNTED },
  PresetReference: { tempo: TEMPO, sampleRate: RATE },
  Requirements: { topFrequency: [0, 1e6] },
  MediaRef: { sampleRate: RATE, frames: [0, 1e12] },
  Controller: { channel: CHANNELS, numbers: SEVEN_BITS },
  SongKey: { tonic: [0, 11] },
  Device: { revision: [1, 999] },
  Track: { level: LEVEL, pan: SIDES, inputTrim: [-60, 60] },
  Input: { output: [1, 64], channel: CHANNELS },
  Output: { channel: CHANNELS },
  MidiFilter: { low: SEVEN_BITS, high: SEVEN_BITS },
  Strand: { level: LEVEL, pan: SIDES },
  Blend: { position: PERCENT },
  Handle: { value: PERCENT, cc: [0, 119] },
  Tie: { curve: SIDES },
  Send: { level: LEVEL, pan: SIDES, place: [1, 64] },
  Clip: { start: DAY, offset: DAY, length: DAY, gain: [MIN_LEVEL, 36] },
  NoteClip: { start: TIME, length: TIME },
  MidiNote: {
    at: TIME,
    length: TIME,
    channel: CHANNEL,
    key: SEVEN_BITS,
    velocity: [1, 127],
    release: SEVEN_BITS,
  },
  MidiController: { at: TIME, channel: CHANNEL, number: SEVEN_BITS, value: SEVEN_BITS },
  LanePoint: { at: TIME, value: [-1e9, 1e9] },
  Studio: { version: COUNTED },
  Port: { number: [1, 9999], alignment: [-20, 40] },
  Control: { min: [-1e6, 1e6], max: [-1e6, 1e6], column: PLACE, row: PLACE },
  Measured: { delay: [-1e6, 1e6], gain: [-300, 100], sampleRate: RATE },
  Line: { delay: [0, 200000], gain: [-100, 40], noise: [-200, 0], hum: [-200, 0] },
  PrintPlan: { from: DAY, to: DAY, at: DAY, tail: TAIL, preRoll: TAIL },
  PrintLevel: { ceiling: [-40, 0], target: [-60, 0] },
} as const satisfies Table<Range>;

/** Which of those numbers are whole. */
export const WHOLE = {
  Preset: ['version'],
  SongKey: ['tonic'],
  Controller: ['channel', 'numbers'],
  Device: ['revision'],
  Input: ['output', 'channel'],
  Output: ['channel'],
  MidiFilter: ['low', 'high'],
  Handle: ['cc'],
  MidiNote: ['channel', 'key', 'velocity', 'release'],
  MidiController: ['channel', 'number', 'value'],
  Studio: ['version'],
  Control: ['column', 'row'],
} as const satisfies Record<string, readonly string[]>;

/** both numbers of a meter, whole */
export const METER: Range = [1, 64];
/** Hz that a print can have of its own */
export const PRINT_RATES = [44100, 48000, 88200, 96000, 176400, 192000] as const;

const NAME: Range = [1, 200];
const NOTE: Range = [0, 20000];
const LABEL: Range = [1, 80];

/** How many letters texts have, or the texts of a list. A text of at least one letter is not only spaces. */
export const TEXTS = {
  Preset: { name: NAME, category: [0, 200], tags: [0, 60], colour: [1, 32], note: NOTE },
  Session: { name: NAME, note: NOTE, reason: [0, 2000] },
  StarterSettings: { note: NOTE },
  MediaRef: { id: LABEL, name: [0, 1000] },
  Heading: { name: NAME },
  Setup: { name: NAME, inputs: LABEL, outputs: LABEL },
  Track: { name: NAME, note: NOTE },
  Input: { slot: [0, 80] },
  Device: { name: NAME },
  Rack: { name: NAME },
  Strand: { name: NAME },
  Handle: { name: NAME, link: NAME },
  NoteClip: { name: NAME },
  Lane: { of: [0, 80], param: [0, 80] },
  Studio: { name: NAME, note: NOTE },
  Port: { name: LABEL, connector: [0, 40] },
  Bay: { name: LABEL },
  Pair: { upper: [0, 80], lower: [0, 80] },
  Wire: { from: [0, 200], to: [0, 200] },
  Cable: { from: [0, 200], to: [0, 200] },
  Unit: { name: NAME, note: NOTE },
  Control: { label: LABEL },
  Controller: { name: NAME },
  StudioLoop: { name: NAME },
  // a line stands in for it
  LooseEnd: { label: [0, 200] },
  Stem: { name: NAME },
  MixVersion: { name: NAME },
  PrintFile: { names: NAME },
  PrintPlan: { name: NAME },
} as const satisfies Table<Range>;

const ANY: Range = [0, 500];
const PRINTED: Range = [0, 256];

/** How many members lists have. Sounds, and lines of a preset, count as far as a session takes them. */
export const LISTS = {
  Preset: { tags: [0, 30] },
  Session: { tracks: [1, 2000], headings: [0, 2000], silenced: [0, 2000] },
  Setup: { inputs: [0, 256], outputs: [0, 256], ticks: [0, 5000] },
  PresetContent: { tracks: [1, 2000], spares: [0, 2000], looseEnds: [0, 2000] },
  Track: { notes: ANY, sends: ANY, chain: ANY, automation: ANY, clips: ANY },
  Printed: { clips: ANY },
  Rack: { strands: [1, 16], handles: [0, 32] },
  Strand: { chain: ANY },
  Handle: { ties: ANY },
  NoteClip: { notes: [0, 50000], controllers: [0, 50000] },
  Lane: { points: [0, 20000] },
  Input: { units: [0, 16] },
  HardwareUse: { units: [0, 16] },
  Studio: {
    ports: [0, 256],
    bays: [0, 32],
    units: [0, 200],
    wires: [0, 2000],
    cables: [0, 2000],
    controllers: [0, 200],
    loops: [0, 200],
  },
  Bay: { pairs: [0, 512] },
  Unit: { panel: [0, 64] },
  Control: { steps: [1, 32], labels: [1, 32] },
  Measured: { response: [0, 400], faults: [0, 50] },
  PrintPlan: { stems: PRINTED, versions: PRINTED, off: PRINTED, marks: PRINTED },
} as const satisfies Table<Range>;

/** Whatever is looked up by its id would find what every object has, were it called like that. */
const NAMES_OF_ALL = Object.getOwnPropertyNames(Object.prototype).toSorted().join('|');
const idOf = (letters: string, most: number) => new RegExp(`^(?!(?:${NAMES_OF_ALL})$)${letters}{1,${most}}$`);
/** What ids of a session's parts are made of, and those of a studio's; which types have one of them. */
export const ID = idOf('[\\w.:-]', 80);
export const STUDIO_ID = idOf('[\\w.-]', 64);
/** and of presets and sessions, on the shelf */
export const SHELF_ID = STUDIO_ID;
export const IDS = {
  session: [
    ...['Track', 'Send', 'Device', 'Rack', 'Strand', 'Handle', 'Tie', 'Clip', 'NoteClip', 'Lane'],
    ...['Heading', 'LooseEnd'],
  ],
  shelf: ['Preset'],
  studio: ['Studio', 'Port', 'Bay', 'Unit', 'Control', 'UnitUse'],
} as const;
