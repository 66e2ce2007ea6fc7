import { freeName } from '../../session/create.ts';
import type { AdaptationKind } from './adaptation.ts';

/** Names that the session has already: what arrives gets a free one. */
export const names: AdaptationKind = {
  id: 'name',

  plan(c) {
    const taken = c.place.kind === 'whole' ? [] : c.session.tracks.map((t) => t.name);
    const give = (local: string, name: string, others: string[]) => {
      const to = freeName(name, others);
      if (to !== name) c.out.renames.push({ local, from: name, to });
      taken.push(to);
    };
    for (const t of c.brought) give(t.id, t.name, taken);
    for (const t of c.lines) give(t.id, t.name, taken);
    const [t, line] = [c.arriving[0], c.target];
    if (!line || !c.has(t, 'name')) return;
    const others = c.session.tracks.filter((x) => x.id !== line.id).map((x) => x.name);
    give(t.id, t.name, others);
  },
};
