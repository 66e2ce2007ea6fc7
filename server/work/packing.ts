import { join } from 'node:path';
import { partOf, type Hash } from '../../core/formats/bytes.ts';
import { FormatError } from '../../core/formats/errors.ts';
import {
  openPack,
  packInto,
  pathOfFile,
  writePack,
  type PackAbout,
  type PackDocument,
  type PackFile,
  type PackedFileKind,
  type PackedRows,
} from '../../core/formats/pack.ts';
import { makeDemo } from '../../demo/index.ts';
import type { ZipLimits } from '../../core/formats/zip.ts';
import { OpenFile, type Place } from './open-file.ts';
import { soundRead, type SoundRead } from './sound-read.ts';

/** A document that lies in a file with others, on its way into a pack. */
export interface LyingDocument {
  path: string;
  at: number;
  size: number;
  sha256: string;
}
export interface PackTask {
  op: 'pack';
  about: Omit<PackAbout, 'files'>;
  documents: LyingDocument[];
  /** the file that they lie in */
  documentsFile: string;
  files: { kind: PackedFileKind; id: string; path: string }[];
  to: string;
}

/** A document of a pack, as it lies in a file with the others when it was checked. */
export interface UnpackedDocument {
  kind: PackDocument['kind'];
  id: string;
  /** of presets and studios */
  version: number;
  place: Place;
}
export interface UnpackedFile {
  kind: PackedFileKind;
  id: string;
  place: Place;
  sound: SoundRead | null;
}
/** What a pack holds, on the disk. */
export interface Unpacked {
  about: PackAbout;
  documents: UnpackedDocument[];
  files: UnpackedFile[];
  /** rows of sessions in a backup, each session's as lines of JSON */
  rows: { kind: PackedRows; session: string; place: Place }[];
  notes: string[];
  /** ids that became others, because another account has them (`withOwnIds`) */
  moved?: ReadonlyMap<string, string>;
}

/** Writes a pack of documents and files that lie on the disk. */
export function pack({ about, documents, documentsFile, files, to }: PackTask): { notes: string[] } {
  const from = new OpenFile(documentsFile, 'r');
  const lying = documents.map(({ path, at, size, sha256 }): PackFile => ({
    path,
    sha256,
    data: partOf(from, at, size),
  }));
  const binary = files.map(({ kind, id, path }): PackFile => ({
    path: pathOfFile(kind, id),
    sha256: id,
    data: new OpenFile(path, 'r'),
  }));
  const out = new OpenFile(to, 'w+');
  packInto(about, [...lying, ...binary], (bytes) => out.write(bytes));
  out.close();
  return { notes: [] };
}

/** Writes a pack of the demo: presets, studios and sessions with their sounds, which are made for it. */
export function packDemo(to: string): { notes: string[] } {
  const { presets, studios, sessions, faulty } = makeDemo();
  const all = [...sessions, faulty];
  const bytes = writePack({
    presets,
    setups: studios,
    sessions: all.map(({ id, session }) => ({ id, session })),
    media: new Map(all.flatMap((s) => [...s.media])),
  });
  const out = new OpenFile(to, 'w+');
  out.write(bytes);
  out.close();
  return { notes: [] };
}

/** Reads a pack to its end, and lays what it holds beside it. */
export function unpack(
  { path, name, folder, limits }: { path: string; name: string; folder: string; limits: ZipLimits },
  makeHash: () => Hash,
): Unpacked {
  const reader = openPack(new OpenFile(path, 'r'), name, { limits, makeHash });
  const out = new OpenFile(join(folder, 'documents'), 'w+');
  let at = 0;
  const lay = (bytes: Uint8Array): Place => {
    out.write(bytes);
    at += bytes.length;
    return { path: out.path, at: at - bytes.length, size: bytes.length };
  };
  const documents: UnpackedDocument[] = [];
  for (const { document: d, bytes } of reader.documents()) {
    const place = lay(bytes.read(0, bytes.size));
    const id = d.kind === 'session' ? d.id : d.document.id;
    documents.push({ kind: d.kind, id, version: d.kind === 'session' ? 1 : d.document.version, place });
  }
  const rows: Unpacked['rows'] = [];
  for (const { id } of reader.about.sessions) {
    for (const kind of ['history', 'drops'] as const) {
      const lines = [...reader.rows(kind, id)].map((row) => `${JSON.stringify(row)}\n`).join('');
      if (lines) rows.push({ kind, session: id, place: lay(new TextEncoder().encode(lines)) });
    }
  }
  const files = reader.files.map(({ kind, sha256: id, path: entry, data }): UnpackedFile => {
    const sound = kind === 'wav' ? soundRead(data, entry) : null;
    if (!data.place && data.size > 256 * 1024 * 1024) {
      throw new FormatError(name, entry, 'it is packed, and too long to be unpacked. Make the pack again.');
    }
    return {
      kind,
      id,
      place: data.place ? { ...data.place, size: data.size } : lay(data.read(0, data.size)),
      sound,
    };
  });
  out.close();
  return { about: reader.about, documents, files, rows, notes: reader.notes() };
}
