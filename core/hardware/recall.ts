import type { Control, Measured, UnitUse } from '../model/hardware.ts';
import type { Device } from '../model/types.ts';
import { quickResponse } from './simulated.ts';
import { nearestPosition, positionText, positionsOf } from './positions.ts';

export interface Recalled {
  /** dB between then and now in the middle of the band */
  gain: number;
  /** the largest difference over frequency, dB, and where, Hz; the gain left out */
  response: number;
  at: number;
  /** samples */
  delay: number;
  /** the largest of gain and response: “recalled within …” */
  within: number;
}

/** What of a measurement a recall is judged by. */
type Heard = Pick<Measured, 'gain' | 'response'> & Partial<Pick<Measured, 'delay'>>;

/** Hz between which a recall is judged. */
const HEARD = [40, 16000];
/** dB under which a loop counts as recalled */
export const RECALLED = 0.3;

/** A loop as it is measured now against the loop as it was measured when its preset was saved. */
export function compareRecall(then: Heard, now: Heard): Recalled {
  const gain = now.gain - then.gain;
  let [response, at] = [0, 0];
  for (const [f, level] of now.response) {
    if (f < HEARD[0] || f > HEARD[1]) continue;
    const off = level - levelAt(then.response, f);
    if (Math.abs(off) > Math.abs(response)) [response, at] = [off, f];
  }
  const within = Math.max(Math.abs(gain), Math.abs(response));
  return { gain, response, at, delay: (now.delay ?? 0) - (then.delay ?? 0), within };
}

/** A response between its points, straight over the logarithm of frequency. */
function levelAt(response: readonly [number, number][], f: number): number {
  const above = response.findIndex(([x]) => x >= f);
  if (above < 0) return response.at(-1)?.[1] ?? 0;
  if (above === 0) return response[0][1];
  const [[x, a], [y, b]] = [response[above - 1], response[above]];
  return a + ((b - a) * Math.log(f / x)) / Math.log(y / x);
}

export interface Suspect {
  unit: string;
  control: string;
  /** where it seems to stand, in words */
  stands: string;
  /** dB that would be left with it there */
  left: number;
}

/** Places of a control that are tried: its steps, or some along its way. */
function tried(c: Control, now: number): number[] {
  const list = c.labels?.map((_, i) => i) ?? c.steps ?? along(c);
  return list.filter((x) => Math.abs(x - now) > 1e-9);
}
const along = (c: Control): number[] =>
  [0, 0.25, 0.5, 0.75, 1].map((share) =>
    nearestPosition(
      c,
      c.taper === 'log' ? c.min * (c.max / c.min) ** share : c.min + share * (c.max - c.min),
    ),
  );

/**
 * Which one control explains best why a loop sounds other than it should: every control of its simulated units is
 * turned, and the loop's response taken with it, by a short sweep.
 * @param d the device as it should be
 * @param now what was measured
 * @returns null when no single control explains at least half of the difference
 */
export function suspectControl(d: Device, now: Measured): Suspect | null {
  const uses = d.hardware?.units ?? [];
  const heard = (units: UnitUse[]) =>
    quickResponse({ ...d, hardware: { ...d.hardware!, units } }, now.sampleRate);
  const should = heard(uses);
  const before = compareRecall(should, now).within;
  let best: Suspect | null = null;
  for (const use of uses) {
    if (!use.unit.simulated) continue;
    const stands = positionsOf(use);
    for (const c of use.unit.panel) {
      for (const position of tried(c, stands[c.id])) {
        const turned = uses.map((u) =>
          u === use ? { ...u, positions: { ...stands, [c.id]: position } } : u,
        );
        const left = compareRecall(heard(turned), now).within;
        if (left > before / 2 || (best && left >= best.left)) continue;
        best = { unit: use.unit.name, control: c.label, stands: positionText(c, position), left };
      }
    }
  }
  return best;
}
