import { quoted, type Rule } from '../rule.ts';

export const defaultName: Rule = {
  id: 'default-name',
  severity: 'advice',
  title: 'Default name',
  why: 'Nobody finds “Audio 7” again, and a preset is tied by names.',
  find: ({ session }) =>
    session.tracks
      .filter((t) => /^(audio|instrument|midi|bus|return|folder|track|line)( \d+)?$/i.test(t.name))
      .map((t) => ({ track: t.id, message: `${quoted(t)} still has its default name.` })),
};
