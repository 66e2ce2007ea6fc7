import type { Id, Send } from '../model/types.ts';

/**
 * Sends in their order: those with a fixed place stand there, as far as there are so many; the others keep their order
 * around them. Of two with one place the first has it.
 */
export function arranged(sends: readonly Send[]): Send[] {
  const fixed = new Map<number, Send>();
  const free: Send[] = [];
  for (const s of sends) {
    const isTaken = s.place !== undefined && fixed.has(s.place);
    if (isTaken) free.push(freed(s));
    else if (s.place && s.place <= sends.length) fixed.set(s.place, s);
    else free.push(s);
  }
  return sends.map((_, i) => fixed.get(i + 1) ?? free.shift()!);
}

/** A send without a place of its own. */
export function freed(send: Send): Send {
  const { place: _place, ...rest } = send;
  return rest;
}

/** The sends with one moved to an index; one that has a fixed place gets the new one. */
export function movedSend(sends: readonly Send[], id: Id, to: number): Send[] {
  const moving = sends.find((s) => s.id === id);
  if (!moving) return [...sends];
  const rest = sends.filter((s) => s.id !== id);
  const at = Math.max(0, Math.min(rest.length, to));
  const put = moving.place ? { ...moving, place: at + 1 } : moving;
  const isTaken = (s: Send) => put.place !== undefined && s.place === put.place;
  const others = rest.map((s) => (isTaken(s) ? freed(s) : s));
  return arranged([...others.slice(0, at), put, ...others.slice(at)]);
}
