import { onDevice, quoted, type Rule } from '../rule.ts';
import { DEVICE_TYPES } from '../../devices/index.ts';
import type { Device } from '../../model/types.ts';

const decibels = (v: number) => v.toFixed(1).replace('-', '−');

export const overCeiling: Rule = {
  id: 'over-ceiling',
  severity: 'warning',
  title: 'Peaks over the limiter’s ceiling',
  why: 'Between two samples the sound goes higher than any of them: a converter plays that peak.',
  safe: true,
  find: ({ session, levels }) =>
    session.tracks
      .filter((t) => t.role === 'master' && levels)
      .flatMap((t) => {
        const last = t.chain.filter((d) => d.state === 'on').at(-1);
        const limit = last?.kind === 'device' ? DEVICE_TYPES[last.type].ceiling : undefined;
        if (last?.kind !== 'device' || !limit) return [];
        const ceiling = limit.level(last.params);
        const peak = levels!.master;
        if (peak <= ceiling + 0.2) return [];
        const reached = `True peaks behind ${quoted(last)} on ${quoted(t)} reach ${decibels(peak)} dBTP`;
        return [
          {
            track: t.id,
            slot: last.id,
            message: `${reached}; its ceiling is ${decibels(ceiling)} dB.`,
            ...(last.params[limit.truePeak] === true ? {} : { fix: 'Let it watch true peaks' }),
          },
        ];
      }),
  fix: (s, h) =>
    onDevice(s, h, (d: Device) => ({
      params: { ...d.params, [DEVICE_TYPES[d.type].ceiling!.truePeak]: true },
    })),
};
