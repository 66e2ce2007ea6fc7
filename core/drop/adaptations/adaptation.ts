import type {
  Device,
  Id,
  Input,
  MidiAddress,
  NoteClip,
  ParamValue,
  PartId,
  Preset,
  Send,
  Session,
  Slot,
  Track,
} from '../../model/types.ts';
import type { Adaptation, Changed, DropPlan, EndPlan, Explanation, Place, PlanOptions } from '../types.ts';

/** What an adaptation looks at to work out what changes on arrival. */
export interface Adapting {
  readonly session: Session;
  readonly preset: Preset;
  readonly place: Place;
  readonly options: PlanOptions;
  /** tracks of the preset that arrive, on lines of their own or on one that is there */
  readonly arriving: readonly Track[];
  /** those of them that become lines of their own */
  readonly lines: readonly Track[];
  /** tracks whose devices arrive: of these, and the spares that are brought */
  readonly sounding: readonly Track[];
  readonly ends: readonly EndPlan[];
  /** tracks that come along for open ends, under the names that they had */
  readonly brought: readonly Track[];
  /** the line that the preset is dropped onto */
  readonly target: Track | null;
  has(t: Track, part: PartId): boolean;
  readonly out: Changed;
}

/** One reason why something is otherwise here than in the preset. */
export interface AdaptationKind {
  id: string;
  /** means nothing to spares */
  linesOnly?: boolean;
  /** tells in `c.out` what would change, and why */
  plan(c: Adapting): void;
  /** carries it out on a device or rack of a preset's track */
  slot?(slot: Slot, home: Track, plan: Changed): Slot;
  /** what it changed within a track, as its origin keeps it: "dev4/time" → the value */
  remember?(t: Track, named: readonly Id[], plan: Changed): Record<string, ParamValue>;
  /** another device in the place of one of the preset's, as the report shows the two */
  replaced?(
    path: string,
    found: Device | undefined,
    plan: Changed,
  ): { wanted: string; found: string; reason: string } | null;
  /** its word in the report on a value of a device */
  explain?(
    t: Track,
    want: Device,
    param: string,
    found: ParamValue | undefined,
    plan: DropPlan,
  ): Explanation | null;
}

type HardwareInput = Extract<Input, { kind: 'hardware' }>;

/** What the parts ask the adaptations while they put a line into the session. */
export interface Adapted {
  slot(slot: Slot, home: Track): Slot;
  address(a: MidiAddress): MidiAddress;
  notes(t: Track): NoteClip[] | undefined;
  port(side: 'input' | 'output', port: string): string | null;
  /** a line's hardware input with the units that stand before it here */
  input(home: Track, input: HardwareInput): HardwareInput;
  /** the level (dB) that a send of a line begins at */
  sendLevel(home: Track, send: Send): number;
  /** the name that a line gets */
  name(local: Id, name: string): string;
}

/** The adaptation of one value, if it is made. */
export const adaptationAt = (plan: Pick<Changed, 'adaptations'>, path: string): Adaptation | undefined =>
  plan.adaptations.find((a) => a.path === path && a.on);
