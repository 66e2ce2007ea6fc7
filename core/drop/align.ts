import type { Id, Slot } from '../model/types.ts';

/** Which slot of the first chain one of the second is known to be, by their ids. */
export type SameAs = ReadonlyMap<Id, Id>;

/**
 * Pairs slots by what is known of them, wherever they stand now, and the others as `align` does; in the order of the
 * second chain, with what is gone at the end.
 */
export function alignKnown(a: Slot[], b: Slot[], same: SameAs): [Slot | null, Slot | null][] {
  const known = new Map(
    b.flatMap((y) => a.filter((x) => x.id === same.get(y.id)).map((x) => [y, x] as const)),
  );
  if (!known.size) return align(a, b);
  const taken = new Set(known.values());
  const others = align(
    a.filter((x) => !taken.has(x)),
    b.filter((y) => !known.has(y)),
  );
  const partnerOf = (y: Slot) => known.get(y) ?? others.find(([, z]) => z === y)?.[0] ?? null;
  return [...b.map((y): [Slot | null, Slot] => [partnerOf(y), y]), ...others.filter(([, y]) => y === null)];
}

/**
 * Pairs slots of two chains: equal types in order (longest common subsequence, names preferred), the rest
 * stand alone.
 */
export function align(a: Slot[], b: Slot[]): [Slot | null, Slot | null][] {
  const type = (x: Slot) => (x.kind === 'rack' ? 'rack' : x.type);
  const score = (x: Slot, y: Slot) => {
    if (type(x) !== type(y)) return 0;
    if (x.name === y.name) return 2;
    return 1;
  };
  const L = Array.from({ length: a.length + 1 }, () => new Array<number>(b.length + 1).fill(0));
  for (let i = a.length - 1; i >= 0; i--) {
    for (let j = b.length - 1; j >= 0; j--) {
      const s = score(a[i], b[j]);
      L[i][j] = Math.max(L[i + 1][j], L[i][j + 1], s ? s + L[i + 1][j + 1] : 0);
    }
  }
  const out: [Slot | null, Slot | null][] = [];
  let i = 0;
  let j = 0;
  while (i < a.length || j < b.length) {
    const s = i < a.length && j < b.length ? score(a[i], b[j]) : 0;
    if (s && L[i][j] === s + L[i + 1][j + 1]) out.push([a[i++], b[j++]]);
    else if (j >= b.length || (i < a.length && L[i + 1][j] >= L[i][j + 1])) out.push([a[i++], null]);
    else out.push([null, b[j++]]);
  }
  return out;
}
