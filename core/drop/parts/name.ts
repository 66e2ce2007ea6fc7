import { freeName } from '../../session/create.ts';
import type { Part } from './part.ts';

/** A line's name travels always; as a part it says whether a line that is there takes it over. */
export const name: Part = {
  id: 'name',
  label: 'Name',
  help: '',
  section: 'face',

  put(from, into, c) {
    into.name = c.adapted.name(from.id, from.name);
  },

  putOnto(from, into, c) {
    into.name = c.adapted.name(from.id, from.name);
  },

  remember: (_from, _named, c): Record<string, string> =>
    c.renamed === undefined ? {} : { name: c.renamed },

  report(want, found, c) {
    const renamed = c.plan.renames.find((r) => r.local === want.id);
    const reason = `“${renamed?.from}” is taken in this session`;
    const clash = renamed && found?.name === renamed.to ? ({ verdict: 'adapted', reason } as const) : null;
    c.field('name', 'name', 'name', String, clash);
  },

  differ: (a, b, c) => c.value('name', a.name, b.name, String),

  merge: {
    keys: ['name'],
    form: (t) => ({ name: t.name }),
    dropped(form, adapted) {
      if (typeof adapted.name === 'string') form.name = adapted.name;
    },
    adapted: (c): Record<string, string> =>
      c.theirs.name !== undefined && c.theirs.name !== c.raw.name ? { name: c.theirs.name } : {},
    write(form, out, c) {
      const others = c.session.tracks.filter((t) => t.id !== out.id).map((t) => t.name);
      out.name = freeName(form.name!, others);
      if (out.name !== form.name || form.name !== c.raw.name) c.adapted.name = out.name;
      // a name that a person gave is a change, not something that the drop adapted
      if (out.name === c.mine.name && c.mine.name !== c.raw.name && c.theirs.name !== c.mine.name) {
        delete c.adapted.name;
      }
    },
  },
};
