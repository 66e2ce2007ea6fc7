import { createRequire } from 'node:module';
import { join } from 'node:path';
import { parentPort, workerData } from 'node:worker_threads';
import {
  beExact,
  flacWith,
  gainFor,
  gainsTogether,
  levelOf,
  mediaIn,
  planPrint,
  printTakes,
  writeTakes,
  type FilesOptions,
  type FlacLibrary,
  type MakeFlac,
  type PrintFiles,
  type Session,
  type SongTakes,
  type Sound,
} from '../../core/index.ts';
import type { Together } from '../../contract/index.ts';
import { DiskStore, soundFrom } from './disk-store.ts';
import { stepBack } from './step-back.ts';

/** What a thread prints. The sounds lie in `sounds` in its folder, by their ids. */
export interface PrintTask {
  folder: string;
  songs: Session[];
  together: Together | null;
  /** ISO 8601 */
  at: string;
}
export type PrintAnswer = { progress: number } | { printed: PrintFiles[] } | { failed: string };

/** a quarter of what others get of a busy processor: whoever works at the program comes first, and a print still ends */
const PATIENT = 5;

/** The FLAC encoder, loaded when a plan asks for it. */
async function flacFor(songs: readonly Session[]): Promise<MakeFlac | undefined> {
  if (!songs.some((s) => s.print?.file.format === 'flac')) return undefined;
  const load = createRequire(join(process.cwd(), 'package.json'));
  return flacWith(load('libflacjs/dist/libflac.js') as FlacLibrary);
}

/** Every sound that a session plays, each read while it plays. */
function soundsOf(s: Session, folder: string): Map<string, Sound> {
  return new Map(
    [...mediaIn(s.tracks)].map((id) => [
      id,
      soundFrom(join(folder, 'sounds', id), s.sampleRate, join(folder, 'sounds', `${id}.${s.sampleRate}`)),
    ]),
  );
}

async function print({ folder, songs, together, at }: PrintTask): Promise<PrintFiles[]> {
  // the same sound as in a window
  beExact();
  const flac = await flacFor(songs);
  let told = 0;
  const options = (i: number): FilesOptions => ({
    sounds: soundsOf(songs[i], folder),
    store: new DiskStore(join(folder, String(i))),
    at: new Date(at),
    flac,
    onProgress: (share) => {
      const progress = (i + share) / songs.length;
      if (progress <= told) return;
      told = progress;
      parentPort!.postMessage({ progress } satisfies PrintAnswer);
    },
  });
  const takes: { song: SongTakes; o: FilesOptions }[] = [];
  const printed: PrintFiles[] = [];
  for (const [i, session] of songs.entries()) {
    const o = options(i);
    const song = await printTakes(session, session.print ?? planPrint(session), o);
    if (together) takes.push({ song, o });
    else {
      const { integrated, loudest } = levelOf(song);
      printed.push(await writeTakes(song, gainFor(song.plan.level, { integrated }, loudest), o));
    }
  }
  // how much each song is raised is known when all were heard
  const gains = together
    ? gainsTogether(
        takes.map((t) => levelOf(t.song)),
        together,
      )
    : [];
  for (const [i, { song, o }] of takes.entries()) printed.push(await writeTakes(song, gains[i], o));
  return printed;
}

/** Why it failed, in words. */
function reasonOf(e: NodeJS.ErrnoException): string {
  if (e.code === 'ENOSPC') return 'The disk is full. Make room on it, and print again.';
  return e.message;
}

if (parentPort) {
  stepBack(PATIENT);
  print(workerData as PrintTask).then(
    (printed) => parentPort!.postMessage({ printed } satisfies PrintAnswer),
    (e: Error) => parentPort!.postMessage({ failed: reasonOf(e) } satisfies PrintAnswer),
  );
}
