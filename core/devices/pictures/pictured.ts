import type { Params } from '../../model/types.ts';
import type { DeviceType } from '../spec.ts';
import type { Pictured } from './picture.ts';

/** A device as its pictures see it: its values, and what its type makes of them. */
export function pictured(type: DeviceType, params: Params, sampleRate: number, tempo: number): Pictured {
  return {
    params,
    sampleRate,
    tempo,
    curve: (level) => type.curve?.(level, params) ?? level,
    gain(f) {
      const [re, im] = type.response?.(params, f, sampleRate) ?? [1, 0];
      return 20 * Math.log10(Math.max(1e-9, Math.hypot(re, im)));
    },
    parts: () => type.instrument?.parts(params) ?? [],
    layers: () => type.pattern?.(params) ?? [],
    word: (param) =>
      type.byId[param]?.choices?.find((c) => c.id === params[param])?.label ?? String(params[param]),
  };
}
