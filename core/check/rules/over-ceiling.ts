import { onDevice, quoted, type Rule } from '../rule.ts';
import type { Device } from '../../model/types.ts';

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
        if (last?.kind !== 'device' || last.type !== 'limiter') return [];
        const ceiling = last.params.ceiling as number;
        const peak = levels!.master;
        return peak > ceiling + 0.2
          ? [
              {
                track: t.id,
                slot: last.id,
                message: `True peaks behind ${quoted(last)} on ${quoted(t)} reach ${peak.toFixed(1).replace('-', '−')} dBTP; its ceiling is ${ceiling.toFixed(1).replace('-', '−')} dB.`,
                ...(last.params.truePeak === true ? {} : { fix: 'Let it watch true peaks' }),
              },
            ]
          : [];
      }),
  fix: (s, h) => onDevice(s, h, (d: Device) => ({ params: { ...d.params, truePeak: true } })),
};
