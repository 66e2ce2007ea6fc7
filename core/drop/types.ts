import type { UnitMatch } from '../hardware/match.ts';
import type { IdMaker } from '../model/ids.ts';
import type { Id, LooseEnd, ParamValue, Parts, Problem, Send, Slot, Track } from '../model/types.ts';

export type Place =
  | { kind: 'new'; index?: number; folder?: Id | null }
  /** the preset makes up the whole session: for a starter in an empty one */
  | { kind: 'whole' }
  /**
   * `container`: the line itself or a strand on it, for “at”; `slot`: the device or rack whose place is
   * taken, for “swap”
   */
  | {
      kind: 'onto';
      track: Id;
      chain: 'replace' | 'append' | 'before' | 'at' | 'swap';
      at?: number;
      container?: Id;
      slot?: Id;
    };

export type ChoiceKind = 'track' | 'spare' | 'empty' | 'master' | 'open';

export interface Choice {
  id: string;
  kind: ChoiceKind;
  track?: Id;
  label: string;
  reason: string;
  score: number;
}

export interface EndPlan {
  end: LooseEnd;
  choices: Choice[];
  chosen: string;
  /** made by the person, not proposed */
  decided: boolean;
}

/** A value that was worked out from the sound that a preset meets. `path`: "dev4/threshold" or "inputTrim". */
export type FitValue = Adaptation;

export interface Adaptation {
  /** place in the preset's content, such as "t1/dev4/time" */
  path: string;
  label: string;
  from: ParamValue;
  to: ParamValue;
  fromText: string;
  toText: string;
  reason: string;
  on: boolean;
}

/** A third-party device that this program cannot run, and the built-in one that may stand in for it. */
export interface StandIn {
  /** place in the preset's content, such as "t1/dev4" */
  path: string;
  label: string;
  name: string;
  type: string;
  typeLabel: string;
  reason: string;
  on: boolean;
}

/** A hardware input or output by name, and which name it gets here. */
export interface PortPlan {
  side: 'input' | 'output';
  port: string;
  choices: string[];
  /** null: left unconnected */
  chosen: string | null;
  reason: string;
}

/** A unit of hardware that a device of the preset goes through, and what stands for it here. */
export interface UnitPlan extends UnitMatch {
  /** place in the preset's content: "t1/dev4" and the unit's own id, "t1/dev4/1" */
  path: string;
  label: string;
}

export interface Rename {
  local: Id;
  from: string;
  to: string;
}

/** What changes on arrival, as the adaptations work it out. */
export interface Changed {
  renames: Rename[];
  adaptations: Adaptation[];
  standIns: StandIn[];
  ports: PortPlan[];
  units: UnitPlan[];
  /** what changes by itself and needs no decision, for the person to know */
  facts: string[];
}

export interface DropPlan extends Changed {
  preset: { id: string; version: number; hash: string; name: string };
  drop: Id;
  place: Place;
  parts: Parts;
  /** local id in the preset → id in the session, for tracks, devices, sends and spares */
  ids: Record<Id, Id>;
  ends: EndPlan[];
  /** full tracks as they will be added, ties made */
  tracks: Track[];
  spares: Track[];
  /** for a drop onto a line: the line as it will be */
  target: Track | null;
  problems: Problem[];
}

export interface PlanOptions {
  place?: Place;
  /** loose end id → choice id */
  ties?: Record<Id, string>;
  parts?: Parts;
  /** path of an adaptation → whether it is made; all are when left out */
  adapt?: Record<string, boolean>;
  /** path of a third-party device → whether the built-in one takes its place; none does when left out */
  standIns?: Record<string, boolean>;
  /** "input/Mic 1" → the port's name here, or null for none */
  ports?: Record<string, string | null>;
  /** path of a unit → id of the choice that stands for it here */
  units?: Record<string, string>;
  /** sends arrive at −∞ */
  silentSends?: boolean;
  /** values that fit the sound of the line that is dropped onto, their devices by the preset's ids */
  fit?: readonly FitValue[];
  /** false: what arrives does not remember a preset (borrowed from a session) */
  origin?: boolean;
  /** for a repeatable plan */
  ids?: IdMaker;
  /** ids of an earlier plan of the same drop, so that re-planning keeps them */
  keep?: Pick<DropPlan, 'ids' | 'drop'>;
}

export type Verdict = 'intact' | 'tied' | 'adapted' | 'left out' | 'unexplained';

export interface ReportRow {
  path: string;
  label: string;
  wanted: string;
  found: string;
  verdict: Verdict;
  reason?: string;
}

/** Why a value is not what the preset has. */
export interface Explanation {
  verdict: Verdict;
  reason: string;
}

/**
 * A line as the preset speaks of it: the same ids, connections by the names of the preset's own ends, and
 * only the parts that came in. The shelf's version, another version and what stands in a session become forms
 * that can be laid over each other, value by value.
 */
export interface Form {
  name?: string;
  colour?: string;
  note?: string;
  level?: number;
  polarity?: boolean;
  pan?: number;
  chain?: Slot[];
  sends?: Send[];
}

/** What an origin says of a send that was left out at the drop. */
export const LEFT_OUT = 'left out';

export interface Difference {
  label: string;
  from: string;
  to: string;
  kind: 'value' | 'added' | 'removed' | 'moved';
}
