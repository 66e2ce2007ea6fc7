import { MAX_LEVEL, MIN_LEVEL } from '../../model/types.ts';
import { toPosition } from '../../model/units.ts';

const FADER = {
  id: 'level',
  label: 'Level',
  group: '',
  kind: 'number',
  unit: 'dB',
  min: MIN_LEVEL,
  max: MAX_LEVEL,
  default: 0,
  taper: 'level',
} as const;

/** A fader's level (dB) in the measure by which it is compared: by its way, and the whole way is one difference. */
export const levelAt = (level: number): number => toPosition(FADER, level);
