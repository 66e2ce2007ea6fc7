import type { Adapted } from '../adaptations/adaptation.ts';
import type {
  Device,
  Id,
  LooseEnd,
  Origin,
  ParamValue,
  PartId,
  Preset,
  Send,
  Session,
  Slot,
  Track,
} from '../../model/types.ts';
import type { SameAs } from '../align.ts';
import type { DropPlan, Difference, Explanation, Form, Place, ReportRow } from '../types.ts';

/** Where the report and the differences tell of a part, in this order. */
export const SECTIONS = ['face', 'fader', 'routing', 'sends', 'devices', 'song'] as const;
export type Section = (typeof SECTIONS)[number];

/** One thing that travels of a line. The walks over the list of parts call these and know none by name. */
export interface Part {
  id: PartId;
  label: string;
  /** what it holds, in a few words; empty when the label says it */
  help: string;
  section: Section;
  /** belongs to one song: not among the usual parts */
  song?: boolean;
  /** copied with a duplicated line unless somebody says otherwise */
  duplicated?: boolean;
  /** the connection by which a line leads away through this part */
  end?: EndKind;
  /** writes the part of a session's track into the preset's track; called when it was chosen */
  take?(from: Track, into: Track, c: Taking): void;
  /** after all tracks were taken: what needs the ids of others */
  settle?(into: Track, c: Pick<Taking, 'ids'>): void;
  /** onto a new line, which begins as a copy of the preset's; called whether it was chosen or not */
  put?(from: Track, into: Track, c: Putting): void;
  /** onto a line that is there; called when it was chosen */
  putOnto?(from: Track, into: Track, c: PuttingOnto): void;
  /** what the drop changed on purpose, under the preset's ids, for the origin of a line or piece */
  remember?(from: Track, named: readonly Id[], c: Remembering): Record<string, ParamValue>;
  /** its rows in the intact report */
  report?(want: Track, found: Track | undefined, c: Reporting): void;
  /** how two tracks differ in it, in words */
  differ?(a: Track, b: Track, c: Differing): void;
  /** its share in a three-way merge */
  merge?: MergePart;
  /** from a copy of a line with fresh ids into the line that stands beside the original */
  duplicate?(copy: Track, into: Track, has: (part: PartId) => boolean): void;
  /** onto another line of the same session */
  copyTo?(from: Track, to: Track, c: Copying): Partial<Track>;
  /** hooks for each device of a chain, for a part that lives inside chains */
  device?: DevicePart;
}

/** A kind of connection that leaves a preset. */
export interface EndKind {
  kind: LooseEnd['kind'];
  /** further parts that it means nothing without */
  needs?: PartId[];
  /** ids of the far sides that a track of the preset leads to */
  leads(t: Track): Id[];
  /** whether it can be tied to a track of the session */
  fits(t: Track, end: LooseEnd, preset: Preset): boolean;
  /** an empty far side can be made for it */
  canMake?: boolean;
  /** it may go straight to the master */
  toMaster?: boolean;
  /**
   * leaving it open, in words, and why; its score among the choices (10 when left out); `onto`: the words where
   * a line that is there keeps what it has
   */
  open: { label: string; reason?: string; score?: number; onto?: string };
}

export interface Taking {
  has(part: PartId): boolean;
  /** the local id that stands for a far track: its own inside, a loose end's outside; null when it is cut or gone */
  tie(kind: LooseEnd['kind'], far: Id): Id | null;
  /** gives an object its local id */
  named(old: Id, prefix: string): Id;
  /** id in the session → local id, as far as given */
  readonly ids: Readonly<Record<Id, Id>>;
  /** the parts that live inside chains */
  readonly inChain: readonly Part[];
}

export interface Putting {
  readonly session: Session;
  readonly place: Place;
  readonly adapted: Adapted;
  /** the master of another session that arrives as a bus */
  readonly asBus: boolean;
  /** where a line without an output goes */
  readonly home: Track['output'];
  has(part: PartId): boolean;
  /** where an end, or a track of the preset, is in this session */
  end(local: Id): Id | null;
  /** the id that an object of the preset gets here */
  fresh(local: Id, prefix: string): Id;
  /** the id that it got, if it came */
  here(local: Id): Id | undefined;
  /** whether a device or rack of the preset comes in */
  comes(slot: Id): boolean;
  /** what a device or rack remembers of its preset; null when nothing is to be remembered */
  origin(local: Id): Origin | null;
  readonly facts: string[];
  readonly inChain: readonly Part[];
}

export interface PuttingOnto extends Putting {
  readonly place: Place & { kind: 'onto' };
  readonly before: Track;
  /** what a piece remembers that went into a chain by itself; null when nothing is to be remembered */
  pieceOrigin(from: Track, slot: Slot): Origin | null;
}

export interface Remembering {
  has(part: PartId): boolean;
  end(local: Id): Id | null;
  /** the name that a line got, when it is not its own */
  renamed?: string;
}

export interface Reporting {
  readonly session: Session;
  readonly preset: Preset;
  readonly plan: DropPlan;
  readonly adapted: Adapted;
  /** a new line, not a line that was there */
  readonly whole: boolean;
  readonly spare: boolean;
  readonly inChain: readonly Part[];
  has(part: PartId): boolean;
  /** compares two values; `explain` says why they may differ */
  row<T>(
    path: string,
    label: string,
    wanted: T | undefined,
    found: unknown,
    text: (v: T) => string,
    explain?: Explanation | null,
  ): void;
  /** one value of the track itself, of a part that may have been left out */
  field<K extends keyof Track>(
    part: PartId | null,
    key: K,
    label: string,
    text: (v: Track[K]) => string,
    explain?: Explanation | null,
  ): void;
  /** something that is not in the session because it was not wanted there */
  leftOut(path: string, label: string, wanted: string, reason?: string): void;
  tell(row: ReportRow): void;
  /** a connection: the far side as the preset names it, and the track that was found */
  tie(path: string, label: string, wanted: Id, found: Id | null): void;
  nameOf(local: Id): string;
  /** whether an end of the preset was left open */
  isOpen(local: Id): boolean;
}

export interface Differing {
  /** one value that may differ; `label` stands behind the line's name */
  value<T>(label: string, x: T | undefined, y: T | undefined, text: (v: T) => string): void;
  tell(d: Difference): void;
  /** names of ends in the first and in the second content */
  nameA(id: Id): string;
  nameB(id: Id): string;
  /** which slot of the first content one of the second is known to be */
  readonly same: SameAs;
  readonly inChain: readonly Part[];
}

export interface Copying {
  readonly parts: readonly PartId[];
  /** behind what is there instead of in its place, for a chain */
  readonly append: boolean;
  /** whether the line may lead to a track without feeding itself */
  open(to: Id, send: boolean): boolean;
}

/** How a part is laid over itself: the preset's, another version's and the session's. */
export interface MergePart {
  /** the fields of a form that are its own */
  keys: readonly (keyof Form)[];
  /** its share of a track's form */
  form(t: Track): Partial<Form>;
  /** as a drop left it: what was adapted over what the preset has */
  dropped?(form: Form, adapted: Record<string, ParamValue>, inChain: readonly Part[]): void;
  /** a session's line in the ids of its preset */
  local?(form: Form, id: (x: Id) => Id, base: Form, inChain: readonly Part[]): void;
  /** another version in the ids of the first */
  paired?(form: Form, base: Form, c: Pairing): void;
  /** what a new version has otherwise than the preset: the drop's adaptations, to be remembered */
  adapted?(c: Writing): Record<string, ParamValue>;
  /** writes the merged form onto the line */
  write(form: Form, out: Track, c: Writing): void;
}

export interface Pairing {
  /** the id of a partner in the first version, or one that nothing else has */
  keep(old: Id, partner: Id | undefined): Id;
  /** id in the other version → id in the first */
  readonly ids: ReadonlyMap<Id, Id>;
  baseEnds(id: Id): string;
  otherEnds(id: Id): string;
  readonly inChain: readonly Part[];
}

export interface Writing {
  readonly session: Session;
  readonly track: Track;
  /** whether a send was there before the preset came */
  beside(s: Send): boolean;
  /** what stands on the line now, and the preset's own, and the version that comes in */
  readonly mine: Form;
  readonly raw: Form;
  readonly theirs: Form;
  /** id in a form → id in the preset */
  readonly toLocal: ReadonlyMap<Id, Id>;
  /** id in a form → id in the session; a new one where there is none yet */
  id(x: Id, prefix: string): Id;
  /** where an end of the preset goes in this session */
  far(end: Id): Id | null;
  /** the slot as it stands, if it does */
  slotHere(id: Id): Slot | undefined;
  /** what a slot of the form remembers of its preset from now on */
  withOrigin(s: Slot, old: Slot | undefined, formId: Id): Slot;
  /** what the origin will say was changed on purpose */
  readonly adapted: Record<string, ParamValue>;
  readonly notes: string[];
  readonly inChain: readonly Part[];
}

/** What a part that lives inside chains does with one device. */
export interface DevicePart {
  /** the preset's device; `chosen`: whether the part was */
  take(d: Device, chosen: boolean, c: Taking): Device;
  put(d: Device, chosen: boolean, c: Putting): Device;
  report(t: Track, want: Device, found: Device | undefined, c: Reporting): void;
  differ(label: string, a: Device, b: Device, c: Differing): void;
  dropped(d: Device, adapted: Record<string, ParamValue>): Device;
  local(d: Device, base: Device | undefined): Device;
  paired(d: Device, partner: Device | undefined, c: Pairing): Device;
  /** `mine`: the device of the form as it stands on the line now */
  write(d: Device, old: Slot | undefined, mine: Device | undefined, c: Writing): Device;
  adapted(raw: Device, theirs: Device, local: Id): Record<string, ParamValue>;
}
