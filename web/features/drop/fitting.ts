import { ref, shallowRef, watch } from 'vue';
import {
  applyDrop,
  planDrop,
  type DropPlan,
  type FitPlan,
  type FitRefusal,
  type FitStep,
  type FitValue,
  type Id,
  type LineReference,
  type PlanOptions,
  type Preset,
} from '../../../core/index.ts';
import { isCancelled, jobs, plain, type Running } from '../../audio/jobs.ts';
import { useSession } from '../../document/doc.ts';
import { useFitView } from '../fit/index.ts';
import type { makePlanning } from './planning.ts';

/**
 * Works out, while the drop sheet is open, which values of the preset fit the line that it goes onto. They stand among
 * the adaptations, ticked or not as the person wants it.
 */
export function makeFitting(planning: ReturnType<typeof makePlanning>) {
  const session = useSession();
  const view = useFitView();
  const isFitting = ref(false);
  const refused = shallowRef<FitRefusal[]>([]);
  let running: Running<FitPlan> | null = null;
  let asks = 0;

  /** The line that is dropped onto, and what the preset remembers; null where there is nothing to fit. */
  function asked(): { preset: Preset; track: Id; reference: LineReference } | null {
    const [preset, place] = [planning.preset.value, planning.place.value];
    if (!preset || place.kind !== 'onto' || !session.doc) return null;
    const reference = preset.reference.lines?.[preset.content.tracks[0].id];
    const line = session.doc.tracks.find((t) => t.id === place.track);
    const isHeard = line && (line.clips.some((c) => !c.off) || line.role !== 'audio');
    return reference && isHeard ? { preset, track: place.track, reference } : null;
  }
  async function work(): Promise<void> {
    const mine = ++asks;
    running?.cancel();
    planning.fit.value = [];
    refused.value = [];
    const what = asked();
    isFitting.value = what !== null;
    if (!what) return;
    try {
      const [values, left] = await fitDropped(what, planning.options.value);
      if (mine !== asks) return;
      planning.fit.value = values.map((v) => ({ ...v, on: view.isOn }));
      refused.value = left;
    } catch (e) {
      if (mine === asks && !isCancelled(e)) refused.value = [{ label: 'Fit', reason: (e as Error).message }];
    } finally {
      if (mine === asks) isFitting.value = false;
    }
  }
  /** What fits the line as it will be after the drop, under the preset's own ids. */
  async function fitDropped(
    { preset, track, reference }: NonNullable<ReturnType<typeof asked>>,
    options: PlanOptions,
  ): Promise<[FitValue[], FitRefusal[]]> {
    const plan = planDrop(session.doc!, preset, { ...options, fit: [] });
    if (plan.problems.length) return [[], []];
    const after = applyDrop(session.doc!, plan, preset).session;
    running = jobs.fit(plain(after), track, reference);
    const found = await running.done;
    const localOf = localIds(plan);
    return [found.steps.flatMap((step) => localised(step, localOf)), found.refused];
  }
  watch(
    () => {
      const place = planning.place.value;
      const where = place.kind === 'onto' ? `${place.track} ${place.chain}` : place.kind;
      return [planning.preset.value, where] as const;
    },
    () => void work(),
  );
  return { isFitting, notFitted: refused };
}

const localIds = (plan: DropPlan): ReadonlyMap<Id, Id> =>
  new Map(Object.entries(plan.ids).map(([local, here]) => [here, local]));
/** A step under the preset's ids; what stands on the line already is none of the drop's business. */
function localised(step: FitStep, localOf: ReadonlyMap<Id, Id>): FitValue[] {
  const { label, from, to, fromText, toText, reason, on } = step;
  const local = step.device === null ? '' : localOf.get(step.device);
  if (local === undefined) return [];
  const path = local ? `${local}/${step.param}` : step.param;
  return [{ path, label, from, to, fromText, toText, reason, on }];
}
