import { Worker } from 'node:worker_threads';
import { FormatError, type Session, type SheetFigure } from '../../core/index.ts';
import type { ZipLimits } from '../../core/formats/zip.ts';
import type {
  FileAnswer,
  FileRead,
  FileResult,
  FileTask,
  FileWritten,
  SoundFileRead,
  WriteTask,
} from './files.worker.ts';
import type { PackTask, Unpacked } from './packing.ts';
import { builtFile } from './built.ts';

/**
 * What one file may take at most: threads at once, seconds, and one more for so many bytes of sound, MB of the thread's
 * own memory.
 */
const LIMITS = { threads: 2, seconds: 60, bytesASecond: 10e6, memory: 2048 };

let busy = 0;
const waiting: (() => void)[] = [];

/** One of few threads; the others wait. */
async function turn(): Promise<void> {
  if (busy >= LIMITS.threads) await new Promise<void>((go) => waiting.push(go));
  busy++;
}
function done(): void {
  busy--;
  waiting.shift()?.();
}

/**
 * Reads or writes a file in a thread of its own, so that nobody else waits for it.
 * @throws FormatError when the file is at fault, or takes longer or more memory than a file may
 */
async function inThread(task: FileTask, file: string, size = 0): Promise<FileResult> {
  const seconds = Math.round(LIMITS.seconds + size / LIMITS.bytesASecond);
  await turn();
  const worker = new Worker(builtFile('work/files.worker.js'), {
    resourceLimits: { maxOldGenerationSizeMb: LIMITS.memory },
  });
  const timer = setTimeout(() => void worker.terminate(), seconds * 1000);
  try {
    const answer = await new Promise<FileAnswer>((resolve, reject) => {
      worker.once('message', resolve);
      worker.once('error', (e: NodeJS.ErrnoException) =>
        reject(
          e.code === 'ERR_WORKER_OUT_OF_MEMORY'
            ? new FormatError(file, '', 'it takes more memory than a file may. Split it.')
            : e,
        ),
      );
      worker.once('exit', () =>
        reject(new FormatError(file, '', `it takes longer than ${seconds} seconds. Split it and try again.`)),
      );
      worker.postMessage(task);
    });
    if ('wrong' in answer) throw new FormatError(answer.wrong.file, answer.wrong.place, answer.wrong.what);
    if ('error' in answer) throw new Error(answer.error);
    return answer.result;
  } finally {
    clearTimeout(timer);
    await worker.terminate();
    done();
  }
}

/** A file on the disk, and what it is called. */
interface NamedFile {
  path: string;
  name: string;
  size: number;
}

/** What a WAV file holds. */
export const readSound = ({ path, name, size }: NamedFile): Promise<SoundFileRead> =>
  inThread({ op: 'sound', path, name }, name, size) as Promise<SoundFileRead>;
/** What a DAWproject file holds. @param folder for what is unpacked of it */
export const readFile = (
  { path, name, size }: NamedFile,
  folder: string,
  limits: ZipLimits,
): Promise<FileRead> => inThread({ op: 'read', path, name, folder, limits }, name, size) as Promise<FileRead>;
/** A session as a DAWproject file. @param size bytes of its sounds */
export const writeFile = (
  session: Session,
  parts: Omit<WriteTask, 'op' | 'session'>,
  size: number,
): Promise<FileWritten> =>
  inThread({ op: 'write', session, ...parts }, session.name, size) as Promise<FileWritten>;
/** A pack of what lies on the disk. @param size bytes of its sounds */
export const writePack = (task: Omit<PackTask, 'op'>, name: string, size: number): Promise<FileWritten> =>
  inThread({ op: 'pack', ...task }, name, size) as Promise<FileWritten>;
/** A pack of the demo. */
export const writeDemo = (to: string): Promise<FileWritten> =>
  inThread({ op: 'demo', to }, 'the demo') as Promise<FileWritten>;
/** What a pack holds. @param folder for its documents */
export const readPack = (
  { path, name, size }: NamedFile,
  folder: string,
  limits: ZipLimits,
): Promise<Unpacked> =>
  inThread({ op: 'unpack', path, name, folder, limits }, name, size) as Promise<Unpacked>;
/** A session's recall sheet as PDF. */
export const writeSheet = (session: Session, figures: SheetFigure[]): Promise<Uint8Array> =>
  inThread({ op: 'sheet', session, figures }, session.name) as Promise<Uint8Array>;
