import type { Sound } from '../engine/sound.ts';
import { integratedLoudness } from '../measure/loudness.ts';
import { truePeak } from '../measure/truepeak.ts';
import { MIN_LEVEL } from '../model/types.ts';
import type { Clip, Id, Session } from '../model/types.ts';

/** dBTP that a clip is held under (EBU R 128) */
const CEILING = -1;
const MOST_GAIN = 36;

/** One clip: how loud it is where it sounds, and the gain that would make it as loud as the others. */
export interface EvenRow {
  track: Id;
  clip: Id;
  name: string;
  /** gain now and then, dB */
  from: number;
  to: number;
  /** LUFS with the gain now, and then; null: too short or too soft to tell */
  before: number | null;
  after: number | null;
  /** dBTP with the gain then */
  peak: number;
  /** less gain than it would take, since its peaks would pass −1 dBTP */
  isHeld: boolean;
}

/** The stretch of a sound that a clip plays, at the engine's rate. */
export function stretchOf(clip: Clip, sound: Sound, sampleRate: number): [Float32Array, Float32Array] {
  const from = Math.round(clip.offset * sampleRate);
  const to = from + Math.round(clip.length * sampleRate);
  return [sound.l.slice(from, to), sound.r.slice(from, to)];
}

/**
 * Gains that make the clips of lines equally loud in their sounding parts (BS.1770, whose gate leaves pauses out).
 * @param to LUFS, or the id of the clip that the others are to be as loud as
 * @returns a row for each clip that plays, in order; those that cannot be told keep their gain
 * @throws when the clip that is named is not among them, or cannot be told itself
 */
export function planEven(
  session: Session,
  tracks: readonly Id[],
  sounds: Map<string, Sound>,
  to: number | Id,
): EvenRow[] {
  const { sampleRate } = session;
  const nameOf = new Map(session.media.map((m) => [m.id, m.name]));
  const found = session.tracks
    .filter((t) => tracks.includes(t.id))
    .flatMap((t) => t.clips.filter((c) => !c.off).map((clip) => ({ track: t.id, clip })))
    .flatMap(({ track, clip }) => {
      const sound = sounds.get(clip.media);
      if (!sound) return [];
      const sides = stretchOf(clip, sound, sampleRate);
      const loudness = integratedLoudness(sides, sampleRate);
      return [{ track, clip, loudness, peak: truePeak(sides, sampleRate) }];
    });
  const goal = typeof to === 'number' ? to : goalOf(found.find((x) => x.clip.id === to));
  return found.map(({ track, clip, loudness, peak }): EvenRow => {
    const base = { track, clip: clip.id, name: nameOf.get(clip.media) ?? 'sound', from: clip.gain };
    if (!Number.isFinite(loudness)) {
      return { ...base, to: clip.gain, before: null, after: null, peak: peak + clip.gain, isHeld: false };
    }
    const wanted = goal - loudness;
    const most = Math.min(MOST_GAIN, CEILING - peak);
    const held = Math.min(wanted, most);
    const gain = Math.round(Math.max(MIN_LEVEL, held) * 10) / 10;
    return {
      ...base,
      to: gain,
      before: loudness + clip.gain,
      after: loudness + gain,
      peak: peak + gain,
      isHeld: wanted - held > 0.05,
    };
  });
}

function goalOf(x: { clip: Clip; loudness: number } | undefined): number {
  if (!x) throw new Error('The clip that the others are to be as loud as is not among them.');
  if (!Number.isFinite(x.loudness)) {
    throw new Error('The clip that the others are to be as loud as is too short or too soft to tell.');
  }
  return x.loudness + x.clip.gain;
}

/** A pause between two pieces: at least so long, s, and so far under the loudest tenth, dB */
const PAUSE = 0.35;
const UNDER = 34;
/** s that are kept before and behind what sounds */
const MARGIN = 0.05;
const BLOCK = 0.01;

/** The parts of a clip that sound, in s of the clip: where it can be split at its silences. */
export function piecesOf(clip: Clip, sound: Sound, sampleRate: number): { from: number; to: number }[] {
  const [l, r] = stretchOf(clip, sound, sampleRate);
  const size = Math.round(BLOCK * sampleRate);
  const blocks = Array.from({ length: Math.ceil(l.length / size) }, (_, k) => {
    let top = 0;
    for (let i = k * size; i < Math.min(l.length, (k + 1) * size); i++) {
      top = Math.max(top, Math.abs(l[i]), Math.abs(r[i]));
    }
    return top;
  });
  const sorted = [...blocks].sort((a, b) => a - b);
  const least = (sorted[Math.floor(0.9 * sorted.length)] ?? 0) / 10 ** (UNDER / 20);
  const out: { from: number; to: number }[] = [];
  blocks.forEach((top, k) => {
    if (top <= least || least === 0) return;
    const [from, to] = [k * BLOCK, Math.min(clip.length, (k + 1) * BLOCK)];
    const last = out.at(-1);
    if (last && from - last.to < PAUSE) last.to = to;
    else out.push({ from, to });
  });
  return out.map(({ from, to }) => ({
    from: Math.max(0, from - MARGIN),
    to: Math.min(clip.length, to + MARGIN),
  }));
}
