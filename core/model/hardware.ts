/**
 * A studio as plain data: ports, patchbays, units, what is wired behind the bay and what is plugged by hand.
 * A setup belongs to the owner of the shelf; a session keeps a copy of what it uses. Levels are in dBu or dBFS,
 * times in ms, delays of measured loops in samples at the rate that stands beside them.
 */
import type { Id, MidiPort } from './basic.ts';

/** Nominal level of a line: +4 dBu, −10 dBV, or digital, where 0 dBFS is 0 dBFS. */
export const NOMINALS = ['plus4', 'minus10', 'digital'] as const;
export type Nominal = (typeof NOMINALS)[number];

/** One connector of the interface. */
export interface Port {
  id: Id;
  name: string;
  side: 'in' | 'out';
  number: number;
  /** the other half of a stereo pair */
  pair: Id | null;
  /** what it looks like: “XLR”, “jack”, “optical” */
  connector: string;
  nominal: Nominal;
  /** dBu of a full-scale sine: +18 (EBU R 68), +24 (SMPTE RP 155) or another */
  alignment: number;
  /** loudspeakers or headphones hang on it */
  monitor?: true;
}

/**
 * How the upper and the lower point of a pair are joined behind the bay. thru: not at all; normal: until either
 * is plugged; half-normal: until the lower one is plugged; parallel: always.
 */
export const NORMALS = ['thru', 'normal', 'half-normal', 'parallel'] as const;
export type Normal = (typeof NORMALS)[number];

export interface Pair {
  mode: Normal;
  upper: string;
  lower: string;
}
export interface Bay {
  id: Id;
  name: string;
  pairs: Pair[];
}

/**
 * Where a plug fits or a wire is soldered: `port/<id>`, `unit/<id>/<in1|in2|out1|out2|key>`,
 * `bay/<id>/<pair from 1>/<upper|lower>`.
 */
export type Jack = string;

/** What is fixed behind the bay. */
export interface Wire {
  from: Jack;
  to: Jack;
}
/** What may be wrong with a cable. A dead one fills both jacks and carries nothing. */
export const CABLE_FAULTS = ['dead', 'polarity turned', 'hum', 'noise', 'quiet', 'sides swapped'] as const;
export type CableFault = (typeof CABLE_FAULTS)[number];
/** What is plugged by hand. */
export interface Cable extends Wire {
  id: Id;
  fault?: CableFault;
}

/** How a simulated way out of the computer and back is; real ones are measured instead. */
export interface Line {
  /** samples there and back */
  delay: number;
  /** dB */
  gain: number;
  polarity: 1 | -1;
  /** dBFS RMS; null: none */
  noise: number | null;
  /** dBFS of a sine at 50 Hz with its harmonics; null: none */
  hum: number | null;
  /** left comes back on the right */
  swapped: boolean;
  /** nothing comes back */
  dead: boolean;
}

export const FAMILIES = [
  'preamp',
  'equaliser',
  'compressor',
  'reverb',
  'delay',
  'saturation',
  'other',
] as const;
export type Family = (typeof FAMILIES)[number];
export const WIDTHS = ['mono', 'stereo', 'two mono channels'] as const;
export type UnitWidth = (typeof WIDTHS)[number];
export const CONTROL_KINDS = ['knob', 'stepped knob', 'switch', 'fader', 'button'] as const;
export type ControlKind = (typeof CONTROL_KINDS)[number];
export const CONTROL_UNITS = ['', 'dB', 'Hz', 'ms', 's', '%', ':1'] as const;

/** One control of a unit's panel. A position is a number in the control's unit, or the number of its label. */
export interface Control {
  id: Id;
  label: string;
  kind: ControlKind;
  /** what its marks are in; '' where it is only numbered */
  unit: (typeof CONTROL_UNITS)[number];
  min: number;
  max: number;
  taper: 'linear' | 'log' | 'square';
  default: number;
  /** the positions that a stepped knob has */
  steps?: number[];
  /** the names of a switch's positions, from 0 on */
  labels?: string[];
  /** place on the panel, from 0 */
  column: number;
  row: number;
  /** the value that it sets, in the words of the built-in devices: “threshold”, “ratio” … */
  means?: string;
}

/** One piece of outboard. */
export interface Unit {
  id: Id;
  name: string;
  family: Family;
  width: UnitWidth;
  hasKey: boolean;
  nominal: Nominal;
  panel: Control[];
  /** the simulation that sounds in its place, by its name; null: none */
  simulated: string | null;
  note: string;
}

/** A controller surface, or what hangs on a MIDI port. */
export interface Controller {
  id: Id;
  name: string;
  port: MidiPort;
  channel: number;
  /** the controller numbers that it sends */
  numbers: number[];
}

/** What one measurement of a loop found. */
export interface Measured {
  /** when, ISO 8601 */
  at: string;
  sampleRate: number;
  /** frames; null where there is none, as with simulated units */
  buffer: number | null;
  /** samples there and back, fractional */
  delay: number;
  /** dB */
  gain: number;
  polarity: 1 | -1;
  /** left came back on the right */
  swapped: boolean;
  /** dBFS RMS without the hum */
  noise: number;
  /** dBFS of the sines at 50 and 60 Hz with their harmonics */
  hum: { 50: number; 60: number };
  clipped: boolean;
  /** harmonics against the fundamental, dB */
  distortion: number;
  /** level over frequency against the level at 1 kHz: Hz, dB */
  response: [number, number][];
  faults: string[];
}

/** A unit in use, whole, so that it is known in another studio too, with the positions of its controls. */
export interface UnitUse {
  /** its place in the loop, told apart from the others of the same loop */
  id: Id;
  unit: Unit;
  positions: Record<Id, number>;
}

/** What a device that leaves the computer goes through. */
export interface HardwareUse {
  /** in the order in which the sound passes them; none: a cable */
  units: UnitUse[];
  measured: Measured | null;
  /** of simulated units: the way to them and back */
  line?: Line;
  /** what is put right on the way back: polarity turned over, sides changed */
  correct?: { turned?: true; swapped?: true };
}

/** A loop that was measured in a studio by itself. */
export interface StudioLoop {
  id: Id;
  name: string;
  send: Id[];
  back: Id[];
  measured: Measured | null;
}

/** A studio. */
export interface Studio {
  format: 'rope-shelf/setup';
  id: Id;
  version: number;
  name: string;
  note: string;
  ports: Port[];
  bays: Bay[];
  units: Unit[];
  wires: Wire[];
  cables: Cable[];
  controllers: Controller[];
  /** what hangs on each MIDI port */
  midi: Partial<Record<MidiPort, string>>;
  loops: StudioLoop[];
}
