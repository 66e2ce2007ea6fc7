/** What a preset remembers of the sound that it was made with. Levels in dBFS, loudness in LUFS, frequencies in Hz. */
import type { Id } from './basic.ts';

export interface PitchRange {
  /** the 5th, 50th and 95th percentile of the fundamental */
  low: number;
  mid: number;
  high: number;
}

/** The bursts of a voice between 4 and 11 kHz. */
export interface Sibilance {
  frequency: number;
  /** dB of the bursts' band against the sounding parts of the whole */
  level: number;
}

/** What a device that works by level did while something sounded. */
export interface DeviceFigures {
  id: Id;
  type: string;
  /** RMS at its input */
  level: number;
  /** noise between phrases at its input; null: none to be found */
  floor: number | null;
  /** level at its input that the soft quarter of what sounds stays under */
  soft: number;
  /** dB ≥ 0: gain reduction on the average, and the deepest twentieth */
  mean: number;
  deep: number;
  /** the average of each band, of a device that has several */
  bands?: number[];
}

/** One line's sound at the input of its chain, and what its devices did with it. */
export interface LineReference {
  /** s of it that sound */
  seconds: number;
  loudness: number;
  truePeak: number;
  /** dB between peak and RMS of what sounds */
  crest: number;
  floor: number | null;
  /** dB of each third of an octave against the whole, from 100 Hz to 16 kHz (IEC 61260-1, base 10) */
  thirds: number[];
  pitch: PitchRange | null;
  sibilance: Sibilance | null;
  /** in the order of the signal */
  devices: DeviceFigures[];
  /** what it was set to, where that depends on the voice: "dev4/b1.freq", "dev2/gain" */
  values: Record<string, number>;
  /** key and scale that its pitch correction keeps to */
  notes?: { key: string; scale: string };
}
