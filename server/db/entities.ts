import {
  Column,
  CreateDateColumn,
  Entity,
  Index,
  PrimaryColumn,
  PrimaryGeneratedColumn,
  UpdateDateColumn,
  VersionColumn,
} from 'typeorm';
import type { JobEntry, JobState, ShareKind, ShareRight, Together } from '../../contract/index.ts';
import type { Fingerprint, Likeness, MediaRef, PrintFiles, Session } from '../../core/index.ts';

/** More than four bytes hold; the database's client gives it as text. */
const BYTES = { transformer: { to: (bytes?: number) => bytes, from: Number } };
/** JSON in a column that the database takes for text. */
const AS_JSON = {
  transformer: {
    to: (value?: object) => value && JSON.stringify(value),
    from: (text?: string) => text && (JSON.parse(text) as object),
  },
};
const NOW = { precision: 3, default: () => 'CURRENT_TIMESTAMP(3)' };

/** Every row has an owner. This is the first account: the only one where nobody signs in. */
export const OWNER = 'owner';

@Entity('user')
export class UserRow {
  @PrimaryColumn('varchar', { length: 64 }) id: string;
  @Index('user_name', { unique: true })
  @Column('varchar', { length: 200 })
  name: string;
  /** as `hashedPassword` writes it; none where nobody signs in */
  @Column('varchar', { length: 300, nullable: true, select: false }) password: string | null;
  /** since when nobody can sign in with it; what it has stays */
  @Column('datetime', { precision: 3, nullable: true }) closedAt: Date | null;
  @CreateDateColumn(NOW) createdAt: Date;
}

/** A browser that somebody signed in with, by the hash of what its cookie holds. */
@Entity('sign_in')
@Index('sign_in_person', ['person'])
export class SignInRow {
  @PrimaryColumn('char', { length: 64 }) token: string;
  @Column('varchar', { length: 64 }) person: string;
  @CreateDateColumn(NOW) createdAt: Date;
}

/** How many wrong passwords came for an account or from an address, until when (ms): see `Tries`. */
@Entity('sign_in_try')
export class SignInTryRow {
  @PrimaryColumn('varchar', { length: 100 }) key: string;
  @Column('int', { default: 0 }) points: number;
  @Column('bigint', { unsigned: true, nullable: true }) expire: string | null;
}

/** What an account lets another one see or change: its shelf, or one of its sessions. */
@Entity('share')
@Index('share_once', ['owner', 'person', 'kind', 'thing'], { unique: true })
@Index('share_person', ['person', 'kind', 'thing'])
export class ShareRow {
  @PrimaryColumn('varchar', { length: 64 }) id: string;
  @Column('varchar', { length: 64 }) owner: string;
  /** who it is shared with */
  @Column('varchar', { length: 64 }) person: string;
  @Column('varchar', { length: 16 }) kind: ShareKind;
  /** the session; empty for the shelf */
  @Column('varchar', { length: 64, default: '' }) thing: string;
  @Column('varchar', { length: 16 }) right: ShareRight;
  @CreateDateColumn(NOW) createdAt: Date;
}

@Entity('session')
@Index(['owner', 'deletedAt', 'updatedAt'])
// the name last, so that words of it are found in the index
@Index('session_opened', ['owner', 'deletedAt', 'openedAt', 'id', 'name'])
@Index('session_folder', ['owner', 'deletedAt', 'folder', 'openedAt', 'id'])
export class SessionRow {
  @PrimaryColumn('varchar', { length: 64 }) id: string;
  @Column('varchar', { length: 64 }) owner: string;
  @Column('varchar', { length: 200 }) name: string;
  @Column('varchar', { length: 200, default: '' }) folder: string;
  @Column('int') revision: number;
  @Column('double') tempo: number;
  @Column('int') sampleRate: number;
  @Column('int') trackCount: number;
  @Column('json', { select: false }) document: object;
  /** the revision that the document was written at; the steps after it lead to the present one */
  @Column('int', { default: 1 }) written: number;
  @CreateDateColumn(NOW) createdAt: Date;
  @UpdateDateColumn({ ...NOW, onUpdate: 'CURRENT_TIMESTAMP(3)' }) updatedAt: Date;
  @Column('datetime', NOW) openedAt: Date;
  @Column('datetime', { precision: 3, nullable: true }) deletedAt: Date | null;
}

@Entity('session_revision')
export class SessionRevisionRow {
  @PrimaryColumn('varchar', { length: 64 }) session: string;
  @PrimaryColumn('int') revision: number;
  @Column('varchar', { length: 64 }) owner: string;
  @Column('varchar', { length: 64, default: '' }) client: string;
  /** the account that made it; empty where it was the only one */
  @Column('varchar', { length: 64, default: '' }) person: string;
  /** how many revisions it leads back: those of an hour or a day are joined as they grow old */
  @Column('int', { default: 1 }) steps: number;
  /**
   * what was changed; of steps that were joined or lie in a bundle, only the document still knows. It lies packed
   * (migration 0022), and MariaDB gives a packed text that must be filled a default.
   */
  @Column('longtext', { default: '' }) patch: string;
  /** what was done, in words */
  @Column('varchar', { length: 200, default: '' }) label: string;
  /** done, undone, or redone */
  @Column('varchar', { length: 8, default: 'do' }) kind: string;
  /** the change that takes it back; none of revisions from before it was kept; empty where it lies in a bundle */
  @Column('longtext', { nullable: true }) back: string | null;
  /** the step that carries the ways back of a bundle that this one's lies in (see `withWays`) */
  @Column('int', { nullable: true }) bundle: number | null;
  /** characters of its way back; not known of steps from before that was kept */
  @Column('int', { nullable: true }) size: number | null;
  /** of a step that carries a bundle: the ways back of all of it, packed */
  @Column('longblob', { nullable: true, select: false }) ways: Buffer | null;
  @CreateDateColumn(NOW) createdAt: Date;
}

@Entity('preset')
@Index(['owner', 'deletedAt', 'name', 'id'])
@Index(['owner', 'deletedAt', 'lastUsedAt', 'id'])
@Index('preset_drops', ['owner', 'deletedAt', 'drops', 'id'])
@Index('preset_added', ['owner', 'deletedAt', 'createdAt', 'id'])
@Index('preset_never', ['owner', 'deletedAt', 'lastUsedAt', 'name', 'id'])
@Index('preset_pinned', ['owner', 'deletedAt', 'pinned', 'name', 'id'])
@Index('preset_category', ['owner', 'deletedAt', 'category', 'name', 'id'])
@Index('preset_kind', ['owner', 'deletedAt', 'kind', 'name', 'id'])
@Index('preset_kind_used', ['owner', 'deletedAt', 'kind', 'lastUsedAt', 'id'])
@Index(['owner', 'category'])
export class PresetRow {
  @PrimaryColumn('varchar', { length: 64 }) id: string;
  @Column('varchar', { length: 64 }) owner: string;
  @Column('varchar', { length: 16 }) kind: string;
  @Column('varchar', { length: 200 }) name: string;
  @Column('varchar', { length: 200 }) category: string;
  @Column('varchar', { length: 32 }) colour: string;
  @Column('tinyint', { default: 0 }) pinned: number;
  @Column('int') currentVersion: number;
  /** the preset that this one is a variant of */
  @Index('preset_parent')
  @Column('varchar', { length: 64, nullable: true })
  parent: string | null;
  @Column('json') summary: object;
  @Index('preset_search', { fulltext: true })
  @Column('text')
  search: string;
  /** the beginning of time as long as it was never used */
  @Column('datetime', { precision: 3, default: '1970-01-01 00:00:00.000' }) lastUsedAt: Date;
  /** how often it was dropped */
  @Column('int', { default: 0 }) drops: number;
  @CreateDateColumn(NOW) createdAt: Date;
  @UpdateDateColumn({ ...NOW, onUpdate: 'CURRENT_TIMESTAMP(3)' }) updatedAt: Date;
  @VersionColumn() lock: number;
  @Column('datetime', { precision: 3, nullable: true }) deletedAt: Date | null;
}

@Entity('preset_version')
@Index('preset_version_hash', ['hash'])
export class PresetVersionRow {
  @PrimaryColumn('varchar', { length: 64 }) preset: string;
  @PrimaryColumn('int') version: number;
  @Column('varchar', { length: 64 }) owner: string;
  @Column('char', { length: 64 }) hash: string;
  /** the account that saved it; empty where it was the only one */
  @Column('varchar', { length: 64, default: '' }) person: string;
  @Column('json', { select: false }) document: object;
  @CreateDateColumn(NOW) createdAt: Date;
}

/** How many presets on the shelf have a kind, a category or a tag: kept by triggers with each write. */
@Entity('preset_count')
@Index('preset_count_most', ['owner', 'what', 'n'])
export class PresetCountRow {
  @PrimaryColumn('varchar', { length: 64 }) owner: string;
  @PrimaryColumn('varchar', { length: 16 }) what: 'kind' | 'category' | 'tag';
  @PrimaryColumn('varchar', { length: 200 }) name: string;
  @Column('int', { default: 0 }) n: number;
}

/** A word that presets are found by: put in by a trigger with each preset, and stays when its preset goes. */
@Entity('search_word')
export class SearchWordRow {
  @PrimaryColumn('varchar', { length: 64 }) owner: string;
  @PrimaryColumn('varchar', { length: 60 }) word: string;
}

/**
 * What is found by a word, or by a tag (`#` and its name), in the order of names: kept by triggers, for what is on
 * the shelf.
 */
@Entity('preset_word')
export class PresetWordRow {
  @PrimaryColumn('varchar', { length: 64 }) owner: string;
  @PrimaryColumn('varchar', { length: 61 }) word: string;
  @PrimaryColumn('varchar', { length: 200 }) name: string;
  @PrimaryColumn('varchar', { length: 64 }) preset: string;
}

@Entity('tag')
@Index(['owner', 'name'])
export class TagRow {
  @PrimaryColumn('varchar', { length: 64 }) preset: string;
  @PrimaryColumn('varchar', { length: 60 }) name: string;
  @Column('varchar', { length: 64 }) owner: string;
}

@Entity('media')
export class MediaRow {
  @PrimaryColumn('char', { length: 64 }) id: string;
  @Column('varchar', { length: 64 }) owner: string;
  @Column('varchar', { length: 16 }) kind: string;
  @Column('varchar', { length: 255 }) name: string;
  @Column('bigint', BYTES) size: number;
  @Column('int', { default: 0 }) sampleRate: number;
  @Column('int', { default: 0 }) channels: number;
  @Column('int', { default: 0 }) frames: number;
  /** of an imported file: the sounds in it by their entries, so that they need not be looked at again */
  @Column('json', { nullable: true, select: false }) sounds: Record<string, MediaRef> | null;
  @CreateDateColumn(NOW) createdAt: Date;
}

/** Who sent a sound: it lies in the database once, and stands in the list of each. */
@Entity('media_holder')
@Index('media_holder_newest', ['owner', 'createdAt'])
export class MediaHolderRow {
  @PrimaryColumn('varchar', { length: 64 }) owner: string;
  @PrimaryColumn('char', { length: 64 }) media: string;
  /** what it was called when this account sent it */
  @Column('varchar', { length: 255 }) name: string;
  @CreateDateColumn(NOW) createdAt: Date;
}

/** A file on its way: it comes in pieces, which lie among those of the sounds under this id. */
@Entity('upload')
export class UploadRow {
  @PrimaryColumn('char', { length: 64 }) id: string;
  @Column('varchar', { length: 64 }) owner: string;
  @Column('varchar', { length: 255 }) name: string;
  @Column('bigint', BYTES) size: number;
  @Column('bigint', { ...BYTES, default: 0 }) received: number;
  @CreateDateColumn(NOW) createdAt: Date;
}

/** Sound and imported files in pieces of 1 MiB. */
@Entity('media_chunk')
export class MediaChunkRow {
  @PrimaryColumn('char', { length: 64 }) media: string;
  @PrimaryColumn('int') part: number;
  @Column('varchar', { length: 64 }) owner: string;
  @Column('longblob') data: Buffer;
}

/** What happened a moment ago, for the windows that other processes of this program serve. */
@Entity('event')
@Index('event_recent', ['createdAt'])
export class EventRow {
  @PrimaryGeneratedColumn('increment', { type: 'bigint' }) id: string;
  @Column('varchar', { length: 64 }) process: string;
  @Column('varchar', { length: 64 }) topic: string;
  @Column('longtext') news: string;
  @CreateDateColumn(NOW) createdAt: Date;
}

/** What a pack brought, so that it can be taken back. */
@Entity('pack_taken')
export class PackTakenRow {
  @PrimaryColumn('varchar', { length: 64 }) id: string;
  @Column('varchar', { length: 64 }) owner: string;
  @Column('varchar', { length: 255 }) name: string;
  @Column('json') made: PackMade;
  @CreateDateColumn(NOW) createdAt: Date;
}
/** The rows that came, and those that went on: from which version to which. */
export interface PackMade {
  presets: string[];
  setups: string[];
  sessions: string[];
  presetVersions: { id: string; from: number; to: number }[];
  setupVersions: { id: string; from: number; to: number }[];
  /** brought back from the trash */
  back: { kind: 'preset' | 'setup' | 'session'; id: string }[];
}

@Entity('drop_record')
@Index(['owner', 'session'])
@Index(['owner', 'preset'])
export class DropRecordRow {
  @PrimaryColumn('varchar', { length: 64 }) id: string;
  @Column('varchar', { length: 64 }) owner: string;
  @Column('varchar', { length: 64 }) session: string;
  @Column('varchar', { length: 64 }) preset: string;
  @Column('int') version: number;
  /** all of it, packed as steps are (migration 0023); JSON functions of the database don't read it */
  @Column({ type: 'longtext', default: '', ...AS_JSON }) record: object;
  /** the same without its long lists; both are written by `dropRecord` */
  @Column('json') summary: object;
  @CreateDateColumn(NOW) createdAt: Date;
}

/**
 * Which presets a session holds lines or pieces of, kept beside its document so that "who uses this" needs no
 * reading of documents.
 */
@Entity('session_use')
@Index('session_use_preset', ['preset'])
@Index(['owner', 'preset', 'version'])
export class SessionUseRow {
  @PrimaryColumn('varchar', { length: 64 }) session: string;
  @PrimaryColumn('varchar', { length: 64 }) preset: string;
  @PrimaryColumn('int') version: number;
  @Column('varchar', { length: 64 }) owner: string;
  /** lines and pieces of that version */
  @Column('int') places: number;
}

/**
 * What new devices of a type and new lines of a role begin with: “device:compressor” → its values,
 * “track:audio” → a preset; and searches of the shelf that are kept: “search:Folk voices” → what it is narrowed to.
 */
@Entity('default_setting')
export class DefaultRow {
  @PrimaryColumn('varchar', { length: 64 }) owner: string;
  @PrimaryColumn('varchar', { length: 64 }) name: string;
  @Column('json') value: object;
  @CreateDateColumn(NOW) createdAt: Date;
}

/** A studio of the owner; what it is, lies in its versions. */
@Entity('setup')
@Index('setup_listed', ['owner', 'deletedAt', 'name'])
export class SetupRow {
  @PrimaryColumn('varchar', { length: 64 }) id: string;
  @Column('varchar', { length: 64 }) owner: string;
  @Column('varchar', { length: 200 }) name: string;
  @Column('int') currentVersion: number;
  @Column('json') summary: object;
  @CreateDateColumn(NOW) createdAt: Date;
  @UpdateDateColumn({ ...NOW, onUpdate: 'CURRENT_TIMESTAMP(3)' }) updatedAt: Date;
  @Column('datetime', { precision: 3, nullable: true }) deletedAt: Date | null;
}

@Entity('setup_version')
export class SetupVersionRow {
  @PrimaryColumn('varchar', { length: 64 }) setup: string;
  @PrimaryColumn('int') version: number;
  @Column('varchar', { length: 64 }) owner: string;
  @Column('json', { select: false }) document: object;
  @CreateDateColumn(NOW) createdAt: Date;
}

/** A print on the server: what is asked, who is at it, what came. Its files lie in a folder beside the database. */
@Entity('job')
@Index('job_listed', ['owner', 'createdAt'])
@Index('job_next', ['state', 'createdAt'])
export class JobRow {
  @PrimaryColumn('varchar', { length: 64 }) id: string;
  @Column('varchar', { length: 64 }) owner: string;
  @Column('varchar', { length: 200 }) name: string;
  @Column('varchar', { length: 16 }) state: JobState;
  @Column('double', { default: 0 }) progress: number;
  @Column('text') message: string;
  @Column('json') songs: JobEntry['songs'];
  @Column('json', { nullable: true }) together: Together | null;
  /** the sessions as they were when the print was asked for, each with its plan */
  @Column('json', { select: false }) request: Session[];
  @Column('json', { select: false, nullable: true }) printed: PrintFiles[] | null;
  @Column('int', { default: 0 }) files: number;
  @Column('bigint', { ...BYTES, default: 0 }) bytes: number;
  /** how often it was begun, the process that prints it, and when that last said so */
  @Column('int', { default: 0 }) attempt: number;
  @Column('varchar', { length: 200, nullable: true }) worker: string | null;
  @Column('datetime', { precision: 3, nullable: true }) beatAt: Date | null;
  @CreateDateColumn(NOW) createdAt: Date;
  @Column('datetime', { precision: 3, nullable: true }) startedAt: Date | null;
  @Column('datetime', { precision: 3, nullable: true }) endedAt: Date | null;
}

/** What a version of a preset sounded like when it was saved. */
@Entity('fingerprint')
@Index('fingerprint_verdict', ['owner', 'verdict'])
export class FingerprintRow {
  @PrimaryColumn('varchar', { length: 64 }) preset: string;
  @PrimaryColumn('int') version: number;
  @Column('varchar', { length: 64 }) owner: string;
  /** null where it could not be rendered */
  @Column('simple-json', { nullable: true }) print: Fingerprint | null;
  /** how it sounds with the program that looked last; null as long as it is the one that made it */
  @Column('simple-json', { nullable: true }) likeness: Likeness | null;
  @Column('varchar', { length: 16, default: 'equal' }) verdict: Likeness['verdict'];
  /** the program that looked last */
  @Column('varchar', { length: 64, default: '' }) checked: string;
  @CreateDateColumn(NOW) madeAt: Date;
  @Column('datetime', { ...NOW }) checkedAt: Date;
}

export const ENTITIES = [
  UserRow,
  SignInRow,
  SignInTryRow,
  ShareRow,
  SessionRow,
  SessionRevisionRow,
  PresetRow,
  PresetVersionRow,
  TagRow,
  PresetCountRow,
  SearchWordRow,
  PresetWordRow,
  MediaRow,
  MediaHolderRow,
  MediaChunkRow,
  UploadRow,
  PackTakenRow,
  EventRow,
  DropRecordRow,
  SessionUseRow,
  DefaultRow,
  SetupRow,
  SetupVersionRow,
  JobRow,
  FingerprintRow,
];
