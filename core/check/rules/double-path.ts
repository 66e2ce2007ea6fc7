import { onSend, quoted, type Rule } from '../rule.ts';

export const doublePath: Rule = {
  id: 'double-path',
  severity: 'warning',
  title: 'Two ways to the same place',
  why: 'A line that reaches a bus or the master by two dry ways sounds twice: louder, and hollow when one way is late.',
  find: ({ session, byId, graph }) =>
    session.tracks.flatMap((t) =>
      t.sends
        .filter((x) => graph.doubles.has(x.id))
        .map((x) => ({
          track: t.id,
          send: x.id,
          message: `${quoted(t)} goes to its output and is also sent to ${quoted(byId.get(x.to)!)}: both ways meet again.`,
          fix: 'Switch the send off',
        })),
    ),
  fix: (s, h) => onSend(s, h, { on: false }),
};
