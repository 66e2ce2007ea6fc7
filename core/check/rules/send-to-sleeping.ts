import { onTrack, quoted, type Rule } from '../rule.ts';

export const sendToSleeping: Rule = {
  id: 'send-to-sleeping',
  severity: 'warning',
  title: 'Send into silence',
  why: 'The send is open, but what it feeds is switched off: the effect is missing.',
  find: ({ session, byId }) =>
    session.tracks.flatMap((t) =>
      t.state === 'on'
        ? t.sends
            .filter((x) => x.on && x.level > -144)
            .flatMap((x) => {
              const far = byId.get(x.to)!;
              return far.mute || far.state === 'inactive'
                ? [
                    {
                      track: t.id,
                      send: x.id,
                      message: `${quoted(t)} sends to ${quoted(far)}, which is ${far.state === 'inactive' ? 'inactive' : 'muted'}.`,
                      fix: `${far.state === 'inactive' ? 'Make active' : 'Unmute'}: ${far.name}`,
                    },
                  ]
                : [];
            })
        : [],
    ),
  fix: (s, h) => {
    const to = s.tracks.find((t) => t.id === h.track)?.sends.find((x) => x.id === h.send)?.to;
    return to ? onTrack(s, to, () => ({ mute: false, state: 'on' })) : s;
  },
};
