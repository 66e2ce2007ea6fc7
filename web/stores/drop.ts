import { defineStore } from 'pinia';
import { computed, ref, shallowRef, watch } from 'vue';
import { DropRefused, applyDrop, findSlot, isPiece, planDrop, type DropPlan, type IntactReport, type NullResult, type Place, type Preset, type Session } from '../../core/index.ts';
import { api, type PresetEntry } from '../api.ts';
import { jobs, type Running } from '../audio/jobs.ts';
import { useAudio } from './audio.ts';
import { useSession } from './session.ts';
import { useUi } from './ui.ts';

export interface Finished { preset: Preset; plan: DropPlan; report: IntactReport; session: Session; sessionId: string; nulls: NullResult | null; progress: number | null; error: string; at: string }

/** A drop from the sheet to its proof. */
export const useDrop = defineStore('drop', () => {
  const session = useSession();
  const audio = useAudio();
  const ui = useUi();
  const preset = shallowRef<Preset | null>(null);
  const place = shallowRef<Place>({ kind: 'new' });
  const ties = shallowRef<Record<string, string>>({});
  const adapt = shallowRef<Record<string, boolean>>({});
  const parts = shallowRef<Preset['content']['parts'] | null>(null);
  const keep = shallowRef<Pick<DropPlan, 'ids' | 'drop'> | undefined>();
  const finished = shallowRef<Finished | null>(null);
  const showReport = ref(false);
  let test: Running<NullResult> | null = null;

  /** The plan for what the session is now: it follows edits that come in while the sheet is open. */
  const plan = computed<DropPlan | null>(() => {
    if (!preset.value || !session.doc) return null;
    try {
      return planDrop(session.doc, preset.value, { place: place.value, ties: ties.value, adapt: adapt.value, parts: parts.value ?? undefined, keep: keep.value });
    } catch { return null; }
  });

  /** @param quick drops at once, without the sheet, when there is nothing to decide */
  async function begin(presetId: string, where: Place = { kind: 'new' }, quick = false): Promise<void> {
    if (!session.doc) { ui.say('Open a session first, then drop into it.'); return; }
    try {
      const detail = await api.preset(presetId);
      ties.value = {};
      adapt.value = {};
      parts.value = null;
      keep.value = undefined;
      place.value = where;
      const p = { ...detail.preset, name: detail.name };
      // a device or rack goes into a chain: on the chosen line when no spot was given
      if (isPiece(p.kind) && where.kind === 'new' && where.index === undefined && session.track) place.value = { kind: 'onto', track: session.track.id, chain: 'append' };
      preset.value = p;
      if (plan.value) keep.value = { ids: plan.value.ids, drop: plan.value.drop };
      if (quick && plan.value && !plan.value.ends.length && !plan.value.problems.length && !plan.value.adaptations.length) apply(true);
    } catch (e) { ui.fail(e); }
  }
  const cancel = () => { preset.value = null; };

  /** @param quiet says so in a line at the foot instead of opening the report */
  function apply(quiet = false): void {
    const [p, pl, sid] = [preset.value, plan.value, session.id];
    if (!p || !pl || !session.doc || !sid) return;
    let result: ReturnType<typeof applyDrop>;
    try { result = applyDrop(session.doc, pl, p); } catch (e) {
      if (e instanceof DropRefused) { ui.say(e.message, 'error'); return; }
      throw e;
    }
    if (!session.edit(`Drop “${p.name}”`, () => result.session)) return;
    const landed = pl.tracks[0]?.id ?? pl.target?.id;
    const first = p.content.tracks[0]?.chain[0];
    const inner = isPiece(p.kind) && first ? pl.ids[first.id] ?? null : null;
    if (landed) session.select(landed, inner);
    preset.value = null;
    finished.value = { preset: p, plan: pl, report: result.report, session: result.session, sessionId: sid, nulls: null, progress: 0, error: '', at: new Date().toISOString() };
    if (quiet) ui.say(`“${p.name}” is in: ${result.report.counts.intact + result.report.counts.tied} of ${result.report.total} values intact.`, 'done', [{ label: 'Undo', run: () => session.undo() }, { label: 'What happened', run: () => { showReport.value = true; } }], 9000);
    else showReport.value = true;
    void prove();
  }

  /** Null test in the worker; then the record with its report goes to the server. */
  async function prove(): Promise<void> {
    const f = finished.value!;
    const same = () => finished.value?.plan === f.plan;
    test?.cancel();
    test = jobs.nullTest({ session: f.session, preset: f.preset, plan: f.plan }, (p) => { if (same()) finished.value = { ...finished.value!, progress: p }; });
    try {
      const nulls = await test.done;
      if (same()) finished.value = { ...finished.value!, nulls, progress: null };
    } catch (e) { if (same()) finished.value = { ...finished.value!, error: (e as Error).message, progress: null }; }
    try {
      const done = same() ? finished.value! : f;
      // −∞ has no place in JSON: an exact null is kept as null
      const residual = done.nulls ? (Number.isFinite(done.nulls.residual) ? done.nulls.residual : null) : undefined;
      await api.recordDrop({ id: f.plan.drop, session: f.sessionId, preset: f.preset.id, version: f.preset.version, record: { name: f.preset.name, ties: f.plan.ends.map((x) => ({ end: x.end.label, kind: x.end.kind, chosen: x.choices.find((c) => c.id === x.chosen)?.label })), parts: f.plan.parts, adaptations: f.plan.adaptations.filter((a) => a.on), renames: f.plan.renames, report: f.report, ...(residual !== undefined ? { nullTest: { residual, reference: done.nulls!.reference } } : {}) } });
    } catch (e) { ui.fail(e); }
  }

  /** Shows a report that was kept with the session. */
  async function reopen(dropId: string): Promise<void> {
    if (finished.value?.plan.drop === dropId) { showReport.value = true; return; }
    if (!session.id) return;
    try {
      const d = (await api.drops(session.id)).find((x) => x.id === dropId);
      if (!d) { ui.say('There is no report for this line: it was dropped before reports were kept, or copied from elsewhere.'); return; }
      const r = d.record as unknown as { name: string; report: IntactReport; nullTest?: { residual: number | null; reference: number } };
      finished.value = { preset: { name: r.name, version: d.version } as Preset, plan: { drop: d.id } as DropPlan, report: r.report, session: session.doc!, sessionId: session.id, nulls: r.nullTest ? { residual: r.nullTest.residual ?? -Infinity, reference: r.nullTest.reference, seconds: 3 } : null, progress: null, error: '', at: d.at };
      showReport.value = true;
    } catch (e) { ui.fail(e); }
  }

  /** racks and devices of the shelf that may stand in for another */
  const pieces = shallowRef<PresetEntry[]>([]);
  async function loadPieces(): Promise<void> {
    try {
      const [racks, devices] = await Promise.all([api.presets({ kind: 'rack', limit: 60 }), api.presets({ kind: 'device', limit: 60 })]);
      pieces.value = [...racks.items, ...devices.items];
    } catch { /* the menu says that there is none */ }
  }

  /** A rack or device of the shelf that is listened to in another's place; the session is not changed until it is kept. */
  const trial = shallowRef<{ slot: string; track: string; name: string; preset: Preset; plan: DropPlan } | null>(null);
  async function tryInstead(presetId: string, track: string, slot: string): Promise<void> {
    try {
      const detail = await api.preset(presetId);
      const line = session.doc?.tracks.find((t) => t.id === track);
      if (!session.doc || !line || !findSlot(line.chain, slot)) return;
      const p = { ...detail.preset, name: detail.name };
      const pl = planDrop(session.doc, p, { place: { kind: 'onto', track, chain: 'swap', slot } });
      if (pl.problems.length) { ui.say(pl.problems[0].message, 'error'); return; }
      trial.value = { slot, track, name: p.name, preset: p, plan: pl };
      await audio.compareHearings(`try ${slot} ${pl.drop}`, line, slot, p.name, [{ id: 'trial', label: p.name, at: 'line', audition: { bypass: [], chains: { [track]: pl.target!.chain } } }]);
    } catch (e) { trial.value = null; ui.fail(e); }
  }
  function endTrial(): void { trial.value = null; audio.endCompare(); }
  /** Takes what is tried into the session; the ids are those that sounded, so the sound goes on. */
  function keepTrial(): void {
    const t = trial.value;
    if (!t) return;
    preset.value = t.preset;
    place.value = t.plan.place;
    ties.value = {};
    adapt.value = {};
    parts.value = null;
    keep.value = { ids: t.plan.ids, drop: t.plan.drop };
    endTrial();
    apply(true);
  }
  watch(() => audio.compare, (c) => { if (!c && trial.value) trial.value = null; });

  return { pieces, loadPieces, trial, tryInstead, endTrial, keepTrial, preset, place, ties, adapt, parts, plan, finished, showReport, begin, cancel, apply, reopen };
});
