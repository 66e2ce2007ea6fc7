import { createRequire } from 'node:module';
import { join } from 'node:path';
import { parentPort } from 'node:worker_threads';
import { FormatError } from '../../core/formats/errors.ts';
import { readDawproject } from '../../core/formats/dawproject/read.ts';
import { writeDawproject, type DawWriteOptions } from '../../core/formats/dawproject/write.ts';
import { readWav } from '../../core/formats/wav.ts';
import { wholeOf } from "../../core/formats/bytes.ts";
import { recallDocument, type SheetDocument } from '../../core/formats/recall-document.ts';
import type { SheetFigure } from '../../core/formats/recall-sheet.ts';
import { devicesIn } from '../../core/session/slots.ts';
import type { Session } from '../../core/model/types.ts';

/** What is used of the page layout program. */
interface PageMaker {
  setUrlAccessPolicy(allows: (url: string) => boolean): void;
  addFonts(fonts: Record<string, { normal: string; bold: string }>): void;
  createPdf(document: SheetDocument): { getBuffer(): Promise<Uint8Array> };
}
const FONT = 'Sheet';

/** What is asked of a thread: a file to be read, or a session to be written as one. */
export type FileTask =
  | { op: 'read'; bytes: Uint8Array; name: string }
  | { op: 'sound'; bytes: Uint8Array; name: string }
  | { op: 'write'; session: Session; options: DawWriteOptions }
  | { op: 'sheet'; session: Session; figures: SheetFigure[] };

/** What an imported file holds, without its tree. */
export interface FileRead {
  session: Session;
  /** WAV bytes by media id */
  media: Map<string, Uint8Array>;
  /** opaque states of devices: where they lie in the file, and their bytes */
  states: { path: string; bytes: Uint8Array }[];
  notes: string[];
}
export interface FileWritten {
  bytes: Uint8Array;
  notes: string[];
}
/** What is kept of a sound beside its bytes. */
export interface SoundRead {
  sampleRate: number;
  channels: 1 | 2;
  frames: number;
}
export type FileResult = FileRead | FileWritten | SoundRead | Uint8Array;
export type FileAnswer =
  { result: FileResult } | { wrong: { file: string; place: string; what: string } } | { error: string };

/** Reads a sound to its last sample, so that a broken one never gets in. */
export function soundRead(bytes: Uint8Array, name: string): SoundRead {
  const { sampleRate, channels } = readWav(bytes, name);
  return { sampleRate, channels: channels.length === 1 ? 1 : 2, frames: channels[0].length };
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

async function carryOut(task: FileTask): Promise<FileResult> {
  if (task.op === 'sheet') return sheetPages(task.session, task.figures);
  if (task.op === 'sound') return soundRead(task.bytes, task.name);
  if (task.op === 'write') return writeDawproject(task.session, task.options);
  const { session, media, source, notes } = readDawproject(task.bytes, task.name);
  const paths = session.tracks
    .flatMap((t) => devicesIn(t.chain))
    .flatMap((d) => d.foreign?.state?.path ?? []);
  const states = paths.map((path) => ({ path, bytes: wholeOf(source.archive.entries[path]) }));
  return { session, media, states, notes };
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
