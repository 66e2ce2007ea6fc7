import { MIN_LEVEL } from '../../model/types.ts';
import { formatDb } from '../../model/units.ts';
import type { AdaptationKind } from './adaptation.ts';

/** Where wanted, sends arrive at −∞: the routing is there, and each is brought in by hand. */
export const silentSends: AdaptationKind = {
  id: 'silent-sends',

  plan(c) {
    if (!c.options.silentSends) return;
    for (const t of c.arriving.filter((x) => c.has(x, 'sends'))) {
      for (const send of t.sends.filter((s) => s.level > MIN_LEVEL)) {
        const path = `${t.id}/${send.id}/level`;
        const inside = c.preset.content.tracks.find((x) => x.id === send.to)?.name;
        const to = inside ?? c.ends.find((e) => e.end.id === send.to)?.end.label ?? 'its effect';
        c.out.adaptations.push({
          path,
          label: `${t.name} · send to ${to} · level`,
          from: send.level,
          to: MIN_LEVEL,
          fromText: formatDb(send.level),
          toText: formatDb(MIN_LEVEL),
          reason: 'chosen: sends start silent',
          on: c.options.adapt?.[path] ?? true,
        });
      }
    }
  },
};
