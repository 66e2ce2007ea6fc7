import { monoCompressor, stereoCompressor } from './dynamics.ts';
import { preamp, tape } from './colour.ts';
import { spring, vault } from './spaces.ts';
import type { UnitModel } from './model.ts';

export { restOf, type Stage, type UnitModel } from './model.ts';

const LIST = [monoCompressor, stereoCompressor, preamp, tape, spring, vault];

/** The units that are simulated, by their names. Without a prototype: “constructor” is none. */
export const UNIT_MODELS: Record<string, UnitModel> = Object.assign(
  Object.create(null) as Record<string, UnitModel>,
  Object.fromEntries(LIST.map((m) => [m.id, m])),
);
