import { quoted, type Rule } from '../rule.ts';

export const loop: Rule = {
  id: 'loop',
  severity: 'fault',
  title: 'Loop',
  why: 'Tracks that feed each other in a circle cannot be played.',
  find: ({ session, byId, graph }) =>
    session.tracks.flatMap((t) => {
      const f = graph.flows.find((x) => x.from === t.id && graph.loops.has(x.id));
      return f
        ? [
            {
              track: t.id,
              message: `${quoted(t)} feeds ${quoted(byId.get(f.to)!)}, and that comes back to it.`,
            },
          ]
        : [];
    }),
};
