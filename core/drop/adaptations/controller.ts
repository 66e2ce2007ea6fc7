import { controllerName, controllersIn, freeController } from '../../session/handles.ts';
import { racksIn } from '../../session/slots.ts';
import { adaptationAt, type AdaptationKind } from './adaptation.ts';

/** Controller numbers that already move a handle here. What the preset moves with one on purpose stays together. */
export const controllers: AdaptationKind = {
  id: 'controller',

  plan(c) {
    const taken = new Set(controllersIn(c.session.tracks.map((t) => t.chain)));
    const own = controllersIn(c.sounding.map((t) => t.chain));
    const moved = new Map<number, number | null>();
    const numberFor = (cc: number): number | null => {
      const given = [...moved.values()].filter((v) => v !== null);
      if (!moved.has(cc)) moved.set(cc, freeController([...taken, ...own, ...given]));
      return moved.get(cc)!;
    };
    for (const t of c.sounding) {
      for (const rack of racksIn(t.chain)) {
        for (const h of rack.handles) {
          const to = h.cc !== null && taken.has(h.cc) ? numberFor(h.cc) : null;
          if (h.cc === null || to === null) continue;
          const path = `${t.id}/${h.id}/cc`;
          c.out.adaptations.push({
            path,
            label: `${t.name} · ${rack.name} · ${h.name} · controller`,
            from: h.cc,
            to,
            fromText: controllerName(h.cc),
            toText: controllerName(to),
            reason: `${controllerName(h.cc)} already moves a handle in this session`,
            on: c.options.adapt?.[path] ?? true,
          });
        }
      }
    }
  },

  slot(slot, home, plan) {
    if (slot.kind === 'device') return slot;
    const handles = slot.handles.map((h) => {
      const a = adaptationAt(plan, `${home.id}/${h.id}/cc`);
      return a ? { ...h, cc: a.to as number } : h;
    });
    return { ...slot, handles };
  },
};
