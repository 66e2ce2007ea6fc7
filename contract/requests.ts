import type { Preset, PresetKind, Session, Studio } from '../core/index.ts';

/** A new session: empty, a copy, or from a preset of the shelf. */
export interface NewSession {
  name: string;
  tempo?: number;
  sampleRate?: number;
  bitDepth?: 16 | 24 | 32;
  copyOf?: string;
  preset?: string;
  /** of the preset; its latest when left out */
  version?: number;
}

/** Whose shelf is meant: an account that shares it; the own one when left out. */
export interface OfShelf {
  of?: string;
}

/** By name; what was used last, most or never; what came last. */
export const SHELF_ORDERS = ['name', 'used', 'most', 'never', 'added'] as const;
export type ShelfOrder = (typeof SHELF_ORDERS)[number];

export interface ShelfQuery extends OfShelf {
  q?: string;
  kind?: PresetKind;
  category?: string;
  tag?: string;
  pinned?: 'true' | 'false';
  parent?: string;
  sort?: ShelfOrder;
  /** the marker that the page before gave */
  after?: string;
  limit?: number;
}

/** What the shelf is narrowed to, and its order. */
export type ShelfSearch = Pick<ShelfQuery, 'q' | 'kind' | 'category' | 'tag' | 'pinned' | 'sort'>;

export interface SessionQuery {
  /** words of the name */
  q?: string;
  folder?: string;
  /** the marker that the page before gave */
  after?: string;
  limit?: number;
}

/** A file that comes in pieces. */
export interface NewUpload {
  name: string;
  /** bytes in all */
  size: number;
}

/** What belongs to the shelf and not to a version of a preset. */
export interface PresetShelf {
  id: string;
  category: string;
  colour: string;
  pinned: boolean;
  tags: string[];
  /** the preset that it is a variant of */
  parent?: string | null;
}
/** Presets that become versions of one, or variants of it. */
export interface MergePresets {
  others: string[];
  as: 'versions' | 'variants';
}
/** A change of many presets at once. */
export interface ManyPresets {
  ids: string[];
  /** tags that they get, and tags that they lose */
  tag?: string[];
  untag?: string[];
  category?: string;
  colour?: string;
  pinned?: boolean;
}

/** What goes into a pack. */
export interface NewPack {
  presets?: string[];
  /** all presets of a category */
  category?: string;
  setups?: string[];
  /** sessions with their sounds */
  sessions?: string[];
  /** all there is, with histories: a backup */
  everything?: boolean;
  /** of presets and studios; all when left out */
  versions?: 'all' | 'newest';
}
/** A pack that was sent in pieces; `leave`: what stays out, as “preset/…”, “setup/…”, “session/…”. */
export interface TakePack {
  upload: string;
  leave?: string[];
}

export interface NewPreset {
  preset: Preset;
}
export interface PresetMeta {
  name?: string;
  category?: string;
  tags?: string[];
  pinned?: boolean;
}
export interface Versions {
  ids: string[];
}
export interface UpdateSessions {
  sessions: string[];
  /** only says what would happen */
  look?: boolean;
}
export interface NewDrop {
  id: string;
  session: string;
  preset: string;
  version: number;
  record: object;
}
/** A studio, new or as its next version. */
export interface NewSetup {
  studio: Studio;
}

/** A song of a print: a session as it is kept, or as it is given here. */
export interface NewJobSong {
  session: string;
  /** printed in the place of what is kept: a session whose lines over real ports were printed before */
  document?: Session;
}
/** A print on the server: of one session or several in a row, each by its own plan. */
export interface NewJob {
  songs: NewJobSong[];
  /** all songs to one loudness (LUFS), none over the ceiling (dBTP), instead of each by its plan */
  together?: Together;
}
export interface Together {
  target: number;
  ceiling: number;
}

export interface SignIn {
  name: string;
  password: string;
}
export interface NewPassword {
  old: string;
  password: string;
}
/** What can be shared: a shelf, or one session. */
export const SHARE_KINDS = ['shelf', 'session'] as const;
export type ShareKind = (typeof SHARE_KINDS)[number];
/** A shelf is shared to be read, or to be read and to get versions; a session to be worked on together. */
export const SHARE_RIGHTS = ['read', 'add', 'edit'] as const;
export type ShareRight = (typeof SHARE_RIGHTS)[number];
export interface NewShare {
  /** the account that it is shared with */
  person: string;
  kind: ShareKind;
  /** the session */
  thing?: string;
  right: ShareRight;
}
/** Where a window is in a session. */
export interface HereNow {
  /** the line that is selected */
  line?: string | null;
}
