import { createHash } from 'node:crypto';
import { createRequire } from 'node:module';
import { join } from 'node:path';
import { parentPort } from 'node:worker_threads';
import { sha256Of, wholeOf, type ByteSource, type Hash } from '../../core/formats/bytes.ts';
import { FormatError } from '../../core/formats/errors.ts';
import { openDawproject, type DawOpenOptions, type DawOpened } from '../../core/formats/dawproject/read.ts';
import { packDawproject } from '../../core/formats/dawproject/write.ts';
import { recallDocument, type SheetDocument } from '../../core/formats/recall-document.ts';
import type { SheetFigure } from '../../core/formats/recall-sheet.ts';
import type { ZipLimits } from '../../core/formats/zip.ts';
import { devicesIn } from '../../core/session/slots.ts';
import type { MediaRef, Session } from '../../core/model/types.ts';
import { pack, packDemo, unpack, type PackTask, type Unpacked } from './packing.ts';
import { OpenFile, type Place } from './open-file.ts';
import { soundRead, type SoundRead } from './sound-read.ts';

/** What is used of the page layout program. */
interface PageMaker {
  setUrlAccessPolicy(allows: (url: string) => boolean): void;
  addFonts(fonts: Record<string, { normal: string; bold: string }>): void;
  createPdf(document: SheetDocument): { getBuffer(): Promise<Uint8Array> };
}
const FONT = 'Sheet';

/** An imported file on the disk; `sounds` as they were when it was read whole. */
export interface SourceFile {
  path: string;
  sounds: Record<string, MediaRef> | null;
}
export interface WriteTask {
  op: 'write';
  session: Session;
  source: SourceFile | null;
  /** the file of each sound by its id; the empty text where only what would be said is wanted */
  sounds: Map<string, string>;
  states: Map<string, Uint8Array>;
  /** the file that is written; null to hear only what it would not hold */
  to: string | null;
}
/** What is asked of a thread: a file to be read, or a session to be written as one. */
export type FileTask =
  | { op: 'read'; path: string; name: string; folder: string; limits: ZipLimits }
  | { op: 'sound'; path: string; name: string }
  | WriteTask
  | PackTask
  | { op: 'demo'; to: string }
  | { op: 'unpack'; path: string; name: string; folder: string; limits: ZipLimits }
  | { op: 'sheet'; session: Session; figures: SheetFigure[] };

/** What an imported file holds. */
export interface FileRead {
  /** SHA-256 of the file */
  sha256: string;
  session: Session;
  /** where the bytes of each sound lie, by its id */
  media: Map<string, Place>;
  /** the sounds by their entries */
  sounds: Record<string, MediaRef>;
  /** opaque states of devices: where they lie in the file, and their bytes */
  states: { path: string; bytes: Uint8Array }[];
  notes: string[];
}
export interface FileWritten {
  notes: string[];
}
export interface SoundFileRead extends SoundRead {
  sha256: string;
}
export type FileResult = Unpacked | FileRead | FileWritten | SoundFileRead | Uint8Array;
export type FileAnswer =
  { result: FileResult } | { wrong: { file: string; place: string; what: string } } | { error: string };

/** Node's own SHA-256, which is several times as fast as one in script. */
function nativeHash(): Hash {
  const hash = createHash('sha256');
  return { update: (bytes) => void hash.update(bytes), hex: () => hash.digest('hex') };
}

/** A recall sheet as PDF, with its font in it. */
async function sheetPages(session: Session, figures: SheetFigure[]): Promise<Uint8Array> {
  const load = createRequire(join(process.cwd(), 'package.json'));
  const pdfmake = load('pdfmake') as PageMaker;
  // it fetches nothing from anywhere
  pdfmake.setUrlAccessPolicy(() => false);
  const font = (name: string) => load.resolve(`dejavu-fonts-ttf/ttf/${name}.ttf`);
  pdfmake.addFonts({ [FONT]: { normal: font('DejaVuSans'), bold: font('DejaVuSans-Bold') } });
  return pdfmake.createPdf(recallDocument(session, figures, FONT)).getBuffer();
}

/** What is known of the sounds of a file that was read, by their entries. */
function soundsOf({ session, source }: Pick<DawOpened, 'session' | 'source'>): Record<string, MediaRef> {
  const refs = new Map(session.media.map((m) => [m.id, m]));
  return Object.fromEntries(
    [...source.paths].flatMap(([id, path]) => (refs.has(id) ? [[path, refs.get(id)!]] : [])),
  );
}

/** Where a sound lies; one that was unpacked in memory is written into the folder. */
function placeOf(source: ByteSource, path: string): Place {
  if (source.place) return { ...source.place, size: source.size };
  const file = new OpenFile(path, 'w+');
  file.write(wholeOf(source));
  file.close();
  return { path, at: 0, size: source.size };
}

function read({ path, name, folder, limits }: FileTask & { op: 'read' }): FileRead {
  const file = new OpenFile(path, 'r');
  let unpacked = 0;
  const opened = openDawproject(file, name, {
    limits,
    scratch: () => new OpenFile(join(folder, `unpacked-${unpacked++}`), 'w+'),
    makeHash: nativeHash,
  });
  const { session, media, source, notes } = opened;
  const paths = session.tracks
    .flatMap((t) => devicesIn(t.chain))
    .flatMap((d) => d.foreign?.state?.path ?? []);
  return {
    sha256: sha256Of(file, nativeHash),
    session,
    media: new Map([...media].map(([id, sound]) => [id, placeOf(sound, join(folder, id))])),
    sounds: soundsOf(opened),
    states: paths.map((at) => ({ path: at, bytes: wholeOf(source.archive.entries[at]) })),
    notes,
  };
}

function write({ session, source, sounds, states, to }: WriteTask): FileWritten {
  const file = source ? new OpenFile(source.path, 'r') : null;
  const opening: DawOpenOptions = source?.sounds
    ? { trusted: true, known: new Map(Object.entries(source.sounds)), makeHash: nativeHash }
    : { makeHash: nativeHash };
  const media = new Map<string, ByteSource>();
  for (const [id, path] of sounds) media.set(id, path ? new OpenFile(path, 'r') : NOTHING);
  const project = packDawproject(session, { ...(file ? { source: file } : {}), opening, media, states });
  if (to) {
    const out = new OpenFile(to, 'w+');
    project.write((bytes) => out.write(bytes));
    out.close();
  }
  return { notes: project.notes };
}
const NOTHING: ByteSource = { size: 0, read: () => new Uint8Array(0) };

async function carryOut(task: FileTask): Promise<FileResult> {
  if (task.op === 'sheet') return sheetPages(task.session, task.figures);
  if (task.op === 'write') return write(task);
  if (task.op === 'pack') return pack(task);
  if (task.op === 'demo') return packDemo(task.to);
  if (task.op === 'unpack') return unpack(task, nativeHash);
  if (task.op === 'read') return read(task);
  const file = new OpenFile(task.path, 'r');
  return { ...soundRead(file, task.name), sha256: sha256Of(file, nativeHash) };
}

parentPort?.on('message', async (task: FileTask) => {
  const answer = (a: FileAnswer) => parentPort!.postMessage(a);
  try {
    answer({ result: await carryOut(task) });
  } catch (e) {
    if (e instanceof FormatError) answer({ wrong: { file: e.file, place: e.place, what: e.what } });
    else answer({ error: (e as Error).message });
  }
});
