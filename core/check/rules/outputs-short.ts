import { planLayout } from '../../kit/layout.ts';
import { quoted, separated, type Rule } from '../rule.ts';

export const outputsShort: Rule = {
  id: 'outputs-short',
  severity: 'warning',
  title: 'More parts than outputs',
  why: 'Sixteen mono outputs are eight stereo ones: what finds none stays on the main output, past its line.',
  find: ({ session, instruments }) =>
    instruments
      .filter((i) => separated(i) && i.parts.some((p) => p.out === 'main'))
      .flatMap((i) => {
        const [problem] = planLayout(session, i.device.id).problems;
        return problem
          ? [{ track: i.track.id, slot: i.device.id, message: `${quoted(i.track)}: ${problem}` }]
          : [];
      }),
};
