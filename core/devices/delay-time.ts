import { noteMs } from '../model/units.ts';
import type { Params } from '../model/types.ts';

/** The longest time that is set in ms; a note lasts as long as the tempo makes it. */
export const MAX_MS = 4000;

/** The delay's time in ms at a tempo in bpm. */
export const delayMs = (p: Params, tempo: number): number =>
  p.mode === 'note' ? noteMs(p.note as string, tempo) : (p.time as number);
