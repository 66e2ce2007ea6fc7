import type {
  Audition,
  Device,
  Id,
  Levels,
  LineReference,
  Measured,
  PrintFiles,
  PrintPlan,
  Recalled,
  Session,
  Sound,
  Suspect,
  Taken,
  Track,
} from '../../core/index.ts';
import type { PortMap } from '../../core/engine/ports.ts';

/** What the page says to the engine. Only tracks that changed are sent; the rest are known there by id. */
export type ToEngine =
  | { type: 'session'; base: Omit<Session, 'tracks'>; order: Id[]; changed: Track[]; fresh: boolean }
  | { type: 'sound'; id: string; l: Float32Array; r: Float32Array }
  | { type: 'play' }
  | { type: 'stop' }
  | { type: 'seek'; frame: number }
  /** strikes one part of an instrument, whether anything plays or not */
  | { type: 'hit'; slot: Id; part: number; velocity: number }
  | { type: 'loop'; start: number; end: number }
  | { type: 'audition'; audition: Audition }
  | { type: 'scope'; slot: Id | null }
  | { type: 'mono'; on: boolean }
  /** forgets held peaks and the loudness so far */
  | { type: 'reset-meters' }
  /** which channels of the interface carry which port */
  | { type: 'ports'; map: PortMap }
  /** plays signals straight out of channels and keeps what comes in; nothing else sounds meanwhile */
  | { type: 'measure'; out: number[]; back: number[]; sides: Float32Array[]; frames: number }
  /** plays from the start and keeps a line after its chain; the song does not go round meanwhile */
  | { type: 'record'; node: Id; frames: number }
  | { type: 'stop-recording' };

/**
 * What the engine says to the page, about 30 times a second. `readings`: further figures of the slot that is
 * watched; `master`: as METER_READINGS; `load`: share of the time there is; `late`: callbacks so far whose
 * blocks took longer than they last.
 */
export type FromEngine =
  /** what plays from now on; `position`: the frame of the song that the engine is at */
  | { type: 'layout'; nodes: Id[]; slots: Id[]; latency: number; position: number }
  | {
      type: 'meters';
      position: number;
      playing: boolean;
      values: Float32Array;
      before: Float32Array | null;
      after: Float32Array | null;
      readings: number[] | null;
      master: number[];
      load: number;
      late: number;
      /** linear peaks of the interface's channels; null where no port is connected */
      ports: { ins: number[]; outs: number[] } | null;
    }
  /** what came in; `ahead`: frames that the engine takes beside the interface */
  | { type: 'measured'; sides: Float32Array[]; ahead: number }
  /** the next stretch of what is recorded, from a frame on; `isLast` when it is over */
  | { type: 'recorded'; at: number; l: Float32Array; r: Float32Array; isLast: boolean }
  | { type: 'refused'; message: string };

/** Places of a node's and a slot's figures in `values`. */
export const PER_NODE = 5;
export const PER_SLOT = 2;
export const SCOPE = 4096;

/**
 * One thing to hear in a comparison, and where its loudness is measured: after the line's chain or on the
 * master.
 */
export interface Hearing {
  id: string;
  label: string;
  at: 'line' | 'master';
  audition: Omit<Audition, 'gains'>;
}
/**
 * LUFS of each hearing where it is measured, and the gain in dB that makes it as loud as the first one there.
 */
export interface Match {
  lufs: number[];
  gains: number[];
  first: number[];
}
/** A loop as it is measured now; with what was known of it, how well it is recalled and what may be off. */
export interface LoopNow {
  now: Measured;
  recalled: Recalled | null;
  suspect: Suspect | null;
}
/** A print that was made here, with the bytes of its files. */
export type PrintMade = PrintFiles & { bytes: Uint8Array<ArrayBuffer>[] };
export type Job =
  | { op: 'sound'; media: string; rate: number }
  /** `near`: only a few seconds around that moment of the song are measured, so that it is known at once */
  | { op: 'match'; session: Session; track: Id; hearings: Hearing[]; near?: number }
  | { op: 'null'; session: Session; preset: unknown; plan: unknown }
  /** a session from its beginning to `to` (s), as it is heard at each of its taps */
  | { op: 'taps'; session: Session; sounds: Map<string, Sound>; to?: number; taps?: string[] }
  /** `buffer`: frames of the interface's buffer where one plays */
  | { op: 'check'; session: Session; levels: Levels | null; buffer: number | null }
  | { op: 'levels'; session: Session }
  /** peaks of a whole sound, from 0 to 1 */
  | { op: 'outline'; media: string; rate: number }
  | { op: 'even'; session: Session; tracks: Id[]; to: number | Id }
  | { op: 'pieces'; session: Session; track: Id; clip: Id }
  | { op: 'reference'; session: Session; track: Id }
  | { op: 'fit'; session: Session; track: Id; reference: LineReference | null }
  | { op: 'figures'; session: Session; track: Id }
  | { op: 'tap'; session: Session; slot: Id }
  | { op: 'print'; session: Session; slot: Id }
  | { op: 'mix'; session: Session; plan: PrintPlan }
  | { op: 'print-lines'; session: Session; tracks: Id[] }
  /** `at`: when it is printed, ISO 8601 */
  | { op: 'print-stems'; session: Session; plan: PrintPlan; at: string }
  /** a simulated loop measured; with `then`, held against what was measured of it before */
  | { op: 'loop'; device: Device; sampleRate: number; then: Measured | null }
  /** a real loop by what was played into it and what came back, several times over */
  | { op: 'real-loop'; device: Device; taken: Taken; then: Measured | null };
