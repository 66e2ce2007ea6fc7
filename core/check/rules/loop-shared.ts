import { loopsIn, type LoopOn } from '../loops.ts';
import { quoted, type Rule } from '../rule.ts';

const sendOf = ({ x, loop }: LoopOn) => x.params[loop.send];
const backOf = ({ x, loop }: LoopOn) => x.params[loop.back];

export const loopShared: Rule = {
  id: 'loop-shared',
  severity: 'fault',
  title: 'One hardware port, two loops',
  why: 'What is sent out of one port twice is mixed in the hardware and comes back on both lines.',
  find: ({ session }) =>
    loopsIn(session).flatMap((at, i, all) => {
      const first = all
        .slice(0, i)
        .find((other) => sendOf(other) === sendOf(at) || backOf(other) === backOf(at));
      if (!first) return [];
      const { t, x } = at;
      const other = `${quoted(first.x)} on ${quoted(first.t)}`;
      return [
        { track: t.id, slot: x.id, message: `${quoted(x)} on ${quoted(t)} uses the same port as ${other}.` },
      ];
    }),
};
