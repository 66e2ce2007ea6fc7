import { same } from '../../model/json.ts';
import type { Lane, Track } from '../../model/types.ts';
import { laneTarget } from '../../session/automation.ts';
import { renewLanes, slotIds } from '../../session/slots.ts';
import type { Part } from './part.ts';

const pointsOf = (l: Lane): string => `${l.points.length} points${l.on ? '' : ', off'}`;

/** Lanes by the words of what they move. */
const lanesByLabel = (t: Track, name: (id: string) => string): Map<string, Lane> =>
  new Map(
    (t.automation ?? []).flatMap((l) => {
      const target = laneTarget(t, l, name);
      return target ? [[target.label, l] as const] : [];
    }),
  );

/** How values move along the song. Stands behind chain and sends, whose ids its lanes speak of. */
export const automation: Part = {
  id: 'automation',
  label: 'Automation',
  help: 'how values move along the song',
  section: 'song',
  song: true,

  take(from, into, c) {
    if (!from.automation?.length) return;
    const own = new Set([...slotIds(from.chain), ...from.sends.map((s) => s.id)]);
    const now = (old: string) => (own.has(old) ? c.ids[old] : undefined);
    into.automation = renewLanes(from.automation, (old) => (old === from.id ? into.id : now(old)), c.named);
  },

  put(from, into, c) {
    delete into.automation;
    if (c.has('automation') && from.automation) {
      into.automation = renewLanes(from.automation, c.here, c.fresh);
    }
  },

  putOnto(from, into, c) {
    if (!from.automation) return;
    const add = renewLanes(from.automation, c.here, c.fresh);
    const stays = (l: Lane) => !add.some((x) => x.of === l.of && x.param === l.param);
    into.automation = [...(into.automation ?? []).filter(stays), ...add];
  },

  report(want, found, c) {
    if (!c.has('automation')) return;
    for (const l of want.automation ?? []) {
      const [path, of] = [`${want.id}/${l.id}`, c.plan.ids[l.of]];
      const carrier = want.sends.some((s) => s.id === l.of) ? 'sends' : 'chain';
      // what a lane moves may have stayed out by choice; then it stays out with it
      if (!of || !(l.of === want.id || c.has(carrier))) {
        const label = `${want.name} · automation`;
        c.leftOut(path, label, `${l.points.length} points`, 'what it moves did not come in');
        continue;
      }
      const there = found?.automation?.find((x) => x.id === c.plan.ids[l.id]);
      const moved = laneTarget(want, l, c.nameOf)?.label ?? l.param;
      c.row<Lane>(
        path,
        `${want.name} · automation of ${moved}`,
        { ...l, id: '', of },
        there && { ...there, id: '' },
        pointsOf,
      );
    }
  },

  differ(a, b, c) {
    const [la, lb] = [lanesByLabel(a, c.nameA), lanesByLabel(b, c.nameB)];
    const words = (l?: Lane) => (l ? pointsOf(l) : '—');
    for (const target of new Set([...la.keys(), ...lb.keys()])) {
      const [x, y] = [la.get(target), lb.get(target)];
      const label = `${b.name} · automation of ${target}`;
      if (!x || !y) {
        c.tell({ label, from: words(x), to: words(y), kind: x ? 'removed' : 'added' });
      } else if (!same([x.on, x.points], [y.on, y.points])) {
        const to = words(x) === words(y) ? `${words(y)}, moved` : words(y);
        c.tell({ label, from: words(x), to, kind: 'value' });
      }
    }
  },

  duplicate(copy, into) {
    if (!copy.automation) return;
    // lanes of what was not copied stay behind
    into.automation = copy.automation.filter((l) => laneTarget(into, l));
  },
};
