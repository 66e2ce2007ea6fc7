import { loopsIn, measured, setMeasured } from '../loops.ts';
import { quoted, type Rule } from '../rule.ts';

export const loopWrong: Rule = {
  id: 'loop-wrong',
  severity: 'warning',
  title: 'Parallel path out of line',
  why: 'What comes back from hardware is taken for earlier or later than it is: beside a dry path it combs.',
  safe: true,
  find: ({ session }) =>
    loopsIn(session).flatMap(({ t, x, loop }) => {
      const says = x.params[loop.roundTrip] as number;
      if (says === 0) return [];
      const is = measured(x, session.sampleRate);
      const samples = (ms: number) => Math.round((ms * session.sampleRate) / 1000);
      if (samples(is) === samples(says)) return [];
      const promise = `counts on ${says.toFixed(2)} ms there and back`;
      return [
        {
          track: t.id,
          slot: x.id,
          message: `${quoted(x)} on ${quoted(t)} ${promise}; it takes ${is.toFixed(2)} ms.`,
          fix: `Set ${is.toFixed(2)} ms`,
        },
      ];
    }),
  fix: setMeasured,
};
