import { writeBroadcastWav, type Cue } from './broadcast.ts';
import { measureLoudness, type Loudness } from '../measure/loudness.ts';
import { resample } from '../measure/resample.ts';
import type { PrintLevel, PrintPlan } from '../model/print.ts';
import type { Session } from '../model/types.ts';
import { namesBy } from '../print/names.ts';
import type { Printed, PrintedStems } from '../print/stems.ts';

/** One file of a print, with what was measured of it. */
export interface PrintFileMade {
  id: string;
  kind: Printed['kind'];
  /** with its ending */
  name: string;
  title: string;
  bytes: Uint8Array;
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
}

/** linear: sides that differ by less are the same (−120 dB) */
const SAME = 1e-6;
/** points of the picture of a file */
const OUTLINE = 400;

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
 * Turns what was printed into files: rate, level, width, bits, names.
 * @param about when it was printed, the song's key if it is known, places to be marked (s)
 */
export function printFiles(
  session: Session,
  plan: PrintPlan,
  printed: PrintedStems,
  about: { at: Date; key?: string; marks?: { at: number; name: string }[] },
): PrintFiles {
  const all = [...(printed.mix ? [printed.mix] : []), ...printed.versions, ...printed.stems];
  const rate = plan.file.rate ?? session.sampleRate;
  const sounds = all.map(({ l, r }) => [l, r].map((x) => resample(x, session.sampleRate, rate)));
  const before = sounds.map((x) => measureLoudness(x, rate));
  const loudest = Math.max(-Infinity, ...before.map((x) => x.truePeak));
  const gain = gainFor(plan.level, before[0] ?? { integrated: -Infinity }, loudest);
  const date = about.at.toISOString().slice(0, 10);
  const fields = all.map(({ name }, i) => ({
    nn: i + 1,
    song: session.name,
    stem: name,
    bpm: session.tempo,
    key: about.key ?? '',
    date,
  }));
  const { names, collided } = namesBy(plan.file.names, fields);
  const cues: Cue[] = (about.marks ?? []).map((m) => ({ at: Math.round(m.at * rate), name: m.name }));
  const files = all.map((one, i) =>
    fileOf(session, plan, one, raised(sounds[i], gain), {
      rate,
      name: names[i],
      loudness: louder(before[i], gain),
      cues,
      at: about.at,
    }),
  );
  return { files, gain, collided };
}

/** Figures of a sound that was raised by so many dB: all of them move along, but the range. */
const louder = (x: Loudness, gain: number): Loudness => ({
  integrated: x.integrated + gain,
  shortTermMax: x.shortTermMax + gain,
  momentaryMax: x.momentaryMax + gain,
  range: x.range,
  truePeak: x.truePeak + gain,
});

function raised(channels: Float32Array[], gain: number): Float32Array[] {
  if (gain === 0) return channels;
  const g = 10 ** (gain / 20);
  return channels.map((x) => x.map((v) => v * g));
}

interface Making {
  rate: number;
  name: string;
  loudness: Loudness;
  cues: Cue[];
  at: Date;
}

function fileOf(s: Session, plan: PrintPlan, one: Printed, sides: Float32Array[], m: Making): PrintFileMade {
  const isMono = plan.file.mono && sides[0].every((v, i) => Math.abs(v - sides[1][i]) < SAME);
  const channels = isMono ? [sides[0]] : sides;
  const { bits, dither } = plan.file;
  const width = isMono ? 'mono' : 'stereo';
  const coding = bits === 32 ? 'FLOAT' : 'PCM';
  const from = plan.range?.from ?? 0;
  const bytes = writeBroadcastWav(channels, {
    sampleRate: m.rate,
    bits,
    dither: bits === 32 ? 'none' : dither,
    cues: m.cues,
    extension: {
      description: `${s.name}: ${one.name}`,
      originator: 'Rope Shelf',
      reference: '',
      date: m.at.toISOString().slice(0, 10),
      time: m.at.toISOString().slice(11, 19),
      timeReference: Math.round(from * m.rate),
      loudness: m.loudness.integrated,
      range: m.loudness.range,
      truePeak: m.loudness.truePeak,
      momentary: m.loudness.momentaryMax,
      shortTerm: m.loudness.shortTermMax,
      history: `A=${coding},F=${m.rate},W=${bits},M=${width},T=printed\r\n`,
    },
  });
  return {
    id: one.id,
    kind: one.kind,
    name: `${m.name}.wav`,
    title: one.name,
    bytes,
    channels: isMono ? 1 : 2,
    frames: channels[0].length,
    sampleRate: m.rate,
    loudness: m.loudness,
    headroom: -m.loudness.truePeak,
    outline: outlineOf(channels),
  };
}

function outlineOf(channels: Float32Array[]): number[] {
  const { length } = channels[0];
  return Array.from({ length: OUTLINE }, (_, k) => {
    const [from, to] = [k, k + 1].map((x) => Math.floor((x * length) / OUTLINE));
    let peak = 0;
    for (const x of channels) for (let i = from; i < to; i++) peak = Math.max(peak, Math.abs(x[i]));
    return Math.min(1, peak);
  });
}
