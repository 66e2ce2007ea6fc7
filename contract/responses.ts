import type {
  Likeness,
  MediaRef,
  PackFate,
  Params,
  Preset,
  PresetKind,
  PrintFiles,
  Session,
  Studio,
} from '../core/index.ts';
import type { PresetShelf, ShareKind, ShareRight, ShelfSearch, Together } from './requests.ts';

/*
 * What the server answers, as it arrives: dates are ISO 8601 texts. The routes are typed with these, and so is
 * the browser's side.
 */

export interface Health {
  ok: true;
  app: 'rope-shelf';
}

/** An account. */
export interface Person {
  id: string;
  name: string;
}
/** Who asks; `signIn`: whether anybody signs in here at all. */
export interface Me {
  person: Person;
  signIn: boolean;
}
export interface ShareEntry {
  id: string;
  owner: Person;
  person: Person;
  kind: ShareKind;
  /** the session; '' for the shelf */
  thing: string;
  /** of the session */
  name: string;
  right: ShareRight;
  /** of the session: when somebody opened it last */
  openedAt: string;
}
export interface Shares {
  given: ShareEntry[];
  got: ShareEntry[];
}
/** A window that has a session open. */
export interface Here {
  client: string;
  person: Person;
  line: string | null;
  /** it was closed */
  gone: boolean;
}

export interface SessionEntry {
  id: string;
  name: string;
  revision: number;
  tempo: number;
  sampleRate: number;
  trackCount: number;
  /** '' where it lies in none */
  folder: string;
  updatedAt: string;
  openedAt: string;
}
/** A page of sessions, those that were opened last first; `next` names the one behind it. */
export interface SessionPage {
  items: SessionEntry[];
  next: string | null;
}
/** A folder of the list of sessions, and how many lie in it. */
export interface FolderCount {
  name: string;
  n: number;
}
export interface SessionDocument {
  id: string;
  revision: number;
  document: Session;
}
/** A session as it is opened, and whose it is. */
export interface SessionOpened extends SessionDocument {
  owner: Person;
}
/** A change of a session: done, undone or redone. */
export type StepKind = 'do' | 'undo' | 'redo';
/** One step of a session's history: the session was like this after it. */
export interface HistoryEntry {
  revision: number;
  /** how many revisions it leads back: those of an older hour or day are joined to one */
  steps: number;
  /** what was done, in words; '' where nobody said it */
  label: string;
  kind: StepKind;
  /** the window that did it */
  client: string;
  /** the account that did it, where several work here */
  by: string | null;
  /** ISO 8601 */
  at: string;
  /** the change that takes it back (JSON Patch), where it was asked for */
  back?: unknown[];
}
export interface Saved {
  id: string;
  revision: number;
}
export interface Revision {
  revision: number;
}
export interface Imported extends Saved {
  notes: string[];
}
/** How much of a file is there; all of it is sent piece by piece, each from where the one before ended. */
export interface Upload {
  id: string;
  size: number;
  received: number;
  /** bytes of a piece, of which only the last may be shorter */
  piece: number;
}
/** How presets stood on the shelf before they were changed together: put back, it is as it was. */
export interface ManyChanged {
  before: PresetShelf[];
}
/** Why a preset could go: a session has none of these, and none is pinned. */
export type ClearOutReason = 'same' | 'empty' | 'unnamed' | 'broken' | 'never' | 'unused';
export interface ClearOutItem {
  id: string;
  name: string;
  category: string;
  reasons: ClearOutReason[];
  /** the name of the one that has the same content and stays */
  like?: string;
}
export interface ClearOutPage {
  items: ClearOutItem[];
  next: string | null;
}
export interface DropKept {
  id: string;
}
/** A search of the shelf that is kept. */
export interface KeptSearch {
  name: string;
  search: ShelfSearch;
}
/** A preset with how far it is from another one: 0 is the same sound, 1 nothing in common. */
export interface NearPreset {
  preset: PresetEntry;
  distance: number;
}
/** Presets that do nearly the same: the others are near to the first. `sessions`: how many have each. */
export type NearGroup = (NearPreset & { sessions: number })[];
export interface NearGroups {
  groups: NearGroup[];
  /** groups that are not told, because there are too many */
  more: number;
}
/** What became of presets that were merged into one. */
export interface PresetsMerged {
  /** versions that the one has more */
  versions: number;
  /** sessions whose lines are of it now */
  sessions: number;
  /** those that could not be changed at this moment; their presets stay on the shelf */
  left: string[];
  /** of variants: how they stood before, which takes it back */
  before: PresetShelf[];
  /** those that are in the trash now */
  gone: string[];
}
/** A chain that several sessions have and the shelf has not. */
export interface ByHand {
  devices: string[];
  places: { session: string; sessionName: string; track: string; name: string }[];
}
/** Something that was deleted and can be brought back. */
export interface TrashItem {
  kind: 'preset' | 'session' | 'setup';
  id: string;
  name: string;
  deletedAt: string;
}
export interface TrashPage {
  items: TrashItem[];
  /** from where on there are more */
  next: number | null;
  /** days that things stay */
  days: number;
}
/** A backup on the server's disk. */
export interface BackupEntry {
  name: string;
  bytes: number;
  at: string;
}
export interface BackupList {
  folder: string;
  /** how many of those that are made by themselves are kept; 0: none are made */
  keep: number;
  items: BackupEntry[];
}
/** One thing of a pack, and what would become of it. */
export interface PackItem {
  kind: 'preset' | 'setup' | 'session';
  id: string;
  name: string;
  fate: PackFate;
  /** versions that would come */
  versions: number;
  /** under which name it would come, where that is another one */
  as?: string;
}
/** What would happen if a pack were taken in. */
export interface PackPlan {
  name: string;
  madeAt: string;
  items: PackItem[];
  /** sounds and other files that are not here yet, and their bytes */
  files: number;
  bytes: number;
  notes: string[];
}
/** What was taken in; `id` takes it back. */
export interface PackTaken {
  id: string;
  items: PackItem[];
}
/** What could not be taken back, because it went on since. */
export interface PackBack {
  kept: string[];
}
export interface Notes {
  notes: string[];
}
/** One message of a session's event stream. */
export interface SessionChange {
  revision: number;
  client: string;
}

export interface PresetEntry {
  id: string;
  kind: PresetKind;
  name: string;
  category: string;
  colour: string;
  pinned: boolean;
  version: number;
  parent: string | null;
  lastUsedAt: string | null;
  updatedAt: string;
  summary: PresetSummary;
}
export interface PresetSummary {
  note: string;
  tags: string[];
  tracks: number;
  spares: string[];
  devices: { type: string; name: string; state: string }[];
}
export interface PresetDetail extends PresetEntry {
  /** `by`: who saved it, where several work here */
  versions: { version: number; hash: string; createdAt: string; by: string | null }[];
  preset: Preset;
  /** whose shelf it is on, and what whoever asks may do with it */
  owner: Person;
  right: ShareRight | 'own';
}
/** How a preset sounds now beside what it sounded like when it was saved. */
export interface PresetLikeness {
  version: number;
  /** when the fingerprint was made; null as long as there is none */
  madeAt: string | null;
  checkedAt: string | null;
  /** whether it was rendered with the program that runs now */
  isCurrent: boolean;
  likeness: Likeness | null;
}
/** The same of the whole shelf. */
export interface ShelfLikeness {
  equal: number;
  /** not rendered yet by the program that runs now */
  waiting: number;
  /** those that sound otherwise or can't be told, the first hundred */
  others: { id: string; name: string; likeness: Likeness }[];
}
export interface PresetPage {
  items: PresetEntry[];
  /** marker of the next page; null on the last */
  next: string | null;
  /** words that nothing begins with, and what was looked for in their place */
  instead?: { typed: string; meant: string[] }[];
}
export interface PresetSaved {
  id: string;
  version: number;
}
export interface Facet {
  name: string;
  n: number;
}
export interface Facets {
  categories: Facet[];
  tags: Facet[];
  kinds: Facet[];
}
/** Where presets stand on the shelf now; those that are not on it are left out. */
export type CurrentVersions = Record<string, { version: number; name: string }>;

export interface SessionUse {
  id: string;
  name: string;
  updatedAt: string;
  places: number;
  behind: number;
  oldest: number;
}
export interface SessionsUsing {
  version: number;
  sessions: SessionUse[];
}
/** What an update did, or would do, in one session. */
export interface UpdateSaid {
  id: string;
  name?: string;
  error?: string;
  updated?: number;
  taken?: number;
  kept?: number;
  conflicts?: string[];
  notes?: string[];
}
export interface UpdatesSaid {
  version: number;
  sessions: UpdateSaid[];
}

export interface DropEntry {
  id: string;
  preset: string;
  version: number;
  at: string;
  record: Record<string, unknown>;
}

/** What new devices, lines and sessions begin with, by "device:eq", "track:audio", "session:new". */
export type Defaults = Record<string, DefaultValue>;
export interface DefaultValue {
  params?: Params;
  preset?: string;
}

export type MediaList = MediaRef[];

/** A studio in the list. */
export interface SetupEntry {
  id: string;
  name: string;
  version: number;
  updatedAt: string;
  summary: SetupSummary;
}
export interface SetupSummary {
  inputs: number;
  outputs: number;
  bays: number;
  units: string[];
}
export interface SetupDetail {
  id: string;
  version: number;
  versions: { version: number; createdAt: string }[];
  studio: Studio;
}
export interface SetupSaved {
  id: string;
  version: number;
}

export const JOB_STATES = ['queued', 'running', 'done', 'failed', 'cancelled'] as const;
export type JobState = (typeof JOB_STATES)[number];

/** A print on the server, in the list. */
export interface JobEntry {
  id: string;
  /** of its session, or of the first of several */
  name: string;
  songs: { session: string; name: string; revision: number }[];
  state: JobState;
  /** 0 to 1 */
  progress: number;
  /** why it failed, for a person; '' unless it did */
  message: string;
  /** files that were made, and their bytes */
  files: number;
  bytes: number;
  createdAt: string;
  startedAt: string | null;
  endedAt: string | null;
}
/** What was printed of one song; in what travels no number stands for silence (−∞). */
export interface PrintedSong extends PrintFiles {
  session: string;
  name: string;
  revision: number;
  /** revision of the session now; null: it was deleted */
  now: number | null;
}
/** What is told while prints move on: how one stands, or that it was taken away. */
export type JobNews = JobEntry | { id: string; gone: true };
export interface JobDetail extends JobEntry {
  together: Together | null;
  /** null until it is done */
  printed: PrintedSong[] | null;
}
