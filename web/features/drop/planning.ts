import { computed, ref, shallowRef } from 'vue';
import {
  dropSeveral,
  isPiece,
  planDrop,
  type DropPlan,
  type FitValue,
  type Id,
  type Place,
  type PlanOptions,
  type Preset,
  type Several,
} from '../../../core/index.ts';
import { useSession } from '../../document/doc.ts';

/** Presets that go in together, one after the other, each with what is proposed for it. */
function makeSeveral() {
  const session = useSession();
  const several = shallowRef<Preset[]>([]);
  const plans = computed<Several | { refused: string } | null>(() => {
    if (!several.value.length || !session.doc) return null;
    try {
      return dropSeveral(
        session.doc,
        several.value.map((p) => ({ preset: p })),
      );
    } catch (e) {
      return { refused: (e as Error).message };
    }
  });
  return { several, plans };
}

/** What is about to be dropped, what was decided for it, and the plan that follows from both. */
export function makePlanning() {
  const session = useSession();
  const preset = shallowRef<Preset | null>(null);
  const place = shallowRef<Place>({ kind: 'new' });
  const also = shallowRef<Id[]>([]);
  const ties = shallowRef<Record<string, string>>({});
  const adapt = shallowRef<Record<string, boolean>>({});
  const standIns = shallowRef<Record<string, boolean>>({});
  const ports = shallowRef<Record<string, string | null>>({});
  const units = shallowRef<Record<string, string>>({});
  /** values that fit the line that is dropped onto */
  const fit = shallowRef<FitValue[]>([]);
  /** sends start at −∞ */
  const silentSends = ref(false);
  const parts = shallowRef<Preset['content']['parts'] | null>(null);
  const keep = shallowRef<Pick<DropPlan, 'ids' | 'drop'> | undefined>();
  // lines of another session remember no preset
  const borrowed = ref(false);
  const { several, plans } = makeSeveral();

  const options = computed<PlanOptions>(() => ({
    place: place.value,
    ties: ties.value,
    adapt: adapt.value,
    standIns: standIns.value,
    ports: ports.value,
    units: units.value,
    fit: fit.value,
    silentSends: silentSends.value,
    parts: parts.value ?? undefined,
    keep: keep.value,
    origin: !borrowed.value,
  }));
  // for what the session is now: it follows edits that come in while the sheet is open
  const plan = computed<DropPlan | null>(() => {
    if (!preset.value || !session.doc) return null;
    try {
      return planDrop(session.doc, preset.value, options.value);
    } catch {
      return null;
    }
  });
  function propose(p: Preset, where: Place, from: { borrowed?: boolean; also?: Id[] }): void {
    for (const decided of [ties, adapt, standIns, ports, units]) decided.value = {};
    fit.value = [];
    silentSends.value = false;
    parts.value = null;
    keep.value = undefined;
    place.value = where;
    also.value = from.also ?? [];
    borrowed.value = from.borrowed ?? false;
    // a device or rack goes into a chain: on the chosen line when no spot was given
    if (isPiece(p.kind) && where.kind === 'new' && where.index === undefined && session.track) {
      place.value = { kind: 'onto', track: session.track.id, chain: 'append' };
    }
    preset.value = p;
    // what is decided later must not give other ids
    if (plan.value) keep.value = { ids: plan.value.ids, drop: plan.value.drop };
  }
  const cancel = () => {
    preset.value = null;
    several.value = [];
  };
  return {
    preset,
    place,
    also,
    ties,
    adapt,
    standIns,
    ports,
    units,
    fit,
    silentSends,
    parts,
    keep,
    borrowed,
    several,
    options,
    plan,
    plans,
    propose,
    cancel,
  };
}
