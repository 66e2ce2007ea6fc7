import { BroadcastWriter, type BroadcastOptions, type Cue } from './broadcast.ts';
import { FormatError } from './errors.ts';
import { drive, type RenderOptions } from '../engine/offline.ts';
import type { Loudness } from '../measure/loudness.ts';
import type { PrintLevel, PrintPlan } from '../model/print.ts';
import type { Id, Session } from '../model/types.ts';
import { namesBy } from '../print/names.ts';
import type { Proof } from '../print/proof.ts';
import { passesOf, printPasses, type Printed } from '../print/stems.ts';
import { Take, type Scratch } from '../print/take.ts';
import { tenTo } from '../model/power.ts';

/** One file of a print, with what was measured of it. */
export interface PrintFileMade {
  id: string;
  kind: Printed['kind'];
  /** with its ending */
  name: string;
  title: string;
  /** bytes */
  size: number;
  channels: 1 | 2;
  frames: number;
  sampleRate: number;
  loudness: Loudness;
  /** dB between its true peak and full scale */
  headroom: number;
  /** peaks of stretches, for a picture: 0 to 1 */
  outline: number[];
}

export interface PrintFiles {
  files: PrintFileMade[];
  /** dB that everything was raised by */
  gain: number;
  /** names that had to be told apart by a number */
  collided: string[];
  /** null where the stems are not meant to add up */
  proof: Proof | null;
}

/** A file while it grows. */
export interface Growing {
  write(bytes: Uint8Array): void;
  /** puts other bytes in the place of some that were written */
  patch(at: number, bytes: Uint8Array): void;
  /** nothing more comes */
  close(): void;
}

/** Where a print lies while it is made: on a disk, or in memory. */
export interface PrintStore {
  scratch(name: string): Scratch;
  file(name: string): Growing;
}

/** Writes one sound a piece at a time. */
export interface SoundWriter {
  head(): Uint8Array;
  /** bytes of the next frames, one array a channel */
  body(channels: readonly Float32Array[]): Uint8Array;
  tail(): Uint8Array;
  /** bytes at the beginning that are only known at the end */
  mended?(): { at: number; bytes: Uint8Array }[];
}

/** Makes a writer of FLAC files; what runs where has its own way to load one. */
export type MakeFlac = (o: {
  channels: 1 | 2;
  frames: number;
  sampleRate: number;
  bits: 16 | 24;
  dither: BroadcastOptions['dither'];
}) => SoundWriter;

/** share of the work that is left when everything has been played */
const WRITING = 0.1;

interface About {
  store: PrintStore;
  at: Date;
  /** the song's key, if it is known */
  key?: string;
  flac?: MakeFlac;
}
export type FilesOptions = Pick<RenderOptions, 'sounds' | 'onProgress' | 'signal' | 'blockSize'> & About;

/** All sounds of a session's print, before their level is known. */
export interface SongTakes {
  session: Session;
  plan: PrintPlan;
  takes: Take[];
  proof: Proof | null;
}

/**
 * The gain that brings a print to its level: the same for all files, so that the balance stays.
 * @param mix loudness and true peak of the mix; of everything where there is none
 * @param loudest dBTP of the loudest file
 */
export function gainFor(level: PrintLevel, mix: Pick<Loudness, 'integrated'>, loudest: number): number {
  if (level.kind === 'as it is' || !Number.isFinite(loudest)) return 0;
  const toCeiling = level.ceiling - loudest;
  if (level.kind === 'peak') return toCeiling;
  return Number.isFinite(mix.integrated) ? Math.min(level.target - mix.integrated, toCeiling) : 0;
}

/**
 * Gains that bring several songs to one loudness: to the target, or to what the song with the least room under the
 * ceiling allows, so that none is softer than the others.
 * @param songs loudness of each mix (LUFS) and the loudest true peak among its files (dBTP)
 * @returns dB for each; silence stays as it is
 */
export function gainsTogether(
  songs: readonly { integrated: number; loudest: number }[],
  { target, ceiling }: { target: number; ceiling: number },
): number[] {
  const sounding = songs.filter((s) => Number.isFinite(s.integrated));
  const common = Math.min(target, ...sounding.map((s) => s.integrated + ceiling - s.loudest));
  return songs.map((s) => (Number.isFinite(s.integrated) ? common - s.integrated : 0));
}

/** What a song's level is found from. */
export const levelOf = ({ takes }: SongTakes): { integrated: number; loudest: number } => ({
  integrated: takes[0]?.loudness().integrated ?? -Infinity,
  loudest: takes.reduce((most, t) => Math.max(most, t.loudness().truePeak), -Infinity),
});

/**
 * Plays a session once, and once more for each version of its mix, and keeps what is printed aside.
 * @throws when a file of the plan can't be written, before anything is played
 */
export async function printTakes(session: Session, plan: PrintPlan, o: FilesOptions): Promise<SongTakes> {
  if (plan.file.format === 'flac' && (plan.file.bits === 32 || !o.flac)) {
    throw new FormatError('FLAC file', '', 'FLAC holds 16 or 24 bit here. Choose one of them, or WAV.');
  }
  const rate = plan.file.rate ?? session.sampleRate;
  const made = passesOf(plan).map(
    ({ sink, id, name, kind }) =>
      [sink, new Take(id, name, kind, session.sampleRate, rate, o.store.scratch(id))] as const,
  );
  const takes = new Map<Id, Take>(made);
  const { proof } = await printPasses(session, plan, (name, l, r, n) => takes.get(name)!.add(l, r, n), {
    ...o,
    onProgress: (share) => o.onProgress?.((1 - WRITING) * Math.min(1, share)),
  });
  for (const take of takes.values()) take.end();
  return { session, plan, takes: [...takes.values()], proof };
}

/**
 * Turns what was kept aside into files: level, width, bits, names.
 * @param gain dB, for all files
 */
export async function writeTakes(song: SongTakes, gain: number, o: FilesOptions): Promise<PrintFiles> {
  const { plan, takes, proof } = song;
  const { names, collided } = namesOf(song, o);
  const ending = plan.file.format;
  const files: PrintFileMade[] = [];
  for (const [i, take] of takes.entries()) {
    const loudness = louder(take.loudness(), gain);
    const channels = plan.file.mono && take.isMono ? 1 : 2;
    const writer = writerOf(song, take, channels, loudness, o);
    const name = `${names[i]}.${ending}`;
    const onProgress = (share: number) =>
      o.onProgress?.(1 - WRITING + WRITING * ((i + share) / takes.length));
    const size = await drive(written(take, channels, tenTo(gain / 20), writer, o.store.file(name)), {
      signal: o.signal,
      onProgress,
    });
    take.remove();
    files.push({
      id: take.id,
      kind: take.kind,
      name,
      title: take.name,
      size,
      channels,
      frames: take.frames,
      sampleRate: take.sampleRate,
      loudness,
      headroom: -loudness.truePeak,
      outline: take.outline().map((x) => Math.min(1, x * tenTo(gain / 20))),
    });
  }
  o.onProgress?.(1);
  return { files, gain, collided, proof };
}

/** Prints one session to files at the level of its plan. */
export async function printFiles(session: Session, plan: PrintPlan, o: FilesOptions): Promise<PrintFiles> {
  const song = await printTakes(session, plan, o);
  const { integrated, loudest } = levelOf(song);
  return writeTakes(song, gainFor(plan.level, { integrated }, loudest), o);
}

function namesOf({ session, plan, takes }: SongTakes, { at, key = '' }: About) {
  const date = at.toISOString().slice(0, 10);
  const fields = takes.map(({ name }, i) => ({
    nn: i + 1,
    song: session.name,
    stem: name,
    bpm: session.tempo,
    key,
    date,
  }));
  return namesBy(plan.file.names, fields);
}

/** Figures of a sound that was raised by so many dB: all of them move along, but the range. */
const louder = (x: Loudness, gain: number): Loudness => ({
  integrated: x.integrated + gain,
  shortTermMax: x.shortTermMax + gain,
  momentaryMax: x.momentaryMax + gain,
  range: x.range,
  truePeak: x.truePeak + gain,
});

/** Writes a take to a file; its bytes. */
function* written(
  take: Take,
  channels: 1 | 2,
  factor: number,
  writer: SoundWriter,
  file: Growing,
): Generator<number, number> {
  let size = 0;
  const put = (bytes: Uint8Array) => {
    file.write(bytes);
    size += bytes.length;
  };
  put(writer.head());
  let done = 0;
  for (const sides of take.pieces()) {
    // what was read is nobody else's
    if (factor !== 1) for (const x of sides) for (let i = 0; i < x.length; i++) x[i] *= factor;
    put(writer.body(sides.slice(0, channels)));
    done += sides[0].length;
    yield done / take.frames;
  }
  put(writer.tail());
  for (const { at, bytes } of writer.mended?.() ?? []) file.patch(at, bytes);
  file.close();
  return size;
}

function writerOf(song: SongTakes, take: Take, channels: 1 | 2, loudness: Loudness, o: About): SoundWriter {
  const { file, range, marks = [] } = song.plan;
  const { frames, sampleRate } = take;
  if (file.format === 'flac') {
    const bits = file.bits === 16 ? 16 : 24;
    return o.flac!({ channels, frames, sampleRate, bits, dither: file.dither });
  }
  const from = range?.from ?? 0;
  const cues: Cue[] = marks
    .map((m) => ({ at: Math.round((m.at - from) * sampleRate), name: m.name }))
    .filter((cue) => cue.at >= 0 && cue.at < frames);
  const width = channels === 1 ? 'mono' : 'stereo';
  const coding = file.bits === 32 ? 'FLOAT' : 'PCM';
  return new BroadcastWriter(channels, frames, {
    sampleRate,
    bits: file.bits,
    dither: file.bits === 32 ? 'none' : file.dither,
    cues,
    extension: {
      description: `${song.session.name}: ${take.name}`,
      originator: 'Rope Shelf',
      reference: '',
      date: o.at.toISOString().slice(0, 10),
      time: o.at.toISOString().slice(11, 19),
      timeReference: Math.round(from * sampleRate),
      loudness: loudness.integrated,
      range: loudness.range,
      truePeak: loudness.truePeak,
      momentary: loudness.momentaryMax,
      shortTerm: loudness.shortTermMax,
      history: `A=${coding},F=${sampleRate},W=${file.bits},M=${width},T=printed\r\n`,
    },
  });
}

/** JSON has no infinity: a level that came as nothing is silence. */
const level = (x: number | null): number => x ?? -Infinity;

/** What was printed, as it comes out of JSON, with its silence. */
export function printedFromJson<T extends PrintFiles>(printed: T): T {
  return {
    ...printed,
    files: printed.files.map((f) => {
      const loudness = Object.fromEntries(
        Object.entries(f.loudness).map(([key, x]) => [key, level(x as number | null)]),
      ) as unknown as Loudness;
      return { ...f, loudness, headroom: -loudness.truePeak };
    }),
    proof: printed.proof && {
      ...printed.proof,
      residual: level(printed.proof.residual),
      seconds: printed.proof.seconds.map(level),
      bands: printed.proof.bands.map(([f, x]) => [f, level(x)]),
    },
  };
}

/** A store in memory, where there is no disk. */
export class MemoryStore implements PrintStore {
  /** bytes of the files that are done, by name */
  readonly files = new Map<string, Uint8Array<ArrayBuffer>>();

  scratch(): Scratch {
    let parts: Uint8Array[] = [];
    return {
      write: (bytes) => parts.push(bytes.slice()),
      read: (at, n) => stretch(parts, at, n),
      remove: () => {
        parts = [];
      },
    };
  }
  file(name: string): Growing {
    const parts: Uint8Array[] = [];
    return {
      write: (bytes) => parts.push(bytes),
      patch: (at, bytes) => {
        let from = 0;
        for (const part of parts) {
          for (let i = 0; i < bytes.length; i++) {
            const place = at + i - from;
            if (place >= 0 && place < part.length) part[place] = bytes[i];
          }
          from += part.length;
        }
      },
      close: () => {
        this.files.set(
          name,
          stretch(
            parts,
            0,
            parts.reduce((sum, p) => sum + p.length, 0),
          ),
        );
      },
    };
  }
}

/** Bytes from a place on of what lies in parts, in a buffer of their own. */
function stretch(parts: readonly Uint8Array[], at: number, n: number): Uint8Array<ArrayBuffer> {
  const out = new Uint8Array(n);
  let from = 0;
  for (const part of parts) {
    const [a, b] = [Math.max(at, from), Math.min(at + n, from + part.length)];
    if (a < b) out.set(part.subarray(a - from, b - from), a - at);
    from += part.length;
    if (from >= at + n) break;
  }
  return out;
}
