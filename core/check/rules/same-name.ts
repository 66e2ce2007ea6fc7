import { freeName } from '../../session/create.ts';
import { onTrack, quoted, type Rule } from '../rule.ts';

export const sameName: Rule = {
  id: 'same-name',
  severity: 'advice',
  title: 'Two of one name',
  why: 'Loose ends are tied by name; with two of one name somebody has to guess.',
  safe: true,
  find: ({ session }) => {
    const known = new Set<string>();
    return session.tracks.flatMap((t) => {
      const name = t.name.trim().toLowerCase();
      if (!known.has(name)) {
        known.add(name);
        return [];
      }
      return [{ track: t.id, message: `There is another track called ${quoted(t)}.`, fix: 'Number it' }];
    });
  },
  fix: (s, h) =>
    onTrack(s, h.track, (t) => {
      // capital letters do not tell two names apart
      const others = s.tracks.filter((x) => x.id !== t.id).map((x) => x.name);
      const same = (n: string) => others.some((x) => x.trim().toLowerCase() === n.toLowerCase());
      let name = t.name.trim();
      while (same(name)) name = freeName(name, [...others, name]);
      return { name };
    }),
};
