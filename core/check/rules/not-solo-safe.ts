import { onTrack, quoted, type Rule } from '../rule.ts';

export const notSoloSafe: Rule = {
  id: 'not-solo-safe',
  severity: 'warning',
  title: 'Not solo safe',
  why: 'A solo on a line that goes through it would silence it, and the line with it.',
  safe: true,
  find: ({ session, fed }) =>
    session.tracks
      .filter(
        (t) => (t.role === 'bus' || t.role === 'return') && t.state === 'on' && !t.soloSafe && fed.has(t.id),
      )
      .map((t) => ({
        track: t.id,
        message: `The ${t.role} ${quoted(t)} is not solo safe.`,
        fix: 'Make it solo safe',
      })),
  fix: (s, h) => onTrack(s, h.track, () => ({ soloSafe: true })),
};
