import { loopsIn, setMeasured } from '../loops.ts';
import { quoted, type Rule } from '../rule.ts';

export const loopUnmeasured: Rule = {
  id: 'loop-unmeasured',
  severity: 'warning',
  title: 'Round trip not measured',
  why: 'What comes back from hardware is late; unmeasured it combs with everything beside it.',
  safe: true,
  find: ({ session }) =>
    loopsIn(session)
      .filter(({ x, loop }) => x.params[loop.roundTrip] === 0)
      .map(({ t, x }) => {
        const what = `The round trip of ${quoted(x)} on ${quoted(t)} was not measured.`;
        return {
          track: t.id,
          slot: x.id,
          message: `${what} Open it and press “Measure the ${x.hardware ? 'loop' : 'round trip'}”.`,
          fix: 'Measure it',
        };
      }),
  fix: setMeasured,
};
