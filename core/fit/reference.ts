import { EQ_BANDS } from '../devices/eq.ts';
import { integratedLoudness } from '../measure/loudness.ts';
import { truePeak } from '../measure/truepeak.ts';
import type { Sound } from '../engine/sound.ts';
import { devicesIn } from '../session/slots.ts';
import { trackOf } from '../session/create.ts';
import type { DeviceFigures, LineReference } from '../model/reference.ts';
import type { Device, Id, Session, Slot } from '../model/types.ts';
import { alongChain, figuresOf, isKeyed, soundInto, through, worksByLevel } from './chain.ts';
import { pitchOf, sibilanceOf, sounding, soundingSpectrum, thirdsOf, type Sides } from './figures.ts';

/** s that have to sound before anything can be told */
export const LEAST = 3;

const singles = (x: Sides): Float32Array[] => [Float32Array.from(x.l), Float32Array.from(x.r)];
export const loudnessOf = (x: Sides, sampleRate: number): number =>
  integratedLoudness(singles(x), sampleRate);

/** What is told of the sound itself, before any device. */
export type Figures = Omit<LineReference, 'devices' | 'values' | 'notes'>;

export function figuresOfSound(x: Sides, sampleRate: number): Figures {
  const where = sounding(x, sampleRate);
  const whole = soundingSpectrum(x, where);
  const peak = truePeak(singles(x), sampleRate);
  return {
    seconds: where.seconds,
    loudness: loudnessOf(x, sampleRate),
    truePeak: peak,
    crest: peak - where.level,
    floor: where.floor,
    thirds: thirdsOf(whole, sampleRate),
    pitch: pitchOf(x, where, sampleRate),
    sibilance: sibilanceOf(x, whole, where, sampleRate),
  };
}

/**
 * What a preset remembers of the sound that it is made with: the line's sound at the input of its chain (up to 60 s),
 * and what each device that works by level does with it.
 * @returns null where less than three seconds sound: there is nothing to remember
 * @throws when there is no such line
 */
export async function measureReference(
  session: Session,
  track: Id,
  sounds: Map<string, Sound>,
): Promise<LineReference | null> {
  return referenceNow(session, track, sounds);
}

/** The same at once. */
export function referenceNow(session: Session, track: Id, sounds: Map<string, Sound>): LineReference | null {
  const line = trackOf(session, track);
  if (!line) throw new Error('The line that was to be measured is not in the session.');
  const { sampleRate, tempo } = session;
  const x = soundInto(session, track, sounds);
  const figures = figuresOfSound(x, sampleRate);
  if (figures.seconds < LEAST || !Number.isFinite(figures.loudness)) return null;
  const where = sounding(x, sampleRate);
  const devices: DeviceFigures[] = [];
  const about = { sampleRate, tempo, where, sounds };
  alongChain(line.chain, x, about, (d, now) => {
    if (!worksByLevel(d) || isKeyed(d)) return { device: d };
    const { out, reduced } = through(d, d.params, now, about);
    devices.push(figuresOf(d, now, reduced, where, sampleRate));
    return { device: d, out };
  });
  const correction = devicesIn(line.chain).find((d) => d.type === 'pitchcorrect' && d.state === 'on');
  const notes = correction && {
    key: String(correction.params.key),
    scale: String(correction.params.scale),
  };
  return { ...figures, devices, values: valuesOf(line.chain), ...(notes ? { notes } : {}) };
}

/** High-passes of an EQ that are on. */
export const highPassesOf = (d: Device): string[] =>
  Array.from({ length: EQ_BANDS }, (_, i) => `b${i + 1}`)
    .filter((b) => d.params[`${b}.on`] === true && d.params[`${b}.type`] === 'highPass')
    .map((b) => `${b}.freq`);
/** Values of a device that depend on the voice by themselves; thresholds that are searched do not. */
const DEPENDING: Record<string, (d: Device) => string[]> = {
  trim: () => ['gain'],
  eq: highPassesOf,
  gate: () => ['threshold'],
  deesser: () => ['frequency'],
};
const valuesOf = (chain: readonly Slot[]): Record<string, number> =>
  Object.fromEntries(
    devicesIn(chain).flatMap((d) =>
      (DEPENDING[d.type]?.(d) ?? []).map((param) => [`${d.id}/${param}`, d.params[param] as number]),
    ),
  );

/** What was measured in a session, under the ids of a preset that is saved from it (`capture`'s). */
export function referenceUnder(reference: LineReference, ids: Readonly<Record<Id, Id>>): LineReference {
  const to = (id: Id) => ids[id] ?? id;
  const values = Object.entries(reference.values).map(([path, v]): [string, number] => {
    const [id, param] = path.split('/');
    return [`${to(id)}/${param}`, v];
  });
  return {
    ...reference,
    devices: reference.devices.map((d) => ({ ...d, id: to(d.id) })),
    values: Object.fromEntries(values),
  };
}
