import { controllerName, controllersIn, freeController } from '../../session/handles.ts';
import { mapSlots, racksIn } from '../../session/slots.ts';
import { onTrack, quoted, type Rule } from '../rule.ts';

export const controllerTwice: Rule = {
  id: 'controller-twice',
  severity: 'warning',
  title: 'One controller moves two things',
  why: 'Turning one knob changes both; mostly only one was meant.',
  find: ({ session }) => {
    const seen = new Map<number, { here: string; link?: string }>();
    return session.tracks.flatMap((t) =>
      racksIn(t.chain).flatMap((r) =>
        r.handles.flatMap((h) => {
          if (h.cc === null) return [];
          const first = seen.get(h.cc);
          const here = `“${h.name}” of ${quoted(r)} on ${quoted(t)}`;
          if (!first) {
            seen.set(h.cc, { here, link: h.link });
            return [];
          }
          // copied so that one control moves all of them
          if (h.link !== undefined && h.link === first.link) return [];
          return [
            {
              track: t.id,
              slot: r.id,
              message: `${controllerName(h.cc)} moves ${first.here} and also ${here}.`,
              fix: 'Give it a free controller number',
            },
          ];
        }),
      ),
    );
  },
  fix: (s, h) => {
    const taken = controllersIn(s.tracks.map((t) => t.chain));
    const seen = new Map<number, string | undefined>();
    // numbers used before this rack keep their owners
    for (const t of s.tracks) {
      for (const r of racksIn(t.chain)) {
        if (r.id === h.slot) break;
        for (const x of r.handles) if (x.cc !== null && !seen.has(x.cc)) seen.set(x.cc, x.link);
      }
    }
    return onTrack(s, h.track, (t) => ({
      chain: mapSlots(t.chain, (x) =>
        x.kind === 'rack' && x.id === h.slot
          ? {
              ...x,
              handles: x.handles.map((k) => {
                if (k.cc === null) return k;
                const isFirst = !seen.has(k.cc);
                const isLinked = k.link !== undefined && seen.get(k.cc) === k.link;
                if (isFirst) seen.set(k.cc, k.link);
                if (isFirst || isLinked) return k;
                const cc = freeController(taken);
                if (cc !== null) taken.push(cc);
                return { ...k, cc };
              }),
            }
          : x,
      ),
    }));
  },
};
