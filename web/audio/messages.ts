import type { Audition, Id, Session, Track } from '../../core/index.ts';

/** What the page says to the engine. Only tracks that changed are sent; the rest are known there by id. */
export type ToEngine =
  | { type: 'session'; base: Omit<Session, 'tracks'>; order: Id[]; changed: Track[]; fresh: boolean }
  | { type: 'sound'; id: string; l: Float32Array; r: Float32Array }
  | { type: 'play' } | { type: 'stop' }
  | { type: 'seek'; frame: number }
  | { type: 'loop'; start: number; end: number }
  | { type: 'audition'; audition: Audition }
  | { type: 'scope'; slot: Id | null };

/** What the engine says to the page, about 30 times a second. */
export type FromEngine =
  | { type: 'layout'; nodes: Id[]; slots: Id[]; latency: number }
  | { type: 'meters'; position: number; playing: boolean; values: Float32Array; before: Float32Array | null; after: Float32Array | null }
  | { type: 'refused'; message: string };

/** Places of a node's and a slot's figures in `values`. */
export const PER_NODE = 4;
export const PER_SLOT = 2;
export const SCOPE = 4096;

export interface Match { gain: number; withLufs: number; withoutLufs: number }
export type Job =
  | { op: 'sound'; media: string; rate: number }
  | { op: 'match'; session: Session; track: Id; bypass: Id[] }
  | { op: 'null'; session: Session; preset: unknown; plan: unknown };
