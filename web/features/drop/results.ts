import { computed, ref, shallowRef, watch } from 'vue';
import {
  isPiece,
  type DropPlan,
  type IntactReport,
  type NullResult,
  type Preset,
  type Session,
  type Several,
} from '../../../core/index.ts';
import type { DropEntry } from '../../../contract/index.ts';
import { ApiError, api } from '../../api/index.ts';
import { jobs } from '../../audio/jobs.ts';
import { useSession } from '../../document/doc.ts';
import { useTour } from '../../ui/tour.ts';
import { useUi } from '../../ui/window.ts';
import { makeProving } from './proving.ts';

/** A drop that happened, and how far its proof is. */
export interface Finished {
  preset: Preset;
  plan: DropPlan;
  report: IntactReport;
  session: Session;
  sessionId: string;
  nulls: (Omit<NullResult, 'compared' | 'without' | 'picture'> & Partial<NullResult>) | null;
  /** its null test is still to come */
  isProving: boolean;
  error: string;
  at: string;
}

/** What is kept of a drop with the session. */
interface Kept {
  name: string;
  report: IntactReport;
  note?: string;
  nullTest?: Omit<Partial<NullResult>, 'residual'> & { residual: number | null; reference: number };
}

/** How many values of all that was dropped are what they were. */
function intactText(drops: Several['drops']): string {
  const sum = (of: (report: IntactReport) => number) => drops.reduce((n, d) => n + of(d.report), 0);
  const intact = sum(({ counts }) => counts.intact + counts.tied);
  return `${intact} of ${sum((report) => report.total)} values intact`;
}

/** What became of drops: reports, null tests, and the record of each with its session. */
export function makeResults() {
  const session = useSession();
  const ui = useUi();
  const results = shallowRef<Finished[]>([]);
  const shown = ref(0);
  const finished = computed<Finished | null>(() => results.value[shown.value] ?? null);
  const showReport = ref(false);
  const { proven, prove } = makeProving<Finished>({
    test: (drop, progress) => jobs.nullTest(drop, progress),
    keep: (drop, nulls) => api.recordDrop(recordOf(drop, nulls)),
    tell: (drop, proof) => {
      const same = (other: Finished) => other.plan.drop === drop.plan.drop;
      results.value = results.value.map((other) => (same(other) ? { ...other, ...proof } : other));
    },
    fail: ui.fail,
  });
  watch(showReport, (isShown) => isShown && useTour().passed('proof'));
  const openReport = () => void (showReport.value = true);

  /**
   * After a drop: the first of what arrived is chosen, the report stands ready, the null test runs.
   * @param quiet says so in a line at the foot instead of opening the report
   */
  function landed(done: Several, quiet: boolean, said: string): void {
    const { plan, preset } = done.drops[0];
    const arrived = plan.tracks[0]?.id ?? plan.target?.id;
    const device = isPiece(preset.kind) ? preset.content.tracks[0]?.chain[0] : undefined;
    if (arrived) session.select(arrived, device ? (plan.ids[device.id] ?? null) : null);
    useTour().passed('drop');
    const at = new Date().toISOString();
    const begun = {
      session: done.session,
      sessionId: session.id!,
      nulls: null,
      isProving: true,
      error: '',
      at,
    };
    results.value = done.drops.map((drop) => ({ ...drop, ...begun }));
    shown.value = 0;
    if (quiet) sayIntact(done, said, preset.note);
    else openReport();
    prove(results.value);
  }

  function sayIntact({ drops }: Several, said: string, note: string): void {
    const actions = [session.undoing(), { label: 'What happened', run: openReport }];
    const first = note && drops.length === 1 ? ` What to touch first: ${note}` : '';
    ui.say(`${said}: ${intactText(drops)}.${first}`, 'done', actions, first ? 15000 : 9000);
  }

  /** Shows a report that was kept with the session. */
  async function reopen(dropId: string): Promise<void> {
    const at = results.value.findIndex((drop) => drop.plan.drop === dropId);
    if (at >= 0) {
      shown.value = at;
      openReport();
      return;
    }
    if (!session.id) return;
    try {
      const kept = await api.drop(dropId);
      shown.value = 0;
      results.value = [asFinished(kept, session.doc!, session.id)];
      openReport();
    } catch (e) {
      if (e instanceof ApiError && e.code === 'not-found') {
        const why = 'it was dropped before reports were kept, or copied from elsewhere';
        ui.say(`There is no report for this line: ${why}.`);
      } else ui.fail(e);
    }
  }
  return { results, shown, finished, showReport, proven, landed, reopen };
}

/** What of a drop is kept with its session. */
function recordOf(drop: Finished, nulls: NullResult | null): Parameters<typeof api.recordDrop>[0] {
  const { plan, preset, report } = drop;
  const ties = plan.ends.map((tied) => ({
    end: tied.end.label,
    kind: tied.end.kind,
    chosen: tied.choices.find((choice) => choice.id === tied.chosen)?.label,
  }));
  // −∞ has no place in JSON: an exact null is kept as null
  const nullTest = nulls && {
    ...nulls,
    residual: Number.isFinite(nulls.residual) ? nulls.residual : null,
  };
  return {
    id: plan.drop,
    session: drop.sessionId,
    preset: preset.id,
    version: preset.version,
    record: {
      name: preset.name,
      ...(preset.note ? { note: preset.note } : {}),
      ties,
      parts: plan.parts,
      adaptations: plan.adaptations.filter((a) => a.on),
      renames: plan.renames,
      report,
      ...(nullTest ? { nullTest } : {}),
    },
  };
}

/** A kept record as the report shows it: of preset and plan only what the report speaks of. */
function asFinished(kept: DropEntry, session: Session, sessionId: string): Finished {
  const { name, note, report, nullTest } = kept.record as unknown as Kept;
  const nulls = nullTest && {
    // older records have neither causes nor a picture
    seconds: 3,
    causes: [],
    ...nullTest,
    residual: nullTest.residual ?? -Infinity,
  };
  return {
    preset: { name, note: note ?? '', version: kept.version } as Preset,
    plan: { drop: kept.id } as DropPlan,
    report,
    session,
    sessionId,
    nulls: (nulls ?? null) as Finished['nulls'],
    isProving: false,
    error: '',
    at: kept.at,
  };
}
