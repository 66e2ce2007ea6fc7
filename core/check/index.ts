import { outputsShort } from './rules/outputs-short.ts';
import { overCeiling } from './rules/over-ceiling.ts';
import { loopWrong } from './rules/loop-wrong.ts';
import { takeApart } from './rules/take-apart.ts';
import { noiseFloor } from './rules/noise-floor.ts';
import { laneGone } from './rules/lane-gone.ts';
import { portUnknown } from './rules/port-unknown.ts';
import { channelShared } from './rules/channel-shared.ts';
import { portDiffers } from './rules/port-differs.ts';
import { midiUnheard } from './rules/midi-unheard.ts';
import { partPort } from './rules/part-port.ts';
import { portFull } from './rules/port-full.ts';
import { unplayed } from './rules/unplayed.ts';
import { partControllers } from './rules/part-controllers.ts';
import { partControllerMeaning } from './rules/part-controller-meaning.ts';
import { keyMissing } from './rules/key-missing.ts';
import { keySilent } from './rules/key-silent.ts';
import { keyAfterFader } from './rules/key-after-fader.ts';
import { keyListened } from './rules/key-listened.ts';
import { doublePath } from './rules/double-path.ts';
import { noWayOut } from './rules/no-way-out.ts';
import { loop } from './rules/loop.ts';
import { nothingFeeds } from './rules/nothing-feeds.ts';
import { sendToSleeping } from './rules/send-to-sleeping.ts';
import { notSoloSafe } from './rules/not-solo-safe.ts';
import { returnNotWet } from './rules/return-not-wet.ts';
import { parallelPreFader } from './rules/parallel-pre-fader.ts';
import { sendWideOpen } from './rules/send-wide-open.ts';
import { folderMixed } from './rules/folder-mixed.ts';
import { tempoBound } from './rules/tempo-bound.ts';
import { overHalfTheRate } from './rules/over-half-the-rate.ts';
import { widthOnMono } from './rules/width-on-mono.ts';
import { inputTwice } from './rules/input-twice.ts';
import { loopShared } from './rules/loop-shared.ts';
import { loopUnmeasured } from './rules/loop-unmeasured.ts';
import { controllerTwice } from './rules/controller-twice.ts';
import { controllerMeaning } from './rules/controller-meaning.ts';
import { defaultName } from './rules/default-name.ts';
import { sameName } from './rules/same-name.ts';
import { hiddenActive } from './rules/hidden-active.ts';
import { cannotRun } from './rules/cannot-run.ts';
import { clips } from './rules/clips.ts';
import { low } from './rules/low.ts';
import { brokenSound } from './rules/broken-sound.ts';
import { headroom } from './rules/headroom.ts';
import { unitShared } from './rules/unit-shared.ts';
import { loopOtherRate } from './rules/loop-other-rate.ts';
import { loopTurned } from './rules/loop-turned.ts';
import { loopSwapped } from './rules/loop-swapped.ts';
import { outputIntoOutput } from './rules/output-into-output.ts';
import { levelsDiffer } from './rules/levels-differ.ts';
import { sendToMonitors } from './rules/send-to-monitors.ts';
import { cableNeeded } from './rules/cable-needed.ts';
import { positionNotTicked } from './rules/position-not-ticked.ts';
import { impulseMissing } from './rules/impulse-missing.ts';
import { soundChanged, soundKept, soundUnknown } from './rules/sound-revision.ts';
import type { Id, Session } from '../model/types.ts';
import { OF_OUTPUTS, chooseRemedy, keyOf } from './remedies.ts';
import { validateChange } from '../session/validate/change.ts';
import { prepare, type Hit, type Levels, type Rule, type Severity } from './rule.ts';

/** All rules of the line check: one file each. */
export const RULES: Rule[] = [
  keyMissing,
  keySilent,
  keyAfterFader,
  keyListened,
  doublePath,
  noWayOut,
  loop,
  nothingFeeds,
  sendToSleeping,
  notSoloSafe,
  returnNotWet,
  parallelPreFader,
  sendWideOpen,
  folderMixed,
  tempoBound,
  overHalfTheRate,
  widthOnMono,
  inputTwice,
  loopShared,
  loopUnmeasured,
  unitShared,
  loopOtherRate,
  loopTurned,
  loopSwapped,
  outputIntoOutput,
  levelsDiffer,
  sendToMonitors,
  cableNeeded,
  positionNotTicked,
  controllerTwice,
  controllerMeaning,
  defaultName,
  sameName,
  hiddenActive,
  cannotRun,
  laneGone,
  clips,
  low,
  headroom,
  brokenSound,
  ...OF_OUTPUTS,
  channelShared,
  portDiffers,
  midiUnheard,
  partPort,
  portFull,
  unplayed,
  partControllers,
  partControllerMeaning,
  overCeiling,
  loopWrong,
  takeApart,
  noiseFloor,
  portUnknown,
  outputsShort,
  soundUnknown,
  soundChanged,
  impulseMissing,
  soundKept,
];

export interface Finding extends Hit {
  /** the same for the same object and rule, whatever else changes */
  key: string;
  rule: string;
  severity: Severity;
  title: string;
  why: string;
  /** its fix cannot take away anything that was meant */
  safe: boolean;
  /** why it is silenced, when it is */
  silenced?: string;
}

const ORDER: Record<Severity, number> = { fault: 0, warning: 1, advice: 2 };

/**
 * Checks a session by the standing rules; faults first, in the order of the lines. Rules about levels speak
 * only when levels are given, which takes a render; those about an interface's buffer when it plays on one.
 * @param buffer frames of that buffer
 * @returns what was found, silenced findings included and marked with their reason
 */
export function lineCheck(
  session: Session,
  levels: Levels | null = null,
  buffer: number | null = null,
): Finding[] {
  const c = prepare(session, levels, buffer);
  const place = new Map(session.tracks.map((t, i) => [t.id, i]));
  const reasons = new Map((session.silenced ?? []).map((x) => [x.key, x.reason]));
  return RULES.flatMap((r) =>
    r.find(c).map((h): Finding => {
      const key = keyOf(r, h);
      const reason = reasons.get(key);
      const fix = r.remedies ? chooseRemedy(session, r, h)?.label : h.fix;
      return {
        ...h,
        ...(fix === undefined ? {} : { fix }),
        key,
        rule: r.id,
        severity: r.severity,
        title: r.title,
        why: r.why,
        safe: !!(r.safe && fix),
        ...(reason === undefined ? {} : { silenced: reason }),
      };
    }),
  ).sort((a, b) => ORDER[a.severity] - ORDER[b.severity] || place.get(a.track)! - place.get(b.track)!);
}

/** The session without the cause of a finding; the same session when the finding has no fix or is gone. */
export function fixFinding(session: Session, f: Finding, levels: Levels | null = null): Session {
  const rule = RULES.find((r) => r.id === f.rule);
  const hit = rule?.find(prepare(session, levels)).find((h) => keyOf(rule, h) === f.key);
  if (!rule || !hit || !f.fix) return session;
  const mended = rule.remedies ? chooseRemedy(session, rule, hit)?.session : rule.fix?.(session, f);
  return mended && !validateChange(session, mended).length ? mended : session;
}

/**
 * Everything that can be mended without taking away what was meant, one after the other: a fix can end other
 * findings, which are left alone then, and can make room for more, which are looked for again.
 */
export function fixAllSafe(session: Session): { session: Session; fixed: Finding[] } {
  const fixed: Finding[] = [];
  const tried = new Set<string>();
  let now = session;
  for (;;) {
    const found = lineCheck(now);
    const todo = found.filter((f) => f.safe && f.silenced === undefined && !tried.has(f.key));
    if (!todo.length) {
      const left = new Set(found.map((f) => f.key));
      return { session: now, fixed: fixed.filter((f) => !left.has(f.key)) };
    }
    for (const f of todo) {
      const next = fixFinding(now, f);
      if (next !== now) fixed.push(f);
      tried.add(f.key);
      now = next;
    }
  }
}

/** Silences a finding for one object, with a reason; without one it speaks again. */
export function silence(session: Session, key: Id, reason: string | null): Session {
  const rest = (session.silenced ?? []).filter((x) => x.key !== key);
  const list = reason === null ? rest : [...rest, { key, reason: reason.trim() || 'meant so' }];
  const { silenced: _s, ...plain } = session;
  return list.length ? { ...plain, silenced: list } : plain;
}
