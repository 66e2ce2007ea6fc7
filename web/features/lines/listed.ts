import type { Heading, Id, Role, Session, Track } from '../../../core/index.ts';

/** A row of the list: a section, a heading with the lines that it holds, or a line at its depth in folders. */
export type Item =
  | { kind: 'head'; text: string; key: string }
  | { kind: 'heading'; heading: Heading; count: number; key: string }
  | { kind: 'line'; track: Track; depth: number; count: number; key: string };

const SECTIONS: Partial<Record<Role, string>> = { bus: 'buses', return: 'returns', master: 'master' };

interface Shown {
  /** folders and headings whose lines are not shown */
  closed: readonly Id[];
  /** whether hidden lines are shown all the same */
  showsHidden: boolean;
}

/** The lines that are seen, in their order, with a row where another section or heading begins. */
export function listed(s: Pick<Session, 'tracks' | 'headings'>, { closed, showsHidden }: Shown): Item[] {
  const out: Item[] = [];
  const shut = new Set(closed);
  const above = headingsOf(s.headings ?? []);
  const { depthOf, isIn, countOf } = foldersOf(s.tracks, shut);
  let section = '';
  let heading: (Item & { kind: 'heading' }) | null = null;
  for (const t of s.tracks) {
    const now = SECTIONS[t.role] ?? 'tracks';
    if (now !== section && t.folder === null) {
      section = now;
      heading = null;
      if (now !== 'tracks' || out.length) out.push({ kind: 'head', text: now, key: `head-${now}-${t.id}` });
    }
    for (const h of above.get(t.id) ?? []) {
      heading = { kind: 'heading', heading: h, count: 0, key: h.id };
      out.push(heading);
    }
    if ((t.hidden && !showsHidden) || isIn(t)) continue;
    if (heading) heading.count++;
    if (heading && shut.has(heading.heading.id)) continue;
    const count = t.role === 'folder' ? countOf(t.id) : 0;
    out.push({ kind: 'line', track: t, depth: depthOf(t), count, key: t.id });
  }
  return out;
}

function headingsOf(list: readonly Heading[]): Map<Id, Heading[]> {
  const out = new Map<Id, Heading[]>();
  for (const h of list) out.set(h.before, [...(out.get(h.before) ?? []), h]);
  return out;
}

/** How deep lines lie in folders, whether in a closed one, and how many lie in each. */
function foldersOf(tracks: readonly Track[], shut: ReadonlySet<Id>) {
  const byId = new Map(tracks.map((t) => [t.id, t]));
  const counts = new Map<Id, number>();
  const around = (t: Track): Id[] => {
    const out: Id[] = [];
    for (let at: Id | null = t.folder; at && out.length < 12; at = byId.get(at)?.folder ?? null) out.push(at);
    return out;
  };
  for (const t of tracks) for (const id of around(t)) counts.set(id, (counts.get(id) ?? 0) + 1);
  return {
    depthOf: (t: Track) => around(t).length,
    isIn: (t: Track) => around(t).some((id) => shut.has(id)),
    countOf: (id: Id) => counts.get(id) ?? 0,
  };
}
