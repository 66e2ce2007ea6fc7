import type { Id } from '../../../core/index.ts';

/** A preset's version, or a line of the open session. */
export type Side = { preset: string; version?: number } | { line: Id };
