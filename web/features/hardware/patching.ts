import { computed } from 'vue';
import {
  planPatch,
  setTicks,
  tickOf,
  tickOfMove,
  placesOf,
  positionText,
  positionsOf,
  standing,
  unitsUsed,
  wantedPatches,
  countedIds,
  type Control,
  type Move,
  type Studio,
  type Unit,
} from '../../../core/index.ts';
import { useSession } from '../../document/doc.ts';

/** One line of the list of moves. */
export interface MoveRow {
  tick: string;
  text: string;
  move: Move;
}
/** One unit whose panel has to be set. */
export interface PanelRow {
  key: string;
  unit: Unit;
  positions: Record<string, number>;
  where: string;
  controls: { control: Control; tick: string; text: string }[];
}

/** What has to be done by hand in the session's studio: moves, and panels to set; ticked off with the session. */
export function usePatching() {
  const session = useSession();
  const studio = computed<Studio | null>(() => session.doc?.setup?.studio ?? null);
  const wanted = computed(() =>
    session.doc && studio.value ? wantedPatches(session.doc, studio.value) : { wanted: [], problems: [] },
  );
  const plan = computed(() =>
    studio.value ? planPatch(studio.value, wanted.value.wanted, { ids: countedIds('plan') }) : null,
  );
  const places = computed(() => studio.value && placesOf(studio.value));
  const name = (jack: string) => places.value?.get(jack)?.name ?? jack;
  const ticks = computed(() => new Set(session.doc?.setup?.ticks ?? []));
  const moves = computed<MoveRow[]>(() =>
    (plan.value?.moves ?? []).map((move) => ({
      move,
      tick: tickOfMove(move.kind, move.cable),
      text: `${move.kind === 'pull' ? 'Pull' : 'Plug'} ${name(move.cable.from)} → ${name(move.cable.to)}`,
    })),
  );
  const panels = computed<PanelRow[]>(() =>
    session.doc
      ? unitsUsed(session.doc).map(({ use, track, device }) => {
          const place = device?.id ?? track.id;
          const stands = positionsOf(use);
          return {
            key: `${place}/${use.id}`,
            unit: use.unit,
            positions: use.positions,
            where: device ? `${device.name} on ${track.name}` : `input of ${track.name}`,
            controls: use.unit.panel.map((control) => ({
              control,
              tick: tickOf(place, use, control),
              text: positionText(control, stands[control.id]),
            })),
          };
        })
      : [],
  );
  const stands = computed(() => {
    if (!studio.value) return [];
    const now = standing(studio.value, wanted.value.wanted);
    return wanted.value.wanted.map((w, i) => ({ ...w, stands: now[i] }));
  });

  const done = (tick: string) => ticks.value.has(tick);
  function turn(keys: string[], on: boolean): void {
    const now = new Set(ticks.value);
    for (const k of keys) {
      if (on) now.add(k);
      else now.delete(k);
    }
    session.edit(on ? 'Tick off the patch list' : 'Take back a tick', setTicks([...now]));
  }
  /** All moves are made: the session's copy of the studio is plugged as planned, and the ticks of the moves go. */
  function plugged(): void {
    const { cables } = plan.value!;
    const old = new Set(moves.value.map((m) => m.tick));
    session.edit('Patched as the list says', (s) => ({
      ...s,
      setup: {
        ...s.setup!,
        studio: { ...s.setup!.studio!, cables: cables.map((c, i) => ({ ...c, id: `cab-${i + 1}` })) },
        ticks: (s.setup!.ticks ?? []).filter((t) => !old.has(t)),
      },
    }));
  }
  return {
    studio,
    plan,
    moves,
    panels,
    problems: computed(() => wanted.value.problems),
    stands,
    done,
    turn,
    plugged,
  };
}
