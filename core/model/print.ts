/** What a session is printed to: stems, versions of the mix, files. Times in s, levels in dB, rates in Hz. */
import type { Id } from './basic.ts';

/** How far the sound of a stem goes before it is taken, from its source to the end of the mix. */
export const DEPTHS = ['source', 'chain', 'fader', 'returns', 'buses', 'master'] as const;
export type Depth = (typeof DEPTHS)[number];

/** One stem: some lines, or whole buses and returns, as far as they are followed. */
export interface Stem {
  id: Id;
  name: string;
  /** lines, each in one stem; a bus or return in here belongs to this stem alone, with all that comes through it */
  lines: Id[];
  depth: Depth;
}

/** The mix once more with other levels: an instrumental, the voice a little louder. */
export interface MixVersion {
  id: Id;
  name: string;
  /** lines that are not heard in it */
  muted: Id[];
  /** dB added to faders */
  levels: Record<Id, number>;
}

export interface PrintFile {
  format: 'wav' | 'flac';
  /** 32 is floating point, which FLAC has not */
  bits: 16 | 24 | 32;
  /** at 16 and 24 bit: none, triangular, or triangular with its noise moved to where it is heard least */
  dither: 'none' | 'triangular' | 'shaped';
  /** Hz; null: the session's */
  rate: number | null;
  /** one channel where both sides are equal within −120 dB */
  mono: boolean;
  /** names of the files: {nn} {song} {stem} {bpm} {key} {date} */
  names: string;
}

/** Level of everything that is printed, by one gain for all. */
export type PrintLevel =
  | { kind: 'as it is' }
  /** true peak of the loudest file, dBTP */
  | { kind: 'peak'; ceiling: number }
  /** integrated loudness of the mix, LUFS; never over the ceiling (dBTP) */
  | { kind: 'loudness'; target: number; ceiling: number };

export interface PrintPlan {
  mix: boolean;
  versions: MixVersion[];
  stems: Stem[];
  /** devices of buses, returns and master that are left off in everything that is printed */
  off: Id[];
  /** s of the song; null: from its start to its end */
  range: { from: number; to: number } | null;
  /** s that are waited at most until everything is silent */
  tail: number;
  /** s before the range that are played and not kept, for what rings already */
  preRoll: number;
  file: PrintFile;
  level: PrintLevel;
  /** places of the song that are marked in the files: s, and what they are called */
  marks?: { at: number; name: string }[];
}
