import type { Role, Track } from '../../../core/index.ts';

/** A row of the list: a heading, or a line at its depth in folders. */
export type Item =
  { kind: 'head'; text: string; key: string } | { kind: 'line'; track: Track; depth: number; key: string };

const SECTIONS: Partial<Record<Role, string>> = { bus: 'buses', return: 'returns', master: 'master' };

/** The lines that are seen, in their order, with a heading where another section begins. */
export function listed(tracks: readonly Track[]): Item[] {
  const out: Item[] = [];
  const depth = (t: Track): number => {
    let d = 0;
    for (let f = t.folder; f && d < 12; f = tracks.find((x) => x.id === f)?.folder ?? null) d++;
    return d;
  };
  let section = '';
  for (const t of tracks) {
    if (t.hidden) continue;
    const now = SECTIONS[t.role] ?? 'tracks';
    if (now !== section && t.folder === null) {
      section = now;
      if (now !== 'tracks' || out.length) out.push({ kind: 'head', text: now, key: `head-${now}-${t.id}` });
    }
    out.push({ kind: 'line', track: t, depth: depth(t), key: t.id });
  }
  return out;
}
