import { defineStore } from 'pinia';
import { computed, ref, shallowRef, watch } from 'vue';
import {
  dropSeveral,
  findSlot,
  isPiece,
  nothingToDecide,
  planDrop,
  type DropPlan,
  type Id,
  type IntactReport,
  type NullResult,
  type Place,
  type PlanOptions,
  type Preset,
  type Session,
  type Several,
} from '../../../core/index.ts';
import { useRouter } from 'vue-router';
import { api } from '../../api/index.ts';
import type { PresetEntry } from '../../../contract/index.ts';
import { jobs, type Running } from '../../audio/jobs.ts';
import { useAudio } from '../transport/index.ts';
import { useSession } from '../../document/doc.ts';
import { useUi } from '../../ui/window.ts';

export interface Finished {
  preset: Preset;
  plan: DropPlan;
  report: IntactReport;
  session: Session;
  sessionId: string;
  nulls: NullResult | null;
  progress: number | null;
  error: string;
  at: string;
}

/** A drop from the sheet to its proof. */
export const useDrop = defineStore('drop', () => {
  const router = useRouter();
  const session = useSession();
  const audio = useAudio();
  const ui = useUi();
  const preset = shallowRef<Preset | null>(null);
  const place = shallowRef<Place>({ kind: 'new' });
  /** further lines that get the same */
  const also = shallowRef<Id[]>([]);
  const ties = shallowRef<Record<string, string>>({});
  const adapt = shallowRef<Record<string, boolean>>({});
  const standIns = shallowRef<Record<string, boolean>>({});
  const ports = shallowRef<Record<string, string | null>>({});
  const parts = shallowRef<Preset['content']['parts'] | null>(null);
  const keep = shallowRef<Pick<DropPlan, 'ids' | 'drop'> | undefined>();
  /** lines of another session: what arrives remembers no preset */
  const borrowed = ref(false);
  /** presets that go in together, each with what is proposed for it */
  const several = shallowRef<Preset[]>([]);
  const results = shallowRef<Finished[]>([]);
  const shown = ref(0);
  const finished = computed<Finished | null>(() => results.value[shown.value] ?? null);
  const showReport = ref(false);
  let test: Running<NullResult> | null = null;

  const options = computed<PlanOptions>(() => ({
    place: place.value,
    ties: ties.value,
    adapt: adapt.value,
    standIns: standIns.value,
    ports: ports.value,
    parts: parts.value ?? undefined,
    keep: keep.value,
    origin: !borrowed.value,
  }));
  /** The plan for what the session is now: it follows edits that come in while the sheet is open. */
  const plan = computed<DropPlan | null>(() => {
    if (!preset.value || !session.doc) return null;
    try {
      return planDrop(session.doc, preset.value, options.value);
    } catch {
      return null;
    }
  });
  /** The same for several presets, one after the other. */
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

  /** @param quick drops at once, without the sheet, when there is nothing to decide */
  async function begin(presetId: string, where: Place = { kind: 'new' }, quick = false): Promise<void> {
    if (!session.doc) {
      ui.say('Open a session first, then drop into it.');
      return;
    }
    try {
      beginWith(await named(presetId), where, quick);
    } catch (e) {
      ui.fail(e);
    }
  }
  const named = async (id: string): Promise<Preset> => {
    const d = await api.preset(id);
    return { ...d.preset, name: d.name };
  };

  function beginWith(
    p: Preset,
    where: Place,
    quick = false,
    from: { borrowed?: boolean; also?: Id[] } = {},
  ): void {
    ties.value = {};
    adapt.value = {};
    standIns.value = {};
    ports.value = {};
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
    if (plan.value) keep.value = { ids: plan.value.ids, drop: plan.value.drop };
    if (quick && plan.value && nothingToDecide(plan.value)) apply(true);
  }
  /** From the shelf into a session that is opened first. */
  async function intoSession(id: string, presets: string[]): Promise<void> {
    await router.push(`/session/${id}`);
    try {
      await session.open(id);
      await beginSeveral(presets);
    } catch (e) {
      ui.fail(e);
    }
  }
  const cancel = () => {
    preset.value = null;
    several.value = [];
  };

  async function beginSeveral(ids: string[]): Promise<void> {
    if (!session.doc) {
      ui.say('Open a session first, then drop into it.');
      return;
    }
    if (ids.length === 1) {
      await begin(ids[0]);
      return;
    }
    try {
      several.value = await Promise.all(ids.map(named));
    } catch (e) {
      ui.fail(e);
    }
  }
  function applySeveral(): void {
    const p = plans.value;
    if (!p || 'refused' in p) return;
    const all = several.value;
    several.value = [];
    if (session.edit(`Drop ${all.length} presets`, () => p.session)) {
      landed(p, true, `${all.length} presets are in`);
    }
  }

  /** @param quiet says so in a line at the foot instead of opening the report */
  function apply(quiet = false): void {
    const p = preset.value;
    if (!p || !session.doc) return;
    let done: Several;
    try {
      const others = also.value.filter((t) => place.value.kind === 'onto' && t !== place.value.track);
      done = dropSeveral(session.doc, [
        { preset: p, options: options.value },
        ...others.map((track) => ({
          preset: p,
          options: { ...options.value, place: { ...place.value, track } as Place, keep: undefined },
        })),
      ]);
    } catch (e) {
      ui.say((e as Error).message, 'error');
      return;
    }
    if (!session.edit(`Drop “${p.name}”`, () => done.session)) return;
    preset.value = null;
    landed(done, quiet, `“${p.name}” is in${done.drops.length > 1 ? ` on ${done.drops.length} lines` : ''}`);
  }

  /** After a drop: the first of what arrived is chosen, the report stands ready, the null test runs. */
  function landed(done: Several, quiet: boolean, said: string): void {
    const { plan: pl, preset: p } = done.drops[0];
    const arrived = pl.tracks[0]?.id ?? pl.target?.id;
    const first = p.content.tracks[0]?.chain[0];
    if (arrived) session.select(arrived, isPiece(p.kind) && first ? (pl.ids[first.id] ?? null) : null);
    results.value = done.drops.map((d) => ({
      ...d,
      session: done.session,
      sessionId: session.id!,
      nulls: null,
      progress: 0,
      error: '',
      at: new Date().toISOString(),
    }));
    shown.value = 0;
    const sum = (k: 'intact' | 'tied') => done.drops.reduce((n, d) => n + d.report.counts[k], 0);
    const total = done.drops.reduce((n, d) => n + d.report.total, 0);
    if (quiet) {
      ui.say(
        `${said}: ${sum('intact') + sum('tied')} of ${total} values intact.`,
        'done',
        [
          { label: 'Undo', run: () => session.undo() },
          {
            label: 'What happened',
            run: () => {
              showReport.value = true;
            },
          },
        ],
        9000,
      );
    } else showReport.value = true;
    void prove(results.value);
  }

  /** Null tests in the worker, one after the other; then each record with its report goes to the server. */
  async function prove(list: Finished[]): Promise<void> {
    test?.cancel();
    for (const [i, f] of list.entries()) {
      const same = () => results.value[i]?.plan.drop === f.plan.drop;
      const set = (over: Partial<Finished>) => {
        if (same()) results.value = results.value.map((x, k) => (k === i ? { ...x, ...over } : x));
      };
      let nulls: NullResult | null = null;
      test = jobs.nullTest({ session: f.session, preset: f.preset, plan: f.plan }, (progress) =>
        set({ progress }),
      );
      try {
        nulls = await test.done;
        set({ nulls, progress: null });
      } catch (e) {
        set({ error: (e as Error).message, progress: null });
      }
      try {
        // −∞ has no place in JSON: an exact null is kept as null
        const residualOf = () => {
          if (nulls) return Number.isFinite(nulls.residual) ? nulls.residual : null;
          return undefined;
        };
        const residual = residualOf();
        await api.recordDrop({
          id: f.plan.drop,
          session: f.sessionId,
          preset: f.preset.id,
          version: f.preset.version,
          record: {
            name: f.preset.name,
            ties: f.plan.ends.map((x) => ({
              end: x.end.label,
              kind: x.end.kind,
              chosen: x.choices.find((c) => c.id === x.chosen)?.label,
            })),
            parts: f.plan.parts,
            adaptations: f.plan.adaptations.filter((a) => a.on),
            renames: f.plan.renames,
            report: f.report,
            ...(residual !== undefined ? { nullTest: { residual, reference: nulls!.reference } } : {}),
          },
        });
      } catch (e) {
        ui.fail(e);
      }
    }
  }

  /** Shows a report that was kept with the session. */
  async function reopen(dropId: string): Promise<void> {
    const at = results.value.findIndex((f) => f.plan.drop === dropId);
    if (at >= 0) {
      shown.value = at;
      showReport.value = true;
      return;
    }
    if (!session.id) return;
    try {
      const d = (await api.drops(session.id)).find((x) => x.id === dropId);
      if (!d) {
        ui.say(
          'There is no report for this line: it was dropped before reports were kept, or copied from elsewhere.',
        );
        return;
      }
      const r = d.record as unknown as {
        name: string;
        report: IntactReport;
        nullTest?: { residual: number | null; reference: number };
      };
      shown.value = 0;
      results.value = [
        {
          preset: { name: r.name, version: d.version } as Preset,
          plan: { drop: d.id } as DropPlan,
          report: r.report,
          session: session.doc!,
          sessionId: session.id,
          nulls: r.nullTest
            ? { residual: r.nullTest.residual ?? -Infinity, reference: r.nullTest.reference, seconds: 3 }
            : null,
          progress: null,
          error: '',
          at: d.at,
        },
      ];
      showReport.value = true;
    } catch (e) {
      ui.fail(e);
    }
  }

  /** racks and devices of the shelf that may stand in for another */
  const pieces = shallowRef<PresetEntry[]>([]);
  async function loadPieces(): Promise<void> {
    try {
      const [racks, devices] = await Promise.all([
        api.presets({ kind: 'rack', limit: 60 }),
        api.presets({ kind: 'device', limit: 60 }),
      ]);
      pieces.value = [...racks.items, ...devices.items];
    } catch {
      /* the menu says that there is none */
    }
  }

  /**
   * A rack or device of the shelf that is listened to in another's place; the session is not changed until it
   * is kept.
   */
  const trial = shallowRef<{
    slot: string;
    track: string;
    name: string;
    preset: Preset;
    plan: DropPlan;
  } | null>(null);
  async function tryInstead(presetId: string, track: string, slot: string): Promise<void> {
    try {
      const detail = await api.preset(presetId);
      const line = session.doc?.tracks.find((t) => t.id === track);
      if (!session.doc || !line || !findSlot(line.chain, slot)) return;
      const p = { ...detail.preset, name: detail.name };
      const pl = planDrop(session.doc, p, { place: { kind: 'onto', track, chain: 'swap', slot } });
      if (pl.problems.length) {
        ui.say(pl.problems[0].message, 'error');
        return;
      }
      trial.value = { slot, track, name: p.name, preset: p, plan: pl };
      await audio.compareHearings(`try ${slot} ${pl.drop}`, line, slot, p.name, [
        {
          id: 'trial',
          label: p.name,
          at: 'line',
          audition: { bypass: [], chains: { [track]: pl.target!.chain } },
        },
      ]);
    } catch (e) {
      trial.value = null;
      ui.fail(e);
    }
  }
  function endTrial(): void {
    trial.value = null;
    audio.endCompare();
  }
  /** Takes what is tried into the session; the ids are those that sounded, so the sound goes on. */
  function keepTrial(): void {
    const t = trial.value;
    if (!t) return;
    beginWith(t.preset, t.plan.place);
    keep.value = { ids: t.plan.ids, drop: t.plan.drop };
    endTrial();
    apply(true);
  }
  watch(
    () => audio.compare,
    (c) => {
      if (!c && trial.value) trial.value = null;
    },
  );

  return {
    pieces,
    loadPieces,
    trial,
    tryInstead,
    endTrial,
    keepTrial,
    preset,
    borrowed,
    place,
    also,
    ties,
    adapt,
    standIns,
    ports,
    parts,
    plan,
    several,
    plans,
    results,
    shown,
    finished,
    showReport,
    begin,
    beginWith,
    beginSeveral,
    intoSession,
    applySeveral,
    cancel,
    apply,
    reopen,
  };
});
