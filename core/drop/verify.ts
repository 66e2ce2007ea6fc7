import { canonicalJson } from '../model/json.ts';
import type { Id, Parts, Preset, Session, Track } from '../model/types.ts';
import { trackOf } from '../session/create.ts';
import { adaptedBy } from './adaptations/index.ts';
import { IN_CHAIN, TOLD, partsOf } from './parts/index.ts';
import type { Reporting } from './parts/part.ts';
import { reportPrint } from './print.ts';
import type { DropPlan, Explanation, ReportRow, Verdict } from './types.ts';

export interface IntactReport {
  rows: ReportRow[];
  counts: Record<Verdict, number>;
  /** values compared */
  total: number;
  /** nothing unexplained */
  intact: boolean;
}

/**
 * Compares every value of the preset with what stands in the session now: reads the session itself, not the
 * plan, so that a fault in the drop shows. The plan only explains differences (ties, renames, adaptations,
 * parts that were not chosen); what it does not explain is marked and makes the report fail.
 */
export function verifyDrop(session: Session, preset: Preset, plan: DropPlan): IntactReport {
  const rows: ReportRow[] = [];
  const { tracks, spares } = preset.content;
  const report = (want: Track, takes: Parts, spare: boolean) => {
    const c = reportingOf(want, takes, spare, { session, preset, plan, rows });
    const found = trackOf(session, plan.ids[want.id]);
    reportTrack(want, found, c);
  };
  for (const t of plan.place.kind === 'onto' ? tracks.slice(0, 1) : tracks) {
    const staysOut = t.role === 'master' && plan.place.kind === 'new' && tracks.length > 1;
    if (staysOut) rows.push(masterRow(t));
    else report(t, partsOf(preset, t, plan.parts), false);
  }
  for (const s of spares) if (plan.ids[s.id]) report(s, sparePartsOf(preset), true);
  rows.push(...reportPrint(session, preset, plan));
  const counts: IntactReport['counts'] = { intact: 0, tied: 0, adapted: 0, 'left out': 0, unexplained: 0 };
  for (const r of rows) counts[r.verdict]++;
  return { rows, counts, total: rows.length, intact: counts.unexplained === 0 };
}

const masterRow = (t: Track): ReportRow => ({
  path: `${t.id}/chain`,
  label: `${t.name} · chain`,
  wanted: `${t.chain.length} devices`,
  found: '—',
  verdict: 'left out',
  reason: 'the session keeps its own master',
});

/** What is compared of a spare: everything that a copy of a bus or return can have. */
function sparePartsOf(preset: Preset): Parts {
  const all: Parts = [...preset.content.parts, 'chain', 'level', 'pan', 'name', 'colour', 'note'];
  return [...new Set(all)].filter((p) => p !== 'sends' && p !== 'output');
}

/** All rows of one line: its parts, and what a new line has of its own between them. */
function reportTrack(want: Track, found: Track | undefined, c: FieldReporting): void {
  c.look(found);
  for (const p of TOLD) if (p.section === 'face' || p.section === 'fader') p.report?.(want, found, c);
  if (c.whole) reportNewLine(want, found, c);
  for (const p of TOLD) if (p.section !== 'face' && p.section !== 'fader') p.report?.(want, found, c);
}

function reportNewLine(want: Track, found: Track | undefined, c: Reporting): void {
  const asBus = want.role === 'master' && found?.role === 'bus' && c.plan.place.kind === 'new';
  const reason = 'a session has one master; the chain arrives as a bus';
  c.field(null, 'role', 'role', String, asBus ? { verdict: 'adapted', reason } : null);
  c.field(null, 'channels', 'width', (v) => (v === 1 ? 'mono' : 'stereo'));
  c.field(null, 'soloSafe', 'solo safe', (v) => (v ? 'yes' : 'no'));
  c.field(null, 'state', 'state', String);
}

interface Verified {
  session: Session;
  preset: Preset;
  plan: DropPlan;
  rows: ReportRow[];
}
/** The fields of a line are read from what was found, which is told once. */
type FieldReporting = Reporting & { look(found: Track | undefined): void };

const NOT_CHOSEN = 'this part was not chosen';
const UNEXPLAINED: Explanation = { verdict: 'unexplained', reason: 'nothing explains this difference' };
const INTACT = { verdict: 'intact' } as const;

/** A value that the drop would have adapted and that was kept on the sheet is told as that. */
function intactAt(path: string, plan: DropPlan): Pick<ReportRow, 'verdict' | 'reason'> {
  const declined = plan.adaptations.find((a) => a.path === path && !a.on);
  if (!declined) return INTACT;
  return { verdict: 'intact', reason: `kept on purpose instead of ${declined.toText}: ${declined.reason}` };
}

function reportingOf(want: Track, takes: Parts, spare: boolean, v: Verified): FieldReporting {
  const { session, preset, plan, rows } = v;
  const whole = spare || plan.place.kind !== 'onto';
  const has = (part: Parts[number]) => takes.includes(part);
  const saved = spare ? preset.content.parts : partsOf(preset, want, plan.parts.concat(preset.content.parts));
  let there: Track | undefined;
  const c: FieldReporting = {
    session,
    preset,
    plan,
    adapted: adaptedBy(plan),
    whole,
    spare,
    inChain: IN_CHAIN,
    has,
    look(found) {
      there = found;
    },
    row(path, label, wanted, found, text, explain) {
      const equal = canonicalJson(wanted ?? null) === canonicalJson(found ?? null);
      const show = (x: unknown) => (x === undefined ? 'nothing' : text(x as never));
      const verdict = equal ? intactAt(path, plan) : (explain ?? UNEXPLAINED);
      rows.push({ path, label, wanted: show(wanted), found: show(found), ...verdict });
    },
    field(part, key, label, text, explain) {
      const [path, name] = [`${want.id}/${key}`, `${want.name} · ${label}`];
      if (part && !has(part)) {
        // on a line that is there, a part that stays away is told; a new line simply has its own
        if (!whole && saved.includes(part)) c.leftOut(path, name, text(want[key]));
        if (!spare) return;
      }
      c.row(path, name, want[key], there?.[key], text, explain);
    },
    leftOut(path, label, wanted, reason = NOT_CHOSEN) {
      rows.push({ path, label, wanted, found: '—', verdict: 'left out', reason });
    },
    tell(row) {
      rows.push(row);
    },
    tie(path, label, wanted, found) {
      const to = found ? trackOf(session, found) : undefined;
      const verdict = tieVerdict(wanted, to ? found : null, found, plan);
      rows.push({ path, label, wanted: c.nameOf(wanted), found: to?.name ?? '—', ...verdict });
    },
    nameOf: (local) => nameIn(preset, local),
    isOpen: (local) => plan.ends.find((e) => e.end.id === local)?.chosen === 'open',
  };
  return c;
}

const nameIn = (preset: Preset, local: Id): string =>
  preset.content.looseEnds.find((e) => e.id === local)?.label ??
  preset.content.tracks.find((t) => t.id === local)?.name ??
  local;

/**
 * A connection: the wanted end is local; what is found must be the track that the choice names, and must
 * exist.
 * @param there the track that was found, if it exists
 */
function tieVerdict(
  wanted: Id,
  there: Id | null,
  found: Id | null,
  plan: DropPlan,
): Pick<ReportRow, 'verdict' | 'reason'> {
  const e = plan.ends.find((x) => x.end.id === wanted);
  const choice = e?.choices.find((x) => x.id === e.chosen);
  if (!e && there && there === plan.ids[wanted]) return INTACT;
  switch (choice?.kind) {
    case 'open':
      if (!found) return { verdict: 'left out', reason: 'left open on the drop sheet' };
      break;
    case 'track':
    case 'master':
      if (there && there === choice.track) return { verdict: 'tied', reason: choice.reason };
      break;
    case 'spare':
      if (there && there === plan.ids[e!.end.spare!]) {
        return { verdict: 'tied', reason: 'its own copy came along' };
      }
      break;
    case 'empty':
      if (there && there === plan.ids[`empty-${wanted}`]) {
        return { verdict: 'tied', reason: 'an empty one was made' };
      }
  }
  return { verdict: 'unexplained', reason: 'the connection is not where the drop sheet put it' };
}
