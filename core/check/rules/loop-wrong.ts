import { measureRoundTrip } from '../../devices/outboard.ts';
import { active, onDevice, quoted, type Rule } from '../rule.ts';

const known = new Map<string, number>();
/** The round trip of a loop in ms, measured once for each unit and rate. */
export function measured(unit: string, rate: number): number {
  const key = `${unit}@${rate}`;
  if (!known.has(key)) known.set(key, Math.round(measureRoundTrip(unit, rate) * 100) / 100);
  return known.get(key)!;
}

export const loopWrong: Rule = {
  id: 'loop-wrong',
  severity: 'warning',
  title: 'Parallel path out of line',
  why: 'What comes back from hardware is taken for earlier or later than it is: beside a dry path it combs.',
  safe: true,
  find: ({ session }) =>
    [...active(session)].flatMap(({ t, x }) => {
      if (x.kind !== 'device' || x.type !== 'outboard' || x.state !== 'on' || x.params.roundTrip === 0) {
        return [];
      }
      const is = measured(String(x.params.unit), session.sampleRate);
      const says = x.params.roundTrip as number;
      return Math.round((Math.abs(is - says) * session.sampleRate) / 1000) >= 2
        ? [
            {
              track: t.id,
              slot: x.id,
              message: `${quoted(x)} on ${quoted(t)} counts on ${says.toFixed(2)} ms there and back; it takes ${is.toFixed(2)} ms.`,
              fix: `Set ${is.toFixed(2)} ms`,
            },
          ]
        : [];
    }),
  fix: (s, h) =>
    onDevice(s, h, (d) => ({
      params: { ...d.params, roundTrip: measured(String(d.params.unit), s.sampleRate) },
    })),
};
