import { loopsIn, withHardware } from '../loops.ts';
import { quoted, type Rule } from '../rule.ts';

export const loopTurned: Rule = {
  id: 'loop-turned',
  severity: 'fault',
  title: 'Polarity turned on the way',
  why: 'What comes back upside down takes away from every dry path beside it.',
  safe: true,
  find: ({ session }) =>
    loopsIn(session).flatMap(({ t, x }) => {
      const turned = x.hardware?.measured?.polarity === -1;
      if (!turned || x.hardware?.correct?.turned) return [];
      return [
        {
          track: t.id,
          slot: x.id,
          message: `${quoted(x)} on ${quoted(t)} comes back with its polarity turned.`,
          fix: 'Turn it back on the return',
        },
      ];
    }),
  fix: (s, h) => withHardware(s, h, (use) => ({ ...use, correct: { ...use.correct, turned: true } })),
};
