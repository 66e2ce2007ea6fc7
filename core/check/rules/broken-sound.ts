import { quoted, type Rule } from '../rule.ts';

export const brokenSound: Rule = {
  id: 'broken-sound',
  severity: 'fault',
  title: 'Sound that is no number',
  why: 'Samples that are no finite number (a broken file, mostly) would silence every filter that they pass.',
  find: ({ session, levels }) =>
    session.tracks
      .filter((t) => levels?.tracks[t.id]?.broken)
      .map((t) => ({
        track: t.id,
        message: `What comes into ${quoted(t)} has samples that are no numbers: they are played as silence. Put the sound on it again from a good file.`,
      })),
};
