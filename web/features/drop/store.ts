import { defineStore } from '../../ui/store.ts';
import { ref, shallowRef } from 'vue';
import { useRouter } from 'vue-router';
import {
  dropSeveral,
  nothingToDecide,
  type Id,
  type Place,
  type Preset,
  type PresetKind,
} from '../../../core/index.ts';
import type { PresetEntry } from '../../../contract/index.ts';
import { api } from '../../api/index.ts';
import { useSession } from '../../document/doc.ts';
import { useUi } from '../../ui/window.ts';
import { makeFitting } from './fitting.ts';
import { makePlanning } from './planning.ts';
import { makeResults } from './results.ts';
import { makeTrial } from './trial.ts';

export type { Finished } from './results.ts';

/** A preset of the shelf under the name that it has there; its latest version unless told. */
async function read(id: string, version?: number): Promise<Preset> {
  const detail = await api.preset(id);
  const other = version !== undefined && version !== detail.preset.version;
  const preset = other ? await api.presetVersion(id, version) : detail.preset;
  return { ...preset, name: detail.name };
}

/** Latest versions that were read, so that listening to them begins at once. */
function makeReadAhead() {
  let known = new Map<string, Promise<Preset>>();
  return ({ id, version }: { id: string; version?: number }): Promise<Preset> => {
    if (version === undefined) return read(id);
    const key = `${id} ${version}`;
    const there = known.get(key);
    if (there) return there;
    const reading = read(id);
    // a handful is enough: the one that is looked at and those around it
    known = new Map([...known, [key, reading] as const].slice(-8));
    reading.catch(() => known.delete(key));
    return reading;
  };
}

/** racks, and devices, that are offered with a chain */
const MOST_PIECES = 15;

/** Racks and devices of the shelf that are offered where one is added to a chain: what was used last. */
function makePieces() {
  const pieces = shallowRef<PresetEntry[]>([]);
  /** whether the shelf gave no answer when it was asked last */
  const piecesFailed = ref(false);
  /** Asks for them, also when they are offered: something else may lie on the shelf since. */
  async function loadPieces(): Promise<void> {
    const of = (kind: PresetKind) => api.presets({ kind, sort: 'used', limit: MOST_PIECES });
    const found = await Promise.all([of('rack'), of('device')]).catch(() => null);
    piecesFailed.value = !found;
    if (found) pieces.value = found.flatMap((page) => page.items);
  }
  return { pieces, piecesFailed, loadPieces };
}

/** Carrying out what is planned, in one step of the session. */
function makeApplying(
  planning: ReturnType<typeof makePlanning>,
  landed: ReturnType<typeof makeResults>['landed'],
) {
  const session = useSession();
  const ui = useUi();
  const { options, preset, place, also, plans, several } = planning;

  function applySeveral(): void {
    const done = plans.value;
    if (!done || 'refused' in done) return;
    const count = several.value.length;
    several.value = [];
    if (session.edit(`Drop ${count} presets`, () => done.session)) {
      landed(done, true, `${count} presets are in`);
    }
  }
  /** @param quiet says so in a line at the foot instead of opening the report */
  function apply(quiet = false): void {
    const p = preset.value;
    if (!p || !session.doc) return;
    const first = place.value.kind === 'onto' ? place.value.track : null;
    const others = first ? also.value.filter((track) => track !== first) : [];
    const onto = (track: Id) => ({
      ...options.value,
      place: { ...place.value, track } as Place,
      keep: undefined,
    });
    try {
      const done = dropSeveral(session.doc, [
        { preset: p, options: options.value },
        ...others.map((track) => ({ preset: p, options: onto(track) })),
      ]);
      if (!session.edit(`Drop “${p.name}”`, () => done.session)) return;
      preset.value = null;
      const count = done.drops.length;
      landed(done, quiet, `“${p.name}” is in${count > 1 ? ` on ${count} lines` : ''}`);
    } catch (e) {
      ui.say((e as Error).message, 'error');
    }
  }
  return { apply, applySeveral };
}

type BeginWith = (p: Preset, where: Place, quick?: boolean) => void;

/** Drops that begin with what the shelf has. */
function makeBeginning(beginWith: BeginWith, together: (presets: Preset[]) => void) {
  const router = useRouter();
  const session = useSession();
  const ui = useUi();

  /** Does something with the open session; without one it says so, and what fails is told. */
  async function inSession(task: (isHere: () => boolean) => Promise<void>): Promise<void> {
    const { id } = session;
    if (!session.doc) {
      ui.say('Open a session first, then drop into it.');
      return;
    }
    try {
      // what was asked for in one session is not for another that is open by then
      await task(() => session.id === id);
    } catch (e) {
      ui.fail(e);
    }
  }
  /** @param quick drops at once, without the sheet, when there is nothing to decide */
  const begin = (presetId: string, where: Place = { kind: 'new' }, quick = false) =>
    inSession(async (isHere) => {
      const preset = await read(presetId);
      if (isHere()) beginWith(preset, where, quick);
    });
  const beginSeveral = (ids: string[]) =>
    inSession(async (isHere) => {
      const presets = await Promise.all(ids.map((id) => read(id)));
      if (!isHere()) return;
      if (presets.length === 1) beginWith(presets[0], { kind: 'new' });
      else together(presets);
    });
  /** From the shelf into a session that is opened first. */
  const intoSession = (id: string, presets: string[]) => opened(id, () => beginSeveral(presets));
  /** One version of a preset, the latest or an earlier one. */
  const versionIntoSession = (id: string, preset: string, version: number) =>
    opened(id, () =>
      inSession(async (isHere) => {
        const found = await read(preset, version);
        if (isHere()) beginWith(found, { kind: 'new' });
      }),
    );
  async function opened(id: string, then: () => Promise<void>): Promise<void> {
    await router.push(`/session/${id}`);
    try {
      await session.open(id);
      await then();
    } catch (e) {
      ui.fail(e);
    }
  }
  return { begin, beginSeveral, intoSession, versionIntoSession };
}

/** A drop from the sheet to its proof. */
export const useDrop = defineStore('drop', () => {
  const planning = makePlanning();
  const { propose, keep, ...decided } = planning;
  const { plan, several } = decided;
  const { landed, ...results } = makeResults();
  const { apply, applySeveral } = makeApplying(planning, landed);
  const fitting = makeFitting(planning);
  const { trial, tryInstead, listenOn, endTrial, readAhead } = makeTrial(makeReadAhead());

  function beginWith(
    p: Preset,
    where: Place,
    quick = false,
    from: { borrowed?: boolean; also?: Id[] } = {},
  ): void {
    propose(p, where, from);
    if (quick && plan.value && nothingToDecide(plan.value)) apply(true);
  }
  const begins = makeBeginning(beginWith, (presets) => {
    several.value = presets;
  });

  /** Takes what is tried into the session; the ids are those that sounded, so the sound goes on. */
  function keepTrial(): void {
    if (!trial.value) return;
    const tried = trial.value;
    beginWith(tried.preset, tried.plan.place);
    keep.value = { ids: tried.plan.ids, drop: tried.plan.drop };
    endTrial();
    // a connection that nobody decided on is asked for first
    const isOpen = plan.value?.ends.some((e) => e.chosen === 'open');
    if (!isOpen) apply(true);
  }

  return {
    ...makePieces(),
    ...fitting,
    ...decided,
    ...results,
    trial,
    tryInstead,
    listenOn,
    readAhead,
    endTrial,
    keepTrial,
    ...begins,
    beginWith,
    apply,
    applySeveral,
  };
});
