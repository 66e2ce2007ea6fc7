import { DEVICE_TYPES, changesSince, newestRevision, revisionOf } from '../../devices/index.ts';
import type { Device } from '../../model/types.ts';
import { active, onDevice, quoted, type Checked, type Hit, type Rule } from '../rule.ts';

const devicesOf = ({ session }: Checked) =>
  [...active(session)].flatMap(({ t, x }) => (x.kind === 'device' ? [{ t, x }] : []));

const since = (d: Device): string =>
  changesSince(d)
    .map((e) => e.since)
    .join('; ');

const isKept = (d: Device): boolean => !!DEVICE_TYPES[d.type].earlier?.[revisionOf(d) - 1]?.create;

/** The device that a finding speaks of, by the present sound. */
const takeNewest: NonNullable<Rule['fix']> = (s, h) =>
  onDevice(s, h, (d) => ({ revision: newestRevision(d.type) }));

export const soundKept: Rule = {
  id: 'sound-kept',
  severity: 'advice',
  title: 'Sounds as it was saved, by an earlier revision',
  why: 'The device has been improved since; it goes on as it was, so that the mix does not change unnoticed.',
  find: (c) =>
    devicesOf(c)
      .filter(({ x }) => changesSince(x).length > 0 && isKept(x))
      .map(({ t, x }): Hit => ({
        track: t.id,
        slot: x.id,
        message: `${quoted(x)} on ${quoted(t)} plays revision ${revisionOf(x)} of its sound. Since then: ${since(x)}.`,
        fix: 'Take the present sound',
      })),
  fix: takeNewest,
};

export const soundChanged: Rule = {
  id: 'sound-changed',
  severity: 'warning',
  title: 'Sounds otherwise than it was saved',
  why: 'The sound that this device was set with is not in this program any more; listen once, then say that it is right.',
  find: (c) =>
    devicesOf(c)
      .filter(({ x }) => changesSince(x).length > 0 && !isKept(x))
      .map(({ t, x }): Hit => ({
        track: t.id,
        slot: x.id,
        message: `${quoted(x)} on ${quoted(t)} was set with revision ${revisionOf(x)} of its sound, which this program does not play any more. Since then: ${since(x)}.`,
        fix: 'It sounds right',
      })),
  fix: takeNewest,
};

export const soundUnknown: Rule = {
  id: 'sound-unknown',
  severity: 'warning',
  title: 'Set with a newer program',
  why: 'This program does not know that revision of the sound and plays its own newest one: the same values may sound otherwise.',
  find: (c) =>
    devicesOf(c)
      .filter(({ x }) => revisionOf(x) > newestRevision(x.type))
      .map(({ t, x }): Hit => ({
        track: t.id,
        slot: x.id,
        message: `${quoted(x)} on ${quoted(t)} was set with revision ${revisionOf(x)} of its sound; this program knows ${newestRevision(x.type)}. It can’t be played faithfully here.`,
      })),
};
