import { onTrack, quoted, type Rule } from '../rule.ts';

export const hiddenActive: Rule = {
  id: 'hidden-active',
  severity: 'warning',
  title: 'Hidden, but heard',
  why: 'Something plays that is not seen.',
  safe: true,
  find: ({ session, fed, heard }) =>
    session.tracks
      .filter((t) => t.hidden && t.state === 'on' && !t.mute && fed.has(t.id) && heard.has(t.id))
      .map((t) => ({ track: t.id, message: `${quoted(t)} is hidden and can be heard.`, fix: 'Show it' })),
  fix: (s, h) => onTrack(s, h.track, () => ({ hidden: false })),
};
