import { DEVICE_TYPES } from '../../core/index.ts';
import { stereoDevice } from './build.ts';

/** Edges of an octave, Hz; at most what is heard. */
export const OCTAVE_LOW = (f: number) => f / Math.SQRT2;
export const OCTAVE_HIGH = (f: number) => Math.min(f * Math.SQRT2, 20000);

/** A stretch through a filter an octave wide with steep sides: Butterworth, eighth order each. */
export function octave(x: Float32Array, f: number): Float32Array {
  const cut = (type: string, freq: number, b: number) => ({
    [`b${b}.on`]: true,
    [`b${b}.type`]: type,
    [`b${b}.freq`]: freq,
    [`b${b}.slope`]: '48',
  });
  const params = {
    ...DEVICE_TYPES.eq.defaults,
    ...cut('highPass', OCTAVE_LOW(f), 1),
    ...cut('lowPass', OCTAVE_HIGH(f), 2),
  };
  return stereoDevice('eq', params, x)[0];
}
