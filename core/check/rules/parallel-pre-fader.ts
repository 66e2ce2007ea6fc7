import { onSend, quoted, type Rule } from '../rule.ts';

export const parallelPreFader: Rule = {
  id: 'parallel-pre-fader',
  severity: 'warning',
  title: 'Parallel bus before the fader',
  why: 'The line’s fader no longer moves the parallel path: pulled down, the line is still there.',
  safe: true,
  find: ({ session, byId }) =>
    session.tracks.flatMap((t) =>
      t.sends
        .filter((x) => x.on && x.tap === 'pre' && byId.get(x.to)?.role === 'bus' && t.output.kind !== 'none')
        .map((x) => ({
          track: t.id,
          send: x.id,
          message: `${quoted(t)} is sent to the bus ${quoted(byId.get(x.to)!)} before its fader.`,
          fix: 'Take the send after the fader',
        })),
    ),
  fix: (s, h) => onSend(s, h, { tap: 'post' }),
};
