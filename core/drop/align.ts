import type { Slot } from '../model/types.ts';

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
