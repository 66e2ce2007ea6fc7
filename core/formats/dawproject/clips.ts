import type { Clip } from '../../model/types.ts';
import { numberAt } from './units.ts';
import { append, attr, ensure, kid, kids, type Element } from './xml.ts';

/** A sound that the arrangement plays: its clip's element, and where it plays in seconds of the song. */
export interface PlacedSound {
  e: Element;
  audio: Element;
  /** id of the track's element */
  track: string | null;
  start: number;
  /** into the sound */
  offset: number;
  /** NaN: as long as the sound lasts */
  length: number;
  /** switched off: a take that does not play */
  off: boolean;
}

/** What lies around an element of the arrangement. */
interface Frame {
  track: string | null;
  unit: string;
  /** seconds of the song at which the time of the content begins */
  zero: number;
  /** the part of the song in which it is heard */
  from: number;
  to: number;
  /** switched off, or in a clip that is */
  off: boolean;
  /** attributes in beats of the clips around */
  beats: [Element, string][];
  depth: number;
}
const MAX_DEPTH = 50;

/** Seconds to a hundredth of a sample at any rate. */
const fine = (v: number) => Number(v.toFixed(9));
const contentUnit = (e: Element) => attr(e, 'contentTimeUnit') ?? 'beats';

/**
 * Audio clips of an arrangement, clips inside of clips cut to what these show. Times in beats become seconds by
 * the one tempo.
 * @param beats is told the attributes in beats that place sounds
 */
export function placedSounds(
  arrangement: Element,
  tempo: number,
  beats: (at: [Element, string]) => void,
  note: (text: string) => void,
): PlacedSound[] {
  const out: PlacedSound[] = [];
  const seconds = (v: number, unit: string) => (unit === 'seconds' ? v : (v * 60) / tempo);
  const walkClip = (e: Element, f: Frame) => {
    const off = f.off || attr(e, 'enable') === 'false';
    const start = f.zero + seconds(numberAt(e, 'time') ?? 0, f.unit);
    const duration = numberAt(e, 'duration');
    const skipped = seconds(numberAt(e, 'playStart') ?? 0, contentUnit(e));
    const from = Math.max(f.from, start);
    const to = Math.min(f.to, duration === null ? Infinity : start + seconds(duration, f.unit));
    if (to <= from) return;
    const inBeats: [Element, string][] = [
      ...f.beats,
      ...(f.unit === 'beats' ? ['time', 'duration'] : []).map((a): [Element, string] => [e, a]),
      ...(contentUnit(e) === 'beats' ? ['playStart'] : []).map((a): [Element, string] => [e, a]),
    ];
    const audio = kid(e, 'Audio') ?? kid(kid(e, 'Warps'), 'Audio');
    if (!audio) {
      const zero = start - skipped;
      walkKids(e, { ...f, unit: contentUnit(e), zero, from, to, off, beats: inBeats });
      return;
    }
    inBeats.forEach(beats);
    if ((numberAt(e, 'loopEnd') ?? 0) > (numberAt(e, 'loopStart') ?? 0)) {
      note('A clip that repeats its sound in the file plays it once here.');
    }
    const offset = fine(Math.max(0, skipped + from - start));
    out.push({ e, audio, track: f.track, start: fine(from), offset, length: fine(to - from), off });
  };
  const walkKids = (e: Element, f: Frame) => {
    if (f.depth < MAX_DEPTH) for (const k of kids(e)) walk(k, { ...f, depth: f.depth + 1 });
  };
  const walk = (e: Element, f: Frame) => {
    const here = { ...f, unit: attr(e, 'timeUnit') ?? f.unit, track: attr(e, 'track') ?? f.track };
    if (e.nodeName === 'Clip') walkClip(e, { ...here, unit: f.unit });
    else walkKids(e, here);
  };
  walk(arrangement, {
    track: null,
    unit: 'beats',
    zero: 0,
    from: 0,
    to: Infinity,
    off: false,
    beats: [],
    depth: 0,
  });
  return out;
}

/** What a clip that is written needs to know of the file. */
export interface ClipTarget {
  /** where the track's clips go, in seconds */
  lanes(): Element;
  /** bpm */
  tempo: number;
  /** name of the sound's entry */
  path: string;
  name: string;
  channels: number;
  sampleRate: number;
  /** seconds of the whole sound */
  duration: number;
}

/**
 * Writes a clip as it is now. One that was there keeps its element, with warps, fades and file, in its own
 * units where it stays on its lane.
 * @param e its element, or another of the same sound as a pattern; null where there is none
 * @param was the clip as the file had it, null for a new one
 * @param stays it is on the track that it was on
 */
export function writeClip(
  e: Element | null,
  was: Clip | null,
  clip: Clip,
  stays: boolean,
  t: ClipTarget,
): void {
  if (!e) {
    writeNewClip(clip, t);
    return;
  }
  const element = was ? e : copyOf(e);
  const unit = was && stays ? laneUnit(e) : null;
  if (!unit) {
    if (was) takeOut(element);
    ensure(t.lanes(), 'Clips', { timeUnit: 'seconds' }).appendChild(element);
  }
  const moved = (k: 'start' | 'length' | 'offset') => !unit || was?.[k] !== clip[k];
  const put = (name: string, seconds: number, timeUnit: string) => {
    const v = timeUnit === 'seconds' ? seconds : (seconds * t.tempo) / 60;
    element.setAttribute(name, String(Number(v.toPrecision(12))));
  };
  if (moved('start')) put('time', clip.start, unit ?? 'seconds');
  if (moved('length')) put('duration', clip.length, unit ?? 'seconds');
  if (moved('offset')) put('playStart', clip.offset, contentUnit(element));
  if (clip.off) element.setAttribute('enable', 'false');
  else if (was?.off) element.removeAttribute('enable');
}

function writeNewClip(clip: Clip, t: ClipTarget): void {
  const e = append(ensure(t.lanes(), 'Clips', { timeUnit: 'seconds' }), 'Clip', {
    time: clip.start,
    duration: clip.length,
    contentTimeUnit: 'seconds',
    playStart: clip.offset,
    name: t.name,
    ...(clip.off ? { enable: 'false' } : {}),
  });
  const { channels, sampleRate, duration } = t;
  const audio = append(e, 'Audio', { channels, sampleRate, duration });
  append(audio, 'File', { path: t.path });
}

/** A copy of a clip; what has an id in the file has it once. */
function copyOf(e: Element): Element {
  const out = e.cloneNode(true) as Element;
  for (const x of [out, ...Array.from(out.getElementsByTagName('*'))]) x.removeAttribute('id');
  return out;
}

/** Takes a clip out of the file, and the clips around it that held nothing else. */
export function takeOut(e: Element): void {
  let at: Element | null = e;
  while (at) {
    const up: Element | null = at.parentNode?.nodeType === 1 ? (at.parentNode as Element) : null;
    at.parentNode?.removeChild(at);
    at = up && kids(up).length === 0 && isInClip(up) ? up : null;
  }
}

const isInClip = (e: Element): boolean => e.nodeName === 'Clip' || e.parentNode?.nodeName === 'Clip';

/** The unit in which a clip stands directly on a track's lane; null inside of another clip or nowhere. */
function laneUnit(e: Element): string | null {
  let unit: string | null = null;
  for (let x = e.parentNode; x?.nodeType === 1; x = x.parentNode) {
    if (x.nodeName === 'Clip') return null;
    unit ??= attr(x as Element, 'timeUnit');
    if (x.nodeName === 'Arrangement') return unit ?? 'beats';
  }
  return null;
}
