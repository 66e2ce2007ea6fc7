import { active, quoted, type Rule } from '../rule.ts';

export const loopShared: Rule = {
  id: 'loop-shared',
  severity: 'fault',
  title: 'One hardware port, two loops',
  why: 'What is sent out of one port twice is mixed in the hardware and comes back on both lines.',
  find: ({ session }) =>
    [...active(session)]
      .filter(({ x }) => x.kind === 'device' && x.type === 'outboard' && x.state === 'on')
      .flatMap(({ t, x }, i, all) => {
        const port = (y: typeof x, id: string) => (y.kind === 'device' ? y.params[id] : '');
        const first = all
          .slice(0, i)
          .find(
            (o) =>
              port(o.x, 'sendPort') === port(x, 'sendPort') ||
              port(o.x, 'returnPort') === port(x, 'returnPort'),
          );
        return first
          ? [
              {
                track: t.id,
                slot: x.id,
                message: `${quoted(x)} on ${quoted(t)} uses the same port as ${quoted(first.x)} on ${quoted(first.t)}.`,
              },
            ]
          : [];
      }),
};
