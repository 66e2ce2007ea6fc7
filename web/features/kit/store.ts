import { defineStore } from '../../ui/store.ts';
import { shallowRef, watch } from 'vue';
import {
  applyLayout,
  applyPlayer,
  planLayout,
  randomIds,
  setTrims,
  type Edit,
  type Id,
  type KitLayout,
  type LayoutChoice,
  type OutputLevel,
  type PlayerPlan,
  type Session,
  type TapResult,
} from '../../../core/index.ts';
import { jobs, plain } from '../../audio/jobs.ts';
import { useSession } from '../../document/doc.ts';
import { useUi } from '../../ui/window.ts';
import { useDefaults } from '../defaults/index.ts';
import { useAudio } from '../transport/index.ts';
import { makeLong } from './long.ts';
import { makePrint } from './print.ts';

type Row = KitLayout['rows'][number];
const choiceOf = ({ mode, with: host, width, name, colour, sub }: Row): LayoutChoice => ({
  mode,
  with: host,
  width,
  name,
  colour,
  sub,
});

/** Instruments with several outputs: the tap test, and printing them. */
export const useKit = defineStore('kit', () => {
  const session = useSession();
  const ui = useUi();
  const audio = useAudio();
  const tap = shallowRef<{ session: Session; result: TapResult } | null>(null);
  const { busy, long, stop } = makeLong();
  watch(
    () => session.id,
    () => {
      tap.value = null;
      stop();
    },
  );

  /** Strikes each part in turn and keeps the picture until the session changes. */
  async function test(slot: Id): Promise<void> {
    const s = session.doc;
    if (!s) return;
    const result = await long('The tap test', (progress) => jobs.tap(plain(s), slot, progress));
    if (result) tap.value = { session: s, result };
  }
  /** Hears one part of an instrument, whether the session plays or not. */
  const hit = (slot: Id, part: number) => void audio.hit(slot, part);

  /** An edit that the session may not allow any more: what was planned is of a moment ago. */
  function attempt(label: string, change: Edit): boolean {
    try {
      return session.edit(label, change);
    } catch (e) {
      ui.fail(e);
      return false;
    }
  }
  function layOut(plan: KitLayout): boolean {
    const rows = Object.fromEntries(plan.rows.map((row) => [row.part.id, choiceOf(row)]));
    return attempt(`Lay out ${session.nameOf(plan.track)}`, (s) =>
      applyLayout(s, planLayout(s, plan.slot, { ...plan.options, rows })),
    );
  }
  const layOutPlayer = (plan: PlayerPlan) =>
    attempt(`Lay out ${plan.players[0].name}`, (s) =>
      applyPlayer(s, plan, randomIds, useDefaults().valuesOf('parts')),
    );
  const level = (slot: Id, rows: OutputLevel[] | null) =>
    session.edit(rows ? 'Outputs to a working level' : 'Take the levelling of the outputs back', (s) =>
      setTrims(s, slot, rows),
    );

  return { tap, busy, test, hit, stop, layOut, layOutPlayer, level, ...makePrint(busy, long) };
});
