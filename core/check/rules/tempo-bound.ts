import { NOTES, noteFor, noteMs } from '../../model/units.ts';
import { DEVICE_TYPES } from '../../devices/index.ts';
import type { Device } from '../../model/types.ts';
import { active, onDevice, quoted, type Rule } from '../rule.ts';

/** ms; shorter echoes are a colour, not a rhythm */
const RHYTHM = 90;
const echoOf = (d: Device) => DEVICE_TYPES[d.type].echo?.(d.params) ?? null;
/** The note whose length is next to a time, of those that the device can be set to in ms. */
function nearest(d: Device, value: string, bpm: number) {
  const spec = DEVICE_TYPES[d.type].byId[value];
  const far = (ms: number) => Math.abs(Math.log(ms / (d.params[value] as number)));
  return NOTES.map((n) => ({ n, ms: noteMs(n.id, bpm) }))
    .filter(({ ms }) => ms >= spec.min! && ms <= spec.max!)
    .sort((a, b) => far(a.ms) - far(b.ms))
    .at(0);
}

export const tempoBound: Rule = {
  id: 'tempo-bound',
  severity: 'advice',
  title: 'Echo off the beat',
  why: 'A delay in ms that fits no note of this tempo mostly comes from another song.',
  find: ({ session }) =>
    [...active(session)].flatMap(({ t, x }) => {
      const value = x.kind === 'device' && x.state === 'on' ? echoOf(x) : null;
      if (x.kind !== 'device' || !value) return [];
      const ms = x.params[value] as number;
      if (ms < RHYTHM || noteFor(ms, session.tempo)) return [];
      const to = nearest(x, value, session.tempo);
      return [
        {
          track: t.id,
          slot: x.id,
          message: `${quoted(x)} on ${quoted(t)} is ${Math.round(ms)} ms: no note at ${session.tempo} bpm.`,
          fix: to && `Make it ${to.n.label}, ${Math.round(to.ms)} ms`,
        },
      ];
    }),
  fix: (s, h) =>
    onDevice(s, h, (d) => {
      const value = echoOf(d);
      const to = value && nearest(d, value, s.tempo);
      if (!to) return {};
      return { params: { ...d.params, [value]: Number(to.ms.toFixed(3)) } };
    }),
};
