import { hashOf, sha256Hex } from '../model/json.ts';
import type { Studio } from '../model/hardware.ts';
import type { Id, Preset, Session } from '../model/types.ts';
import { validatePreset } from '../session/validate-preset.ts';
import { validateSession, validateStudio } from '../session/validate/index.ts';
import { inMemory, sha256Of, wholeOf, type ByteSource, type Hash } from './bytes.ts';
import { FormatError } from './errors.ts';
import {
  noEntries,
  openArchive,
  ZIP_LIMITS,
  type Contents,
  type OpenOptions,
  type ZipLimits,
} from './zip.ts';
import { collected, packZip, type Sink } from './zip-write.ts';

/** What a pack is called when it is read: the first thing that tells it from other archives. */
export const PACK_FORMAT = 'rope-shelf/pack';
/** The program that writes packs of this version reads all up to it. */
export const PACK_VERSION = 1;
/** What stands in a pack about itself. */
const ABOUT = 'pack.json';

/** A preset or a studio of a pack, as it stood on the shelf of whoever made it. */
export interface PackLine {
  id: Id;
  name: string;
  /** content hashes of all versions, the first one first, those included that did not come along */
  hashes: string[];
  /** of presets: what belongs to the shelf and not to a version */
  shelf?: { category: string; tags: string[]; pinned: boolean; lastUsedAt: string | null };
}
/** A session of a pack. */
export interface PackSessionLine {
  id: Id;
  name: string;
  folder: string;
  /** of a backup: how many changes it had seen */
  revision?: number;
}
export interface PackAbout {
  format: typeof PACK_FORMAT;
  version: number;
  /** ISO 8601 */
  madeAt: string;
  /** the program that made it */
  madeBy: string;
  presets: PackLine[];
  setups: PackLine[];
  sessions: PackSessionLine[];
  /** of a backup: what new devices, lines and sessions begin with */
  defaults?: Record<string, unknown>;
  /** SHA-256 of every other file of the pack */
  files: Record<string, string>;
}
/** One document of a pack. */
export type PackDocument =
  | { kind: 'preset'; document: Preset }
  | { kind: 'setup'; document: Studio }
  | { kind: 'session'; id: Id; document: Session };

/** Where a document stands in a pack. */
export function pathOf(d: PackDocument): string {
  if (d.kind === 'session') return `sessions/${d.id}.json`;
  return `${d.kind}s/${d.document.id}/${d.document.version}.json`;
}
/** Sounds, states of others' devices, and files that sessions were imported from: by their SHA-256. */
export type PackedFileKind = 'wav' | 'state' | 'dawproject';
const FOLDERS: Record<PackedFileKind, [folder: string, end: string]> = {
  wav: ['media', '.wav'],
  state: ['states', ''],
  dawproject: ['sources', '.dawproject'],
};
/** Rows of a backup that belong to a session: a line of JSON each. */
export type PackedRows = 'history' | 'drops';
export const pathOfRows = (kind: PackedRows, session: Id): string => `${kind}/${session}.jsonl`;
export const pathOfFile = (kind: PackedFileKind, id: string): string =>
  `${FOLDERS[kind][0]}/${id}${FOLDERS[kind][1]}`;

/** A file on its way into a pack. */
export interface PackFile {
  path: string;
  data: ByteSource;
  sha256: string;
}

/** The content hash of a studio: its version is no part of what it is. */
export const studioHash = (s: Studio): string => hashOf({ ...s, version: 0 });

const utf8 = (text: string) => new TextEncoder().encode(text);

/** A document as a file of a pack: JSON that people can read. */
export function fileOf(d: PackDocument): PackFile {
  const bytes = utf8(JSON.stringify(d.document, null, 1));
  return { path: pathOf(d), data: inMemory(bytes), sha256: sha256Hex(bytes) };
}

/** Writes a pack, a stretch at a time: what it says of itself first, then its files in their order. */
export function packInto(about: Omit<PackAbout, 'files'>, files: readonly PackFile[], sink: Sink): void {
  const entries: Contents = noEntries();
  const list = Object.fromEntries(files.map((f) => [f.path, f.sha256]));
  entries[ABOUT] = inMemory(utf8(JSON.stringify({ ...about, files: list } satisfies PackAbout, null, 1)));
  for (const { path, data } of files) entries[path] = data;
  packZip(entries, sink);
}

/** What a pack is made of in memory. */
export interface PackContents {
  /** versions that go along, in any order */
  presets: Preset[];
  setups: Studio[];
  sessions: { id: Id; session: Session }[];
  /** WAV files by their SHA-256 */
  media: Map<string, Uint8Array>;
  /** states of others' devices by their SHA-256 */
  states: Map<string, Uint8Array>;
}
export interface PackRead extends PackContents {
  about: PackAbout;
  /** what a person should know about what was read */
  notes: string[];
}

/** What is said of documents that are there in full. */
function linesOf<T extends Preset | Studio>(
  all: readonly T[],
  hash: (one: T) => string,
  shelf: boolean,
): PackLine[] {
  const byId = new Map<Id, T[]>();
  for (const one of all) byId.set(one.id, [...(byId.get(one.id) ?? []), one]);
  return [...byId.values()].map((versions) => {
    const sorted = versions.toSorted((a, b) => a.version - b.version);
    const last = sorted.at(-1)!;
    const { category = '', tags = [] } = last as Partial<Preset>;
    return {
      id: last.id,
      name: last.name,
      hashes: sorted.map(hash),
      ...(shelf ? { shelf: { category, tags, pinned: false, lastUsedAt: null } } : {}),
    };
  });
}

/**
 * Writes a pack (`*.ropeshelf.zip`): presets, setups of studios and sessions with their sounds, each readable by
 * itself, with a list of SHA-256 sums. The same contents and date give the same bytes.
 * @param o.madeAt ISO 8601
 */
export function writePack(
  contents: Partial<PackContents>,
  o: { madeAt?: string; madeBy?: string } = {},
): Uint8Array {
  const { presets = [], setups = [], sessions = [], media, states } = contents;
  const documents: PackDocument[] = [
    ...presets.map((document) => ({ kind: 'preset' as const, document })),
    ...setups.map((document) => ({ kind: 'setup' as const, document })),
    ...sessions.map(({ id, session }) => ({ kind: 'session' as const, id, document: session })),
  ];
  const binary = (kind: PackedFileKind, files: Map<string, Uint8Array> = new Map()): PackFile[] =>
    [...files].map(([sha256, bytes]) => ({ path: pathOfFile(kind, sha256), data: inMemory(bytes), sha256 }));
  const about = {
    format: PACK_FORMAT,
    version: PACK_VERSION,
    madeAt: o.madeAt ?? new Date().toISOString(),
    madeBy: o.madeBy ?? 'Rope Shelf',
    presets: linesOf(presets, (p) => p.hash, true),
    setups: linesOf(setups, studioHash, false),
    sessions: sessions.map(({ id, session }) => ({ id, name: session.name, folder: '' })),
  } as const;
  const files = [...documents.map(fileOf), ...binary('wav', media), ...binary('state', states)];
  return collected((sink) => packInto(about, files, sink));
}

/** Packs hold many small files. */
export const PACK_LIMITS: ZipLimits = { ...ZIP_LIMITS, entries: 1_000_000 };

/** Reads a pack. What is damaged, cut short, too large or not sound ends in a FormatError that names the place. */
export function readPack(bytes: Uint8Array, name = 'pack', limits: ZipLimits = PACK_LIMITS): PackRead {
  const reader = openPack(inMemory(bytes), name, { limits });
  const read: PackRead = {
    about: reader.about,
    presets: [],
    setups: [],
    sessions: [],
    media: new Map(),
    states: new Map(),
    notes: [],
  };
  for (const { document: d } of reader.documents()) {
    if (d.kind === 'preset') read.presets.push(d.document);
    else if (d.kind === 'setup') read.setups.push(d.document);
    else read.sessions.push({ id: d.id, session: d.document });
  }
  for (const f of reader.files) {
    const into = f.kind === 'wav' ? read.media : read.states;
    if (f.kind !== 'dawproject') into.set(f.sha256, wholeOf(f.data).slice());
  }
  read.notes.push(...reader.notes());
  return read;
}

/** A pack, or one preset as JSON, wherever it lies: looked at first, read one document after the other. */
export function openPack(
  source: ByteSource,
  name: string,
  options: OpenOptions & { makeHash?: () => Hash } = {},
): PackReader {
  const first = new TextDecoder().decode(source.read(0, 64)).trimStart();
  return first.startsWith('{')
    ? new PackReader(name, presetAlone(source, name), options)
    : zipped(source, name, options);
}
const zipped = (source: ByteSource, name: string, options: OpenOptions & { makeHash?: () => Hash }) =>
  // every file has its SHA-256 beside it: what a ZIP says of its own is not needed
  new PackReader(
    name,
    openArchive(source, name, { limits: PACK_LIMITS, ...options, trusted: true }).entries,
    options,
  );

/** The longest document that is read. */
const LONGEST = 64 * 1024 * 1024;

/** One preset that travels by itself, as the pack that it is. */
function presetAlone(source: ByteSource, name: string): Contents {
  const preset = parsed(source, name, '') as Preset;
  const wrong = validatePreset(preset);
  if (wrong.length) throw new FormatError(name, wrong[0].path, wrong[0].message);
  const bytes = writePack({ presets: [preset] }, { madeAt: '' });
  return openArchive(inMemory(bytes), name).entries;
}
function parsed(source: ByteSource, file: string, place: string): unknown {
  if (source.size > LONGEST) throw new FormatError(file, place, 'it is longer than 64 MB; it was not read.');
  try {
    return JSON.parse(new TextDecoder('utf-8', { fatal: true }).decode(wholeOf(source)));
  } catch {
    throw new FormatError(file, place, 'it is not readable JSON. Make the pack again.');
  }
}

/** A pack that is open. */
export class PackReader {
  readonly about: PackAbout;
  /** sounds, states and imported files, whose contents are what their names say */
  readonly files: { kind: PackedFileKind; sha256: string; path: string; data: ByteSource }[] = [];
  private readonly wanted = new Set<string>();
  private readonly newest = new Map<string, { version: number; hash: string }>();

  constructor(
    private readonly name: string,
    private readonly entries: Contents,
    private readonly options: { makeHash?: () => Hash },
  ) {
    const about = entries[ABOUT];
    if (!about) {
      throw new FormatError(name, '', `there is no ${ABOUT} in it, so it is not a pack of this program.`);
    }
    this.about = this.known(parsed(about, name, ABOUT));
    for (const path of Object.keys(entries)) if (path !== ABOUT) this.look(path);
    for (const path of Object.keys(this.about.files)) {
      if (!entries[path]) throw new FormatError(name, path, 'it is missing. Make the pack again.');
    }
  }

  /** What a pack says of itself, as far as it can be read here. */
  private known(value: unknown): PackAbout {
    const about = value as PackAbout;
    const isPack = about !== null && typeof about === 'object' && about.format === PACK_FORMAT;
    if (!isPack) throw new FormatError(this.name, ABOUT, 'it is not a pack of this program.');
    if (!(about.version <= PACK_VERSION)) {
      const what = `it was made by a newer version of the program (pack version ${String(about.version).slice(0, 20)}).`;
      throw new FormatError(this.name, ABOUT, `${what} Update this one, and read it again.`);
    }
    const isText = (...all: unknown[]) => all.every((x) => typeof x === 'string' && x.length <= 1000);
    const isLine = (l: PackLine) => isText(l?.id, l?.name) && Array.isArray(l.hashes) && isText(...l.hashes);
    const isWhole =
      isText(about.madeAt, about.madeBy) &&
      [about.presets, about.setups, about.sessions].every(Array.isArray) &&
      [...about.presets, ...about.setups].every(isLine) &&
      about.presets.every((l) => isShelf(l.shelf)) &&
      about.sessions.every((s) => isText(s?.id, s?.name, s?.folder)) &&
      typeof about.files === 'object' &&
      about.files !== null &&
      isText(...Object.values(about.files));
    if (!isWhole) {
      throw new FormatError(this.name, ABOUT, 'what it says of itself is damaged. Make the pack again.');
    }
    return about;
  }

  private look(path: string): void {
    const sum = Object.hasOwn(this.about.files, path) ? this.about.files[path] : null;
    if (sum === null) {
      throw new FormatError(this.name, path, 'it is not in the list of the pack. Make the pack again.');
    }
    for (const [kind, [folder, end]] of Object.entries(FOLDERS) as [PackedFileKind, [string, string]][]) {
      const isHere = path.startsWith(`${folder}/`) && path.endsWith(end);
      if (!isHere) continue;
      const data = this.entries[path];
      if (path !== pathOfFile(kind, sum) || sha256Of(data, this.options.makeHash) !== sum) {
        throw this.damaged(path);
      }
      this.files.push({ kind, sha256: sum, path, data });
      return;
    }
    if (!/^(presets|setups|sessions|history|drops)\//.test(path)) {
      throw new FormatError(this.name, path, 'nothing of this program is called that. Make the pack again.');
    }
  }
  private damaged(path: string): FormatError {
    return new FormatError(
      this.name,
      path,
      'its content is not what the list says (SHA-256). Make the pack again.',
    );
  }

  /** Every document with its bytes, checked as it is read. */
  *documents(): Generator<{ document: PackDocument; path: string; bytes: ByteSource }> {
    for (const path of Object.keys(this.about.files)) {
      const [, folder] = /^(presets|setups|sessions)\//.exec(path) ?? [];
      if (!folder) continue;
      const entry = this.entries[path];
      if (entry.size > LONGEST) {
        throw new FormatError(this.name, path, 'it is longer than 64 MB; it was not read.');
      }
      const bytes = inMemory(wholeOf(entry));
      if (sha256Of(bytes) !== this.about.files[path]) throw this.damaged(path);
      const document = this.checked(path, folder, parsed(bytes, this.name, path));
      this.note(document);
      yield { document, path, bytes };
    }
    this.compare();
  }
  /** The newest version of each preset and studio that was read, and the sessions. */
  private note(d: PackDocument): void {
    if (d.kind === 'session') this.newest.set(`session/${d.id}`, { version: 1, hash: '' });
    else {
      const key = `${d.kind}/${d.document.id}`;
      const { version } = d.document;
      const hash = d.kind === 'preset' ? d.document.hash : studioHash(d.document);
      if (version >= (this.newest.get(key)?.version ?? 0)) this.newest.set(key, { version, hash });
    }
  }
  /** What a pack says that it holds must be there, and end as it says. */
  private compare(): void {
    const { presets, setups, sessions } = this.about;
    const said = [
      ...presets.map((l) => [`preset/${l.id}`, l.hashes.at(-1), l.name] as const),
      ...setups.map((l) => [`setup/${l.id}`, l.hashes.at(-1), l.name] as const),
      ...sessions.map((s) => [`session/${s.id}`, '', s.name] as const),
    ];
    for (const [key, hash, name] of said) {
      if (this.newest.get(key)?.hash === hash) continue;
      const what = `it says that it holds “${name.slice(0, 100)}”, and what is there is another or missing.`;
      throw new FormatError(this.name, ABOUT, `${what} Make the pack again.`);
    }
  }
  /** The rows of a session in a backup; none where it has none. */
  *rows(kind: PackedRows, session: Id): Generator<unknown> {
    const path = pathOfRows(kind, session);
    const entry = Object.hasOwn(this.about.files, path) ? this.entries[path] : null;
    if (!entry) return;
    const bytes = wholeOf(entry);
    if (sha256Of(inMemory(bytes)) !== this.about.files[path]) throw this.damaged(path);
    for (const line of new TextDecoder().decode(bytes).split('\n')) {
      if (line) yield parsed(inMemory(utf8(line)), this.name, path);
    }
  }
  private checked(path: string, folder: string, value: unknown): PackDocument {
    const [wrong] = problemsOf(folder, value);
    if (wrong) throw new FormatError(this.name, path, `${wrong.path || 'it'}: ${wrong.message}`);
    const document = documentOf(path, folder, value);
    const lines = { preset: this.about.presets, setup: this.about.setups, session: this.about.sessions };
    const id = document.kind === 'session' ? document.id : document.document.id;
    const line = (lines[document.kind] as { id: Id }[]).find((l) => l.id === id);
    if (pathOf(document) !== path || !line || !/^[\w.-]{1,64}$/.test(id)) {
      throw new FormatError(this.name, path, 'its name is not that of what it holds. Make the pack again.');
    }
    const media = document.kind === 'preset' ? document.document.content.media : document.document;
    for (const m of Array.isArray(media) ? media : mediaOf(document)) this.wanted.add(m.id);
    return document;
  }
  /** What a person should know, when all documents were read. */
  notes(): string[] {
    const there = new Set(this.files.map((f) => f.sha256));
    const missing = [...this.wanted].filter((id) => !there.has(id)).length;
    if (!missing) return [];
    const sounds = missing === 1 ? 'One sound is' : `${missing} sounds are`;
    return [`${sounds} not in the pack: what plays them is silent unless they are here already.`];
  }
}

const mediaOf = (d: PackDocument) => (d.kind === 'session' ? d.document.media : []);

function isShelf(shelf: PackLine['shelf']): boolean {
  if (shelf === undefined) return true;
  const { category, tags, pinned, lastUsedAt } = shelf ?? {};
  const isDate =
    lastUsedAt === null || (typeof lastUsedAt === 'string' && !Number.isNaN(Date.parse(lastUsedAt)));
  const areTags = Array.isArray(tags) && tags.every((t) => typeof t === 'string' && t.length <= 60);
  return typeof category === 'string' && areTags && typeof pinned === 'boolean' && isDate;
}

function problemsOf(folder: string, value: unknown): { path: string; message: string }[] {
  try {
    if (folder === 'presets') return validatePreset(value);
    return folder === 'setups' ? validateStudio(value as Studio) : validateSession(value as Session);
  } catch {
    return [{ path: '', message: 'it is not what its place says.' }];
  }
}
function documentOf(path: string, folder: string, value: unknown): PackDocument {
  if (folder === 'presets') return { kind: 'preset', document: value as Preset };
  if (folder === 'setups') return { kind: 'setup', document: value as Studio };
  const id = path.slice('sessions/'.length, -'.json'.length);
  return { kind: 'session', id, document: value as Session };
}
