import { quoted, type Rule } from '../rule.ts';

export const defaultName: Rule = {
  id: 'default-name',
  severity: 'advice',
  title: 'Default name',
  why: 'A name that it came with says nothing of what is on it, and a preset is tied by names.',
  find: ({ session }) =>
    session.tracks
      .filter((t) => /^(audio|instrument|midi|bus|return|folder|track|line)( \d+)?$/i.test(t.name))
      .map((t) => ({ track: t.id, message: `${quoted(t)} still has its default name.` })),
};
