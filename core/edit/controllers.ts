import type { Handle, Id, Session, Track } from '../model/types.ts';
import { controllersIn, freeController } from '../session/handles.ts';
import { mapSlots, racksIn } from '../session/slots.ts';
import type { Edit } from './on.ts';

/** What becomes of controller numbers in a copy: one control moves all, each has its own, or none. */
export type Controllers = 'linked' | 'free' | 'none';

const racksOf = (s: Session) => s.tracks.flatMap((t) => racksIn(t.chain));
const numbersIn = (s: Session) => controllersIn(s.tracks.map((t) => t.chain));

/** How many handles of what an edit adds listen to a number that moves something already. */
export function takenControllers(s: Session, edit: Edit): number {
  const known = new Set(racksOf(s).map((r) => r.id));
  const taken = new Set(numbersIn(s));
  const handles = racksOf(edit(s))
    .filter((r) => !known.has(r.id))
    .flatMap((r) => r.handles);
  return handles.filter((h) => h.cc !== null && taken.has(h.cc)).length;
}

/** An edit that copies racks, with the controllers of the copies settled in the same step. */
export const withControllers =
  (edit: Edit, how: Controllers): Edit =>
  (s) => {
    const now = edit(s);
    const known = new Set(racksOf(s).map((r) => r.id));
    const taken = new Set(numbersIn(s));
    const isCopied = (h: Handle) => h.cc !== null && taken.has(h.cc);
    if (how === 'linked') return linked(now, taken);
    const inUse = numbersIn(now);
    const settle = (h: Handle): Handle => {
      const cc = how === 'free' ? freeController(inUse) : null;
      if (cc !== null) inUse.push(cc);
      return { ...h, cc };
    };
    const tracks = now.tracks.map((t) =>
      onHandles(t, (h, rack) => (!known.has(rack) && isCopied(h) ? settle(h) : h)),
    );
    return { ...now, tracks };
  };

/** Handles of one number are one on purpose: nothing warns of it. */
function linked(s: Session, numbers: ReadonlySet<number>): Session {
  const link = (h: Handle): Handle =>
    h.cc !== null && numbers.has(h.cc) ? { ...h, link: h.link ?? `cc${h.cc}` } : h;
  return { ...s, tracks: s.tracks.map((t) => onHandles(t, link)) };
}

function onHandles(t: Track, change: (h: Handle, rack: Id) => Handle): Track {
  if (!racksIn(t.chain).some((r) => r.handles.length)) return t;
  return {
    ...t,
    chain: mapSlots(t.chain, (x) =>
      x.kind === 'rack' ? { ...x, handles: x.handles.map((h) => change(h, x.id)) } : x,
    ),
  };
}
