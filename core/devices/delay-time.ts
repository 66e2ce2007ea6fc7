import { noteMs } from '../model/units.ts';
import type { Params } from '../model/types.ts';

export const MAX_MS = 4000;

/** The delay's time in ms at a tempo in bpm (held under 4 s). */
export const delayMs = (p: Params, tempo: number): number =>
  Math.min(MAX_MS, p.mode === 'note' ? noteMs(p.note as string, tempo) : (p.time as number));
