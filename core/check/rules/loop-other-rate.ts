import { loopsIn, setMeasured } from '../loops.ts';
import { quoted, type Rule } from '../rule.ts';

export const loopOtherRate: Rule = {
  id: 'loop-other-rate',
  severity: 'warning',
  title: 'Measured at another rate',
  why: 'The same converters take another time at another rate; what was measured there says nothing here.',
  safe: true,
  find: ({ session }) =>
    loopsIn(session).flatMap(({ t, x }) => {
      const measured = x.hardware?.measured;
      if (!measured || measured.sampleRate === session.sampleRate) return [];
      const then = `was measured at ${measured.sampleRate} Hz`;
      return [
        {
          track: t.id,
          slot: x.id,
          message: `${quoted(x)} on ${quoted(t)} ${then}; this session runs at ${session.sampleRate} Hz.`,
          fix: 'Measure it again',
        },
      ];
    }),
  fix: setMeasured,
};
