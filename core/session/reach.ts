/** A way from one place to another. */
export interface Way {
  from: string;
  to: string;
}

/** Ways by the place at one of their ends. */
export function waysBy<W extends Way>(ways: Iterable<W>, end: 'from' | 'to'): Map<string, W[]> {
  const out = new Map<string, W[]>();
  for (const w of ways) {
    const there = out.get(w[end]);
    if (there) there.push(w);
    else out.set(w[end], [w]);
  }
  return out;
}

/** The places that ways lead to from some places, these included; against the ways, those that lead there. */
export function reached(
  starts: Iterable<string>,
  ways: Iterable<Way>,
  direction: 'along' | 'against' = 'along',
): Set<string> {
  const [near, far] = direction === 'along' ? (['from', 'to'] as const) : (['to', 'from'] as const);
  const next = waysBy(ways, near);
  const out = new Set(starts);
  const todo = [...out];
  while (todo.length) {
    for (const w of next.get(todo.pop()!) ?? []) {
      if (out.has(w[far])) continue;
      out.add(w[far]);
      todo.push(w[far]);
    }
  }
  return out;
}
