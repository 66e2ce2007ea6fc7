import type {
  Device,
  Finding,
  EvenRow,
  FitPlan,
  Id,
  Levels,
  LineReference,
  Loudness,
  Measured,
  PrintPlan,
  PrintedLine,
  Session,
  Sound,
  SoundFigures,
  TapResult,
  Taken,
  NullResult,
} from '../../core/index.ts';
import RenderWorker from './render.worker.ts?worker';
import { isCancelled, type Running } from './running.ts';
import type { Job, LoopNow, Match, PrintMade } from './messages.ts';

export { isCancelled, type Running };

/** A job that failed in the worker, with the code that its error had there. */
class JobError extends Error {
  constructor(
    message: string,
    readonly code?: string,
  ) {
    super(message);
  }
}

interface Waiting {
  resolve: (v: unknown) => void;
  reject: (e: Error) => void;
  progress?: (share: number) => void;
}

let worker: Worker | null = null;
let count = 0;
const waiting = new Map<number, Waiting>();

function start(): Worker {
  if (worker) return worker;
  worker = new RenderWorker();
  worker.onmessage = (
    m: MessageEvent<{
      id: number;
      progress?: number;
      result?: unknown;
      error?: { message: string; code?: string };
    }>,
  ) => {
    const w = waiting.get(m.data.id);
    if (!w) return;
    if (m.data.progress !== undefined) {
      w.progress?.(m.data.progress);
      return;
    }
    waiting.delete(m.data.id);
    if (m.data.error) w.reject(new JobError(m.data.error.message, m.data.error.code));
    else w.resolve(m.data.result);
  };
  worker.onerror = (e) => {
    for (const w of waiting.values()) w.reject(new Error(e.message || 'The render worker stopped.'));
    waiting.clear();
    worker = null;
  };
  return worker;
}

/** Plain data, as the worker takes it: what the stores hold are proxies. */
export const plain = <T>(x: T): T => JSON.parse(JSON.stringify(x)) as T;

function run<T>(job: Job, progress?: (share: number) => void): Running<T> {
  const id = ++count;
  const w = start();
  const done = new Promise<T>((resolve, reject) => {
    waiting.set(id, { resolve: resolve as (v: unknown) => void, reject, progress });
    w.postMessage({ id, job });
  });
  return { done, cancel: () => w.postMessage({ cancel: id }) };
}

/** Work of the render worker: decode and resample, match loudness, null test. */
export const jobs = {
  sound: (media: string, rate: number) => run<Sound>({ op: 'sound', media, rate }).done,
  match: (job: Omit<Extract<Job, { op: 'match' }>, 'op'>, progress?: (p: number) => void) =>
    run<Match>({ op: 'match', ...job }, progress),
  check: (session: Session, levels: Levels | null, buffer: number | null = null) =>
    run<Finding[]>({ op: 'check', session, levels, buffer }),
  levels: (session: Session, progress?: (p: number) => void) =>
    run<Levels>({ op: 'levels', session }, progress),
  figures: (session: Session, track: Id) => run<SoundFigures>({ op: 'figures', session, track }),
  tap: (session: Session, slot: Id, progress?: (p: number) => void) =>
    run<TapResult>({ op: 'tap', session, slot }, progress),
  loop: (device: Device, sampleRate: number, then: Measured | null = null) =>
    run<LoopNow>({ op: 'loop', device: plain(device), sampleRate, then }),
  realLoop: (device: Device, taken: Taken, then: Measured | null = null) =>
    run<LoopNow>({ op: 'real-loop', device: plain(device), taken, then }),
  print: (session: Session, slot: Id, progress?: (p: number) => void) =>
    run<PrintedLine[]>({ op: 'print', session, slot }, progress),
  printLines: (session: Session, tracks: Id[], progress?: (p: number) => void) =>
    run<PrintedLine[]>({ op: 'print-lines', session, tracks }, progress),
  /** what a preset that is saved from a line remembers of its sound */
  reference: (session: Session, track: Id) => run<LineReference | null>({ op: 'reference', session, track }),
  outline: (media: string, rate: number) => run<number[]>({ op: 'outline', media, rate }),
  even: (session: Session, tracks: Id[], to: number | Id) =>
    run<EvenRow[]>({ op: 'even', session, tracks, to }),
  pieces: (session: Session, track: Id, clip: Id) =>
    run<{ from: number; to: number }[]>({ op: 'pieces', session, track, clip }),
  fit: (session: Session, track: Id, reference: LineReference | null) =>
    run<FitPlan>({ op: 'fit', session, track, reference }),
  mix: (session: Session, plan: PrintPlan, progress?: (p: number) => void) =>
    run<Loudness>({ op: 'mix', session, plan }, progress),
  printStems: (session: Session, plan: PrintPlan, at: string, progress?: (p: number) => void) =>
    run<PrintMade>({ op: 'print-stems', session, plan, at }, progress),
  nullTest: (job: Omit<Extract<Job, { op: 'null' }>, 'op'>, progress?: (p: number) => void) =>
    run<NullResult>({ op: 'null', ...job }, progress),
};
