/**
 * The plain data that everything else works on. Amounts are in the user's unit (dB, Hz, ms, %, seconds, bpm),
 * never in samples;
 * everything is JSON-safe. A level of MIN_LEVEL dB or lower stands for silence (−∞ cannot be written in
 * JSON).
 */
import type { PrintPlan } from './print.ts';
import type { LineReference } from './reference.ts';
import type { Id, MidiPort } from './basic.ts';
import type { HardwareUse, Studio, UnitUse } from './hardware.ts';

export type { Id, MidiPort } from './basic.ts';
/** What a track is for. */
export const ROLES = ['audio', 'instrument', 'midi', 'bus', 'return', 'folder', 'master'] as const;
export type Role = (typeof ROLES)[number];
export type Tap = 'pre' | 'post';
export type SlotState = 'on' | 'bypassed' | 'inactive';
export type ParamValue = number | string | boolean;
export type Params = Record<string, ParamValue>;

export const MIN_LEVEL = -144;
export const MAX_LEVEL = 12;

export type Input =
  | { kind: 'none' }
  /** `units`: what stands between the microphone and the port, with its positions */
  | { kind: 'hardware'; port: string; units?: UnitUse[] }
  | { kind: 'track'; track: Id; tap: Tap }
  /**
   * a separate output of an instrument on another track: pairs are numbered from 1; `slot` may be gone when
   * the instrument was changed
   */
  | { kind: 'deviceOutput'; track: Id; slot: Id; output: number; take: Take }
  /** notes and controllers from a port; channel 0 takes all sixteen */
  | { kind: 'midi'; port: MidiPort; channel: number; filter?: MidiFilter };

/** Which half of a stereo output a track takes. */
export type Take = 'stereo' | 'left' | 'right' | 'sum';

export interface MidiAddress {
  port: MidiPort;
  channel: number;
}

/**
 * What of the events that arrive an instrument hears: keys from–to (0–127), and whether controllers come
 * along.
 */
export interface MidiFilter {
  low: number;
  high: number;
  controllers: boolean;
}

/** Of a MIDI track: where its notes go. Channel 0 leaves each event on its own channel. */
export type Output =
  | { kind: 'none' }
  | { kind: 'track'; track: Id }
  | { kind: 'hardware'; port: string }
  | { kind: 'midi'; port: MidiPort; channel: number };

export interface Send {
  id: Id;
  to: Id;
  /** dB */
  level: number;
  tap: Tap;
  panMode: 'follow' | 'own';
  /** −100 … 100, used when panMode is own */
  pan: number;
  on: boolean;
  /** from 1: where it stands among the line's sends, whatever arrives; left out: as it comes */
  place?: number;
}

export type Key = { kind: 'own' } | { kind: 'track'; track: Id; tap: Tap };

/** What is kept of a third-party device that this program cannot run. */
export interface Foreign {
  format: string;
  identifier: string;
  vendor: string;
  name: string;
  /** sha-256 of the opaque state file, and its place in the file it came from */
  state?: { sha256: string; path: string };
  params: { id: string; name: string; value: string; unit?: string }[];
  /** the device’s own element as the file had it, so that a copy goes out with everything in it */
  xml?: string;
}

export interface Device {
  id: Id;
  kind: 'device';
  type: string;
  name: string;
  state: SlotState;
  params: Params;
  key: Key;
  /** which sound of its type it was set with (see `DeviceType.revision`); the first one when left out */
  revision?: number;
  foreign?: Foreign;
  /** of a device that leaves the computer: what it goes through there */
  hardware?: HardwareUse;
  origin?: Origin;
}

/** One parallel path inside a rack. */
export interface Strand {
  id: Id;
  name: string;
  chain: Slot[];
  /** dB */
  level: number;
  pan: number;
  mute: boolean;
  solo: boolean;
}

/** Between the first two strands: 0 % is all of the first, 100 % all of the second; both in between. */
export interface Blend {
  mode: 'off' | 'power' | 'linear';
  /** % */
  position: number;
}

/**
 * One parameter that a handle moves: from `from` at 0 % to `to` at 100 %, in the parameter's own unit and
 * taper; `from` may exceed `to`.
 */
/** In the place of a tie's slot: the line that the rack stands on, and what only the person hears. */
export const LINE = 'line';
export const DESK = 'desk';

export interface Tie {
  id: Id;
  /** a device, rack or strand inside the rack; LINE or DESK */
  slot: Id;
  /**
   * a device's parameter; “state” (on or bypassed) of a device or rack; “blend” of a rack; “level”, “pan”, “mute” or
   * “solo” of a strand; “mute” or “solo” of LINE; “mono” of DESK. The ends of a switch are 0 and 1.
   */
  param: string;
  from: number;
  to: number;
  /** −100 … 100: 0 moves evenly, positive comes late, negative early */
  curve: number;
}

export interface Handle {
  id: Id;
  name: string;
  colour: string;
  /** % */
  value: number;
  /** MIDI controller number 0–119 that moves it */
  cc: number | null;
  /** a button in the place of a knob: each press flips it, or it is at 100 % only while it is pressed */
  button?: 'toggle' | 'hold';
  /** handles of one number that carry the same word here are moved by one control on purpose */
  link?: string;
  ties: Tie[];
}

export interface Rack {
  id: Id;
  kind: 'rack';
  name: string;
  state: SlotState;
  strands: Strand[];
  blend: Blend;
  handles: Handle[];
  origin?: Origin;
}

export type Slot = Device | Rack;

export interface Clip {
  id: Id;
  /** sha-256 of the sound in the media list */
  media: string;
  /** seconds from the session's start */
  start: number;
  /** seconds into the sound */
  offset: number;
  /** seconds */
  length: number;
  /** dB */
  gain: number;
  /** a take that does not play; left out: it plays */
  off?: true;
}

/** Notes and controllers on a MIDI track, in quarter notes from the clip's start. */
export interface NoteClip {
  id: Id;
  name: string;
  /** quarter notes from the session's start */
  start: number;
  /** quarter notes; events behind it do not sound */
  length: number;
  notes: MidiNote[];
  controllers: MidiController[];
}
/** channel 1–16, key 0–127, velocity 1–127, release velocity 0–127 (64 when left out) */
export interface MidiNote {
  at: number;
  length: number;
  channel: number;
  key: number;
  velocity: number;
  release?: number;
}
export interface MidiController {
  at: number;
  channel: number;
  number: number;
  value: number;
}

/**
 * A value at a time in seconds from the session's start. With `hold` it stays until the next point, otherwise
 * it goes there in a straight line along the value's own taper.
 */
export interface LanePoint {
  at: number;
  value: number;
  hold?: true;
}

/**
 * A value of a track that changes along the song; before the first point and behind the last one it stands
 * still.
 */
export interface Lane {
  id: Id;
  /** the track, one of its sends, or a device, rack, strand or handle of its chain; it may be gone */
  of: Id;
  /**
   * “level”, “pan” or “mute” of the track; “level” of a send; a device's number or switch; “blend” of a rack;
   * “level” or “pan” of a strand; “value” of a handle
   */
  param: string;
  on: boolean;
  /** in the order of time; a switch is on from 0.5 */
  points: LanePoint[];
}

/** What a printed line goes back to: the input that it had, and the sound that the print put on it. */
export interface Printed {
  input: Input;
  clip: Id;
  /** whose output was printed onto it */
  instrument?: { track: Id; slot: Id };
  /** of a line that was printed with its own chain: the clips that it had, and what of its chain sleeps since */
  chain?: { clips: Clip[]; asleep: { id: Id; was: SlotState }[] };
}

/**
 * Which preset a line or device was dropped from. The uppermost object of a drop also keeps what telling its
 * changes apart from the shelf's needs.
 */
export interface Origin {
  preset: string;
  version: number;
  hash: string;
  name: string;
  drop: string;
  /** the id that this object has inside the preset */
  local: Id;
  /** the parts that came in */
  parts?: Parts;
  /** id here → id inside the preset, for everything that came in with it */
  ids?: Record<Id, Id>;
  /**
   * what the drop made different on purpose: path inside the track, such as "dev4/time", "hdl1/cc" or "name"
   * → the value that it got
   */
  adapted?: Record<string, ParamValue>;
  /** sends that were on the line before the drop and stayed: they are none of the preset's business */
  beside?: Id[];
}

export interface Track {
  id: Id;
  name: string;
  /** a name from COLOURS */
  colour: string;
  role: Role;
  channels: 1 | 2;
  /** enclosing folder, or null */
  folder: Id | null;
  input: Input;
  /** dB before the chain: what the line's own sound needs to come into it as loud as the chain was made for */
  inputTrim?: number;
  chain: Slot[];
  level: number;
  pan: number;
  polarity: boolean;
  mute: boolean;
  solo: boolean;
  soloSafe: boolean;
  state: 'on' | 'inactive';
  hidden: boolean;
  output: Output;
  sends: Send[];
  clips: Clip[];
  /** of a MIDI track */
  notes?: NoteClip[];
  printed?: Printed;
  automation?: Lane[];
  note: string;
  origin?: Origin;
}

/** Where a line comes from and goes to. */
export type LineEnds = Pick<Track, 'input' | 'output'>;

export interface MediaRef {
  /** sha-256 of the WAV bytes */
  id: string;
  name: string;
  sampleRate: number;
  channels: 1 | 2;
  frames: number;
}

/** The studio that a session is in: its ports by name, and a copy of it as far as the session uses it. */
export interface Setup {
  name: string;
  inputs: string[];
  outputs: string[];
  studio?: Studio;
  /** what is done of the patch list: moves and positions, each by its key */
  ticks?: string[];
  /** where the session was before it moved here, with what the move changed: the way back */
  left?: {
    setup: Setup | null;
    slots: Record<Id, { before: Device; after: Device }>;
    /** inputs and outputs of lines, where the move changed them */
    ends?: Record<Id, { before: LineEnds; after: LineEnds }>;
  };
}

/** A name between lines: it stands above one of them, over all that follow until the next. */
export interface Heading {
  id: Id;
  name: string;
  /** a name from COLOURS */
  colour: string;
  before: Id;
}

/** The key of a song: its note 0 (C) … 11, and its mode. */
export interface SongKey {
  tonic: number;
  mode: 'major' | 'minor';
}

export interface Session {
  format: 'rope-shelf/session';
  version: 1;
  name: string;
  sampleRate: number;
  bitDepth: 16 | 24 | 32;
  /** bpm */
  tempo: number;
  meter: [number, number];
  /** where it is known: what is dropped later is set to it */
  key?: SongKey;
  /** dB at centre for mono sources */
  panLaw: -3 | -4.5 | 0;
  setupId: string | null;
  /** the studio's ports by name, when they are told */
  setup?: Setup;
  /** how it is printed */
  print?: PrintPlan;
  tracks: Track[];
  headings?: Heading[];
  media: MediaRef[];
  note: string;
  /** the imported file that this session came from, kept whole on the server */
  source?: { format: 'dawproject'; sha256: string; name: string };
  /** ties chosen in earlier drops: "preset id/loose end label" → track id */
  lastTies?: Record<string, Id>;
  /** findings of the line check that are meant so, each for one object */
  silenced?: { key: string; reason: string }[];
}

/** What of a line a preset can hold; each is described in core/drop/parts. */
export const PART_IDS = [
  'chain',
  'sends',
  'level',
  'pan',
  'output',
  'input',
  'keys',
  'hardware',
  'folder',
  'name',
  'colour',
  'note',
  'clips',
  'automation',
] as const;
export type PartId = (typeof PART_IDS)[number];
export type Parts = PartId[];

/** What a preset is of; each is described in core/drop/kinds. */
export const PRESET_KINDS = ['device', 'rack', 'strip', 'rig', 'patch', 'starter'] as const;
export type PresetKind = (typeof PRESET_KINDS)[number];

export interface LooseEnd {
  id: Id;
  kind: 'output' | 'send' | 'key' | 'input' | 'folder';
  /** the track and, for sends and keys, the send or slot inside the preset's content */
  track: Id;
  at?: Id;
  /** the far side as it was: name, role, width */
  label: string;
  role: Role;
  channels: 1 | 2;
  /** id of the spare that stands for the far side, when one travels along */
  spare?: Id;
}

export interface PresetContent {
  tracks: Track[];
  /** which parts of the tracks are meant; others hold defaults and are not applied */
  parts: Parts;
  looseEnds: LooseEnd[];
  /** copies of the buses and returns at the far side */
  spares: Track[];
  /** loose ends of the spares themselves go to the master */
  media: MediaRef[];
  /** tracks whose parts differ from the common choice */
  trackParts?: Record<Id, Parts>;
  /** of a starter: what the session itself is set to */
  session?: StarterSettings;
  /** of a rig: stems and versions of the mix that its lines are printed to */
  print?: PrintPlan;
}

/** What a starter keeps of the session around its tracks. */
export type StarterSettings = Pick<
  Session,
  'sampleRate' | 'bitDepth' | 'tempo' | 'meter' | 'panLaw' | 'setupId' | 'note'
> & { setup?: Setup; print?: PrintPlan; headings?: Heading[] };

/** What a preset was made at and with; no part of its hash. */
export interface PresetReference {
  tempo: number;
  sampleRate: number;
  /** local id of a line → the sound that it was saved with; presets without it still work */
  lines?: Record<Id, LineReference>;
}

export interface Requirements {
  devices: string[];
  foreign: string[];
  channels: (1 | 2)[];
  /** Hz; frequencies above half a session's rate must be adapted */
  topFrequency: number;
}

export interface Preset {
  format: 'rope-shelf/preset';
  id: string;
  kind: PresetKind;
  name: string;
  /** path such as "Voice/Lead" */
  category: string;
  tags: string[];
  colour: string;
  note: string;
  version: number;
  /** version number that this one was saved from, or the parent preset of a variant */
  parent: { preset: string; version: number } | null;
  content: PresetContent;
  /** bpm and Hz of the session that it was saved from */
  reference: PresetReference;
  requirements: Requirements;
  /** sha-256 of the canonical JSON of content */
  hash: string;
}

export interface Problem {
  /** JSON pointer into the document */
  path: string;
  rule: string;
  message: string;
}
