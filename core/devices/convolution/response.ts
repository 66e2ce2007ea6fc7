import type { Params } from '../../model/types.ts';
import type { Sound } from '../sounds.ts';
import type { Response } from './level.ts';

/** Seconds of an impulse response that are used at most. */
export const MOST_SECONDS = 12;
/** Level of what comes out against what goes in, for a steady sound of even power on both sides: that of the reverb. */
const LEVEL = 1.35;
/** share of the length over which the end fades */
const FADE = 0.15;
const LEAST = 32;

/** What of a device's values makes another response. */
export const responseKey = (p: Params): string =>
  [p.impulse, p.start, p.length, p.even].map(String).join(' ');

/** A stretch of a sound, faded at its end where it is cut, as loud as asked for. */
export function responseOf(sound: Sound, p: Params, sampleRate: number): Response {
  const frames = Math.min(framesOf(sound), MOST_SECONDS * sampleRate);
  const from = Math.min(Math.round(((p.start as number) * sampleRate) / 1000), Math.max(0, frames - LEAST));
  const share = (p.length as number) / 100;
  const length = Math.max(1, Math.min(frames - from, Math.round((frames - from) * share)));
  const sides = sidesOf(sound, from, length);
  const fade = share < 1 ? Math.round(length * FADE) : 0;
  for (const side of new Set(sides)) fadeOut(side, fade);
  if (p.even) {
    const energy = (energyOf(sides[0]) + energyOf(sides[1])) / 2;
    const gain = energy > 0 ? LEVEL / Math.sqrt(energy) : 0;
    for (const side of new Set(sides)) side.forEach((v, i) => (side[i] = v * gain));
  }
  return { l: sides[0], r: sides[1] };
}

const energyOf = (x: Float64Array): number => x.reduce((sum, v) => sum + v * v, 0);

function framesOf(sound: Sound): number {
  return sound.open ? sound.open().frames : sound.l.length;
}

/** Both sides, or one array twice where they are one. */
function sidesOf(sound: Sound, from: number, n: number): [Float64Array, Float64Array] {
  const window = sound.open?.();
  if (!window) {
    const l = Float64Array.from(sound.l.subarray(from, from + n));
    return [l, sound.r === sound.l ? l : Float64Array.from(sound.r.subarray(from, from + n))];
  }
  const [l, r] = [new Float64Array(n), new Float64Array(n)];
  for (let done = 0; done < n;) {
    const m = Math.min(PIECE, n - done);
    window.reach(from + done, m);
    const at = from + done - window.at;
    l.set(window.l.subarray(at, at + m), done);
    r.set(window.r.subarray(at, at + m), done);
    done += m;
  }
  return [l, window.l === window.r ? l : r];
}
const PIECE = 4096;

function fadeOut(x: Float64Array, n: number): void {
  const from = x.length - n;
  for (let i = 0; i < n; i++) {
    const c = Math.cos((0.5 * Math.PI * (i + 1)) / n);
    x[from + i] *= c * c;
  }
}
