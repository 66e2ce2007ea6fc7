import type { Preset, PresetKind, Studio } from '../core/index.ts';

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

export interface ShelfQuery {
  q?: string;
  kind?: PresetKind;
  category?: string;
  tag?: string;
  pinned?: 'true' | 'false';
  parent?: string;
  sort?: 'name' | 'used';
  /** the marker that the page before gave */
  after?: string;
  limit?: number;
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
