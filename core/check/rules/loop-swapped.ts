import { loopsIn, withHardware } from '../loops.ts';
import { quoted, type Rule } from '../rule.ts';

export const loopSwapped: Rule = {
  id: 'loop-swapped',
  severity: 'fault',
  title: 'Left and right swapped',
  why: 'What was sent on the left comes back on the right.',
  safe: true,
  find: ({ session }) =>
    loopsIn(session).flatMap(({ t, x }) => {
      if (!x.hardware?.measured?.swapped || x.hardware.correct?.swapped) return [];
      return [
        {
          track: t.id,
          slot: x.id,
          message: `${quoted(x)} on ${quoted(t)} comes back with its sides swapped.`,
          fix: 'Swap them back on the return',
        },
      ];
    }),
  fix: (s, h) => withHardware(s, h, (use) => ({ ...use, correct: { ...use.correct, swapped: true } })),
};
