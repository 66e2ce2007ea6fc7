import { formatDb } from '../../model/units.ts';
import { onSend, quoted, type Rule } from '../rule.ts';

export const sendWideOpen: Rule = {
  id: 'send-wide-open',
  severity: 'warning',
  title: 'Send wide open',
  why: 'A send at 0 dB or more mostly got there by accident, and drowns the line.',
  find: ({ session, byId }) =>
    session.tracks.flatMap((t) =>
      t.sends
        .filter((x) => x.on && x.level >= 0 && byId.get(x.to)?.role === 'return')
        .map((x) => ({
          track: t.id,
          send: x.id,
          message: `${quoted(t)} sends to ${quoted(byId.get(x.to)!)} at ${formatDb(x.level)}.`,
          fix: 'Turn the send to −18 dB',
        })),
    ),
  fix: (s, h) => onSend(s, h, { level: -18 }),
};
