import { onTrack, quoted, type Rule } from '../rule.ts';

export const nothingFeeds: Rule = {
  id: 'nothing-feeds',
  severity: 'advice',
  title: 'Nothing comes in',
  why: 'A bus or return that nothing leads to costs time and hides what is missing.',
  safe: true,
  find: ({ session, graph }) =>
    session.tracks
      .filter(
        (t) =>
          (t.role === 'bus' || t.role === 'return') &&
          t.state === 'on' &&
          !t.clips.length &&
          t.input.kind === 'none' &&
          !graph.flows.some((f) => f.to === t.id && (f.kind === 'output' || f.kind === 'send')),
      )
      .map((t) => ({
        track: t.id,
        message: `Nothing leads to the ${t.role} ${quoted(t)}.`,
        fix: 'Make it inactive',
      })),
  fix: (s, h) => onTrack(s, h.track, () => ({ state: 'inactive' })),
};
