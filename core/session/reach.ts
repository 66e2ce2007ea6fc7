import { lazily } from '../model/lazily.ts';
import type { Id, Session, Track } from '../model/types.ts';

/** A way from one place to another. */
export interface Way {
  from: Id;
  to: Id;
}

/** Ways by the place at one of their ends. */
export function waysBy<W extends Way>(ways: Iterable<W>, end: 'from' | 'to'): Map<Id, W[]> {
  const out = new Map<Id, W[]>();
  for (const w of ways) {
    const there = out.get(w[end]);
    if (there) there.push(w);
    else out.set(w[end], [w]);
  }
  return out;
}

/** What can be reached along ways; each question costs what it finds. */
export class Ways {
  private readonly next = lazily(() => waysBy(this.all, 'from'));
  private readonly before = lazily(() => waysBy(this.all, 'to'));
  constructor(private readonly all: readonly Way[]) {}

  /** The places that lie behind some places, these included. */
  behind(starts: Iterable<Id>): Set<Id> {
    return spread(starts, (at) =>
      this.next()
        .get(at)
        ?.map((w) => w.to),
    );
  }
  /** The places from which one comes to some places, these included. */
  leadingTo(ends: Iterable<Id>): Set<Id> {
    return spread(ends, (at) =>
      this.before()
        .get(at)
        ?.map((w) => w.from),
    );
  }
}

function spread(starts: Iterable<Id>, around: (at: Id) => readonly Id[] | undefined): Set<Id> {
  const out = new Set(starts);
  const todo = [...out];
  while (todo.length) {
    for (const id of around(todo.pop()!) ?? []) {
      if (out.has(id)) continue;
      out.add(id);
      todo.push(id);
    }
  }
  return out;
}

/** Where a track's sound goes: its output and its sends, also what is off and may be on again. */
export const waysOut = (t: Track): Way[] =>
  [...(t.output.kind === 'track' ? [t.output.track] : []), ...t.sends.map((x) => x.to)].map((to) => ({
    from: t.id,
    to,
  }));

/** The ways of a session's outputs and sends. */
export const waysIn = (s: Session): Ways => new Ways(s.tracks.flatMap(waysOut));
