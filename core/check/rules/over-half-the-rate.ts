import { DEVICE_TYPES } from '../../devices/index.ts';
import { formatValue } from '../../model/units.ts';
import type { Device } from '../../model/types.ts';
import { active, onDevice, quoted, type Rule } from '../rule.ts';

const over = (d: Device, rate: number) =>
  DEVICE_TYPES[d.type].params.filter(
    (p) =>
      p.unit === 'Hz' &&
      typeof d.params[p.id] === 'number' &&
      (d.params[p.id] as number) > rate / 2 &&
      (DEVICE_TYPES[d.type].used?.(d.params, p.id) ?? true),
  );

export const overHalfTheRate: Rule = {
  id: 'over-half-the-rate',
  severity: 'fault',
  title: 'Frequency over half the sample rate',
  why: 'There is no sound up there at this rate; the filter does something else than it says.',
  safe: true,
  find: ({ session }) =>
    [...active(session)].flatMap(({ t, x }) =>
      x.kind === 'device'
        ? over(x, session.sampleRate)
            .slice(0, 1)
            .map((p) => ({
              track: t.id,
              slot: x.id,
              message: `${p.label} of ${quoted(x)} on ${quoted(t)} is ${formatValue(p, x.params[p.id])}, over half of ${session.sampleRate / 1000} kHz.`,
              fix: 'Bring it under half the rate',
            }))
        : [],
    ),
  fix: (s, h) =>
    onDevice(s, h, (d) => ({
      params: {
        ...d.params,
        ...Object.fromEntries(
          over(d, s.sampleRate).map((p) => [
            p.id,
            Math.max(p.min!, Math.floor((s.sampleRate * 0.49) / 10) * 10),
          ]),
        ),
      },
    })),
};
