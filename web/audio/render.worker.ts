import { integratedLoudness } from '../../core/measure/loudness.ts';
import { beExact } from '../../core/devices/kernels/index.ts';
import { lineCheck } from '../../core/check/index.ts';
import { measureLevels } from '../../core/measure/levels.ts';
import { soundOfSpace, spaceOf } from '../../core/devices/convolution/spaces.ts';
import { resample } from '../../core/devices/resample.ts';
import { measureSound } from '../../core/measure/sound.ts';
import { nullTest } from '../../core/drop/nulltest.ts';
import { render } from '../../core/engine/render.ts';
import { sessionLength } from '../../core/engine/offline.ts';
import { auditioned } from '../../core/engine/audition.ts';
import { mapSlots } from '../../core/session/slots.ts';
import { mediaIn } from '../../core/session/media.ts';
import { upstream } from '../../core/session/upstream.ts';
import { printInstrument } from '../../core/kit/print.ts';
import type { PrintedLine } from '../../core/session/print.ts';
import { piecesOf, planEven } from '../../core/fit/even.ts';
import { fitNow } from '../../core/fit/plan.ts';
import { referenceNow } from '../../core/fit/reference.ts';
import { printLines } from '../../core/print/lines.ts';
import { measureMix } from '../../core/print/stems.ts';
import { MemoryStore, printFiles } from '../../core/formats/print-files.ts';
import { flacWith, type FlacLibrary } from '../../core/formats/flac.ts';
import { tapTest } from '../../core/kit/tap.ts';
import { RECALLED, compareRecall, suspectControl } from '../../core/hardware/recall.ts';
import { measureSimulated } from '../../core/hardware/simulated.ts';
import { measureTaken } from '../../core/hardware/taken.ts';
import { readWav } from '../../core/formats/wav.ts';
import type { Sound } from '../../core/engine/sound.ts';
import type { DropPlan } from '../../core/drop/types.ts';
import type { Measured } from '../../core/model/hardware.ts';
import type { PrintPlan } from '../../core/model/print.ts';
import type { Device, Preset, Session, Track } from '../../core/model/types.ts';
import { renderBeside, renderOverTwo, serveHelp, shareable, type ToHelper } from './shared.ts';
import type { Hearing, Job, LoopNow, Match } from './messages.ts';

/** One more of these, for a part of the work. */
const another = () => new Worker(new URL('./render.worker.ts', import.meta.url), { type: 'module' });
/** lines of a rig from which on the two renders of its null test are worth a worker each */
const LARGE = 24;

/** Renders, measures and decodes beside the page, so that neither the interface nor the sound waits. */
const sounds = new Map<string, Promise<Sound>>();
const cancelled = new Set<number>();
/** seconds of a line that are measured at most */
const MEASURED = 120;
/** seconds before and after a moment that are measured where it has to be known at once */
const AROUND = [1, 3] as const;

/** A sound at a rate: one of the database, or one of ours, which is made here so that nothing else waits for it. */
const load = (media: string, rate: number): Promise<Sound> => {
  const ours = spaceOf(media);
  if (ours) return Promise.resolve(soundOfSpace(ours, rate));
  return fetched(media, rate);
};
const fetched = (media: string, rate: number): Promise<Sound> => {
  const key = `${media}@${rate}`;
  const known = sounds.get(key);
  if (known) return known;
  const p = (async () => {
    const r = await fetch(`/api/media/${media}`);
    if (!r.ok) {
      throw new Error(
        r.status === 404
          ? 'A sound of this session is not in the database any more.'
          : 'A sound could not be loaded: the server does not answer.',
      );
    }
    const wav = readWav(new Uint8Array(await r.arrayBuffer()));
    const [l, r2] = [wav.channels[0], wav.channels[1] ?? wav.channels[0]].map((c, i, all) =>
      i === 1 && all[0] === c ? null : shareable(resample(c, wav.sampleRate, rate)),
    );
    return { l: l!, r: r2 ?? l! };
  })();
  sounds.set(key, p);
  p.catch(() => sounds.delete(key));
  return p;
};

/** Every sound that a session plays. */
const soundsOf = (s: Session): Promise<Map<string, Sound>> => soundsAt(s.tracks, s.sampleRate);
async function soundsAt(
  tracks: readonly Pick<Track, 'clips' | 'chain'>[],
  rate: number,
): Promise<Map<string, Sound>> {
  const out = new Map<string, Sound>();
  for (const media of mediaIn(tracks)) out.set(media, await load(media, rate));
  return out;
}

/** peaks of a whole sound that are told */
const OUTLINE = 2000;
/** How loud a sound is along its way: the peak of each of its parts. */
function outlineOf({ l, r }: Sound): number[] {
  const size = Math.max(1, Math.ceil(l.length / OUTLINE));
  return Array.from({ length: Math.ceil(l.length / size) }, (_, k) => {
    let top = 0;
    for (let i = k * size; i < Math.min(l.length, (k + 1) * size); i++) {
      top = Math.max(top, Math.abs(l[i]), Math.abs(r[i]));
    }
    return top;
  });
}

/** A loop as it is now, and what may be off when it was measured before. */
function loopNow(now: Measured, device: Device, then: Measured | null): LoopNow {
  const recalled = then && compareRecall(then, now);
  const isOff = recalled !== null && recalled.within > RECALLED;
  return { now, recalled, suspect: isOff ? suspectControl(device, now) : null };
}

/** How a job is told that it was called off, and tells how far it is. */
interface Control {
  signal: AbortSignal;
  onProgress: (share: number) => void;
}
/** What a job answers; buffers in `handed` are not copied. */
interface Answer {
  result: unknown;
  handed?: ArrayBufferLike[];
}
type JobOf<K extends Job['op']> = Extract<Job, { op: K }>;

/**
 * Loudness of everything to be heard in a comparison, each where it is measured, and the gains that make all
 * as loud as the first.
 */
async function match(
  { session: s, track, hearings, near }: JobOf<'match'>,
  { signal, onProgress }: Control,
): Promise<Match> {
  const onMaster = hearings.some((h) => h.at === 'master');
  const part = onMaster ? s : upstream(s, track);
  // other chains may play with sounds of their own
  const chains = hearings.flatMap((h) => Object.values(h.audition.chains ?? {}));
  const heardTracks = [...part.tracks, ...chains.map((chain) => ({ clips: [], chain }))];
  const loaded = await soundsAt(heardTracks, part.sampleRate);
  const end = sessionLength(part) || 5;
  const from = near === undefined ? 0 : Math.max(0, Math.min(near, end) - AROUND[0]);
  const most = onMaster ? 8 : 15;
  const to = Math.min(near === undefined ? most : from + AROUND[0] + AROUND[1], end);
  const tapOf = (h: Hearing) => (h.at === 'master' ? 'master' : `${track}:pre`);
  const out: Match = { lufs: [], gains: [], first: [] };
  // the first one is measured wherever any of them is: all are matched to it at their own place
  const base: Record<string, number> = {};
  for (const [i, h] of hearings.entries()) {
    const heard = auditioned(part, { ...h.audition, gains: {} });
    const x: Session = {
      ...heard,
      tracks: heard.tracks.map((t) => ({
        ...t,
        chain: mapSlots(t.chain, (d) =>
          h.audition.bypass.includes(d.id) ? { ...d, state: 'bypassed' as const } : d,
        ),
      })),
    };
    const taps = i === 0 ? [...new Set(hearings.map(tapOf))] : [tapOf(h)];
    const rendered = await renderOverTwo(
      x,
      {
        sounds: loaded,
        from,
        to,
        taps,
        signal,
        onProgress: (p) => onProgress((i + p) / hearings.length),
      },
      another,
    );
    const measured = Object.fromEntries(taps.map((t) => [t, integratedLoudness(rendered[t], s.sampleRate)]));
    if (i === 0) Object.assign(base, measured);
    const [lufs, first] = [measured[tapOf(h)], base[tapOf(h)]];
    out.lufs.push(lufs);
    out.first.push(first);
    out.gains.push(
      Number.isFinite(lufs) && Number.isFinite(first) ? Math.max(-24, Math.min(24, first - lufs)) : 0,
    );
  }
  return out;
}

async function soundJob({ media, rate }: JobOf<'sound'>): Promise<Answer> {
  const s = await load(media, rate);
  const l = s.l.slice();
  const r = s.r === s.l ? l : s.r.slice();
  return { result: { l, r }, handed: [...new Set([l.buffer, r.buffer])] };
}
/** The line as it plays, after its chain and before its fader. */
async function figuresJob({ session, track }: JobOf<'figures'>, control: Control): Promise<Answer> {
  const part = upstream(session, track);
  const taps = [`${track}:pre`];
  const to = Math.min(MEASURED, sessionLength(part));
  const out = await render(part, { sounds: await soundsOf(part), taps, to, ...control });
  const [l, r] = out[taps[0]];
  return { result: measureSound(l, r, part.sampleRate) };
}
const printed = (lines: PrintedLine[]): Answer => ({
  result: lines,
  handed: lines.flatMap((x) => [x.l.buffer, x.r.buffer]),
});
/** The FLAC encoder, loaded when a plan asks for it. */
async function flacFor(plan: PrintPlan) {
  if (plan.file.format !== 'flac') return undefined;
  const library = (await import('libflacjs/dist/libflac.js')) as { default: FlacLibrary };
  return flacWith(library.default);
}
/** Everything of a plan, as files. */
async function printJob({ session, plan, at }: JobOf<'print-stems'>, control: Control): Promise<Answer> {
  // the same sound as on the server
  beExact();
  const store = new MemoryStore();
  const sounds = await soundsOf(session);
  const flac = await flacFor(plan);
  const made = await printFiles(session, plan, { sounds, store, flac, at: new Date(at), ...control });
  const bytes = made.files.map((f) => store.files.get(f.name)!);
  return { result: { ...made, bytes }, handed: bytes.map((b) => b.buffer) };
}
const now = () => new Date().toISOString();

async function nullJob({ session, preset, plan }: JobOf<'null'>, control: Control): Promise<Answer> {
  const { tracks } = (preset as Preset).content;
  const isLarge = tracks.length >= LARGE && navigator.hardwareConcurrency > 1;
  const result = await nullTest(session, preset as Preset, plan as DropPlan, {
    ...control,
    sounds: await soundsAt(tracks, session.sampleRate),
    ...(isLarge ? { beside: (s, options) => renderBeside(s, options, another) } : {}),
  });
  return { result };
}

/** Every job by its name. */
const WORK: { [K in Job['op']]: (job: JobOf<K>, control: Control) => Promise<Answer> | Answer } = {
  sound: soundJob,
  figures: figuresJob,
  match: async (job, control) => ({ result: await match(job, control) }),
  check: ({ session, levels, buffer }) => ({ result: lineCheck(session, levels, buffer) }),
  loop: ({ device, sampleRate, then }) => ({
    result: loopNow(measureSimulated(device, sampleRate, now()), device, then),
  }),
  'real-loop': ({ device, taken, then }) => ({
    result: loopNow(measureTaken(device, taken, now()), device, then),
  }),
  tap: async ({ session, slot }, control) => ({ result: await tapTest(session, slot, control) }),
  print: async ({ session, slot }, control) =>
    printed(await printInstrument(session, slot, { sounds: await soundsOf(session), ...control })),
  'print-lines': async ({ session, tracks }, control) =>
    printed(await printLines(session, tracks, { sounds: await soundsOf(session), ...control })),
  'print-stems': printJob,
  mix: async ({ session, plan }, control) => ({
    result: await measureMix(session, plan, { sounds: await soundsOf(session), ...control }),
  }),
  outline: async ({ media, rate }) => ({ result: outlineOf(await load(media, rate)) }),
  even: async ({ session, tracks, to }) => ({
    result: planEven(session, tracks, await soundsOf(session), to),
  }),
  pieces: async ({ session, track, clip }) => {
    const found = session.tracks.find((t) => t.id === track)?.clips.find((c) => c.id === clip);
    const sound = found && (await soundsOf(session)).get(found.media);
    return { result: sound ? piecesOf(found, sound, session.sampleRate) : [] };
  },
  reference: async ({ session, track }) => ({
    result: referenceNow(session, track, await soundsOf(session)),
  }),
  fit: async ({ session, track, reference }) => ({
    result: fitNow(session, track, reference, await soundsOf(session)),
  }),
  levels: async ({ session }, control) => ({
    result: await measureLevels(session, await soundsOf(session), control),
  }),
  null: nullJob,
  taps: async ({ session, sounds, to, taps }, control) => {
    const result = await render(session, { sounds, to, taps, ...control });
    const handed = new Set(Object.values(result).flatMap((sides) => sides.map((x) => x.buffer)));
    return { result, handed: [...handed] };
  },
};

self.onmessage = async (m: MessageEvent<{ id: number; job: Job } | { cancel: number } | ToHelper>) => {
  if ('help' in m.data) {
    serveHelp(m.data);
    return;
  }
  if ('cancel' in m.data) {
    cancelled.add(m.data.cancel);
    return;
  }
  const { id, job } = m.data;
  const signal = {
    get aborted() {
      return cancelled.has(id);
    },
  } as AbortSignal;
  const onProgress = (share: number) => self.postMessage({ id, progress: share });
  try {
    const work = WORK[job.op] as (job: Job, control: Control) => Promise<Answer> | Answer;
    const { result, handed = [] } = await work(job, { signal, onProgress });
    self.postMessage({ id, result }, { transfer: handed as Transferable[] });
  } catch (e) {
    const { message, code } = e as Error & { code?: string };
    self.postMessage({ id, error: { message, code } });
  }
};
