import { LISTS, RANGES, TEXTS } from '../../model/limits.ts';
import type { Clip, Lane, MidiController, MidiNote, NoteClip, Send, Track } from '../../model/types.ts';
import { laneTarget } from '../automation.ts';
import { isLonger, isObject, isWhole, isWithin, type Checking } from './checking.ts';

export function checkSend(c: Checking, send: Send, q: string, who: string): void {
  c.unique(send.id, q);
  const far = c.byId.get(send.to);
  if (!far) c.bad(q + '/to', 'exists', `${who} sends to a track that does not exist.`);
  else if (far.role === 'master' || far.role === 'midi') {
    c.bad(q + '/to', 'send-target', `${who} sends to “${far.name}”, which takes no sends.`);
  }
  c.number(send.level, ...RANGES.Send.level, q + '/level', `${who}: send level (dB)`);
  c.number(send.pan, ...RANGES.Send.pan, q + '/pan', `${who}: send pan`);
  if (!['pre', 'post'].includes(send.tap)) {
    c.bad(q + '/tap', 'choice', `${who}: a send is pre or post fader.`);
  }
  if (send.place !== undefined) {
    c.number(send.place, ...RANGES.Send.place, q + '/place', `${who}: place of a send`);
  }
  if (!['follow', 'own'].includes(send.panMode)) {
    c.bad(q + '/panMode', 'choice', `${who}: a send’s pan follows the track or is its own.`);
  }
  if (typeof send.on !== 'boolean') c.bad(q + '/on', 'switch', `${who}: a send is on or off.`);
}

export function checkClip(c: Checking, clip: Clip, q: string, who: string): void {
  c.unique(clip.id, q);
  if (!c.media.has(clip.media)) {
    c.bad(q + '/media', 'exists', `${who}: a clip plays a sound that is not in the session’s media list.`);
  }
  c.number(clip.start, ...RANGES.Clip.start, q + '/start', `${who}: clip start (s)`);
  c.number(clip.offset, ...RANGES.Clip.offset, q + '/offset', `${who}: clip offset (s)`);
  c.number(clip.length, ...RANGES.Clip.length, q + '/length', `${who}: clip length (s)`);
  c.number(clip.gain, ...RANGES.Clip.gain, q + '/gain', `${who}: clip gain (dB)`);
  if (clip.off !== undefined && clip.off !== true) {
    c.bad(q + '/off', 'switch', `${who}: a take is off, or says nothing of it.`);
  }
}

export function checkNotes(c: Checking, clip: NoteClip, q: string, who: string): void {
  c.unique(clip.id, q);
  c.text(clip.name, q + '/name', `${who}: name of the notes`, TEXTS.NoteClip.name);
  c.number(clip.start, ...RANGES.NoteClip.start, q + '/start', `${who}: start of the notes (quarters)`);
  c.number(clip.length, ...RANGES.NoteClip.length, q + '/length', `${who}: length of the notes (quarters)`);
  const [most, mostControllers] = [LISTS.NoteClip.notes[1], LISTS.NoteClip.controllers[1]];
  const isSize =
    Array.isArray(clip.notes) &&
    Array.isArray(clip.controllers) &&
    clip.notes.length <= most &&
    clip.controllers.length <= mostControllers;
  if (!isSize) {
    c.bad(q, 'size', `${who}: a clip holds at most ${most} notes and ${mostControllers} controllers.`);
    return;
  }
  if (!clip.notes.every(isNote)) {
    c.bad(
      q + '/notes',
      'note',
      `${who}: a note has a time, a length, a channel from 1 to 16, a key from 0 to 127, a velocity from 1 to 127 and a release velocity from 0 to 127.`,
    );
  }
  if (!clip.controllers.every(isController)) {
    c.bad(
      q + '/controllers',
      'controller',
      `${who}: a controller has a time, a channel from 1 to 16, a number and a value from 0 to 127.`,
    );
  }
}

function isNote(n: MidiNote): boolean {
  const of = RANGES.MidiNote;
  return (
    isObject(n) &&
    isWithin(n.at, of.at) &&
    isWithin(n.length, of.length) &&
    isWhole(n.channel, ...of.channel) &&
    isWhole(n.key, ...of.key) &&
    isWhole(n.velocity, ...of.velocity) &&
    (n.release === undefined || isWhole(n.release, ...of.release))
  );
}
function isController(x: MidiController): boolean {
  const of = RANGES.MidiController;
  return (
    isObject(x) &&
    isWithin(x.at, of.at) &&
    isWhole(x.channel, ...of.channel) &&
    isWhole(x.number, ...of.number) &&
    isWhole(x.value, ...of.value)
  );
}

export function checkLane(c: Checking, t: Track, l: Lane, q: string, who: string): void {
  c.unique(l.id, q);
  const isNamed = (['of', 'param'] as const).every(
    (k) => typeof l[k] === 'string' && !isLonger(l[k], TEXTS.Lane[k][1]),
  );
  if (!isNamed) c.bad(q, 'lane', `${who}: a lane names what it moves.`);
  if (typeof l.on !== 'boolean') c.bad(q + '/on', 'switch', `${who}: a lane is on or off.`);
  const most = LISTS.Lane.points[1];
  if (!Array.isArray(l.points) || l.points.length > most) {
    c.bad(q + '/points', 'size', `${who}: a lane holds at most ${most} points.`);
    return;
  }
  // the value's own range, as far as it is still there
  const to = c.failed() ? null : laneTarget(t, l);
  const [low, high] = to ? [to.spec.min ?? 0, to.spec.max ?? 1] : RANGES.LanePoint.value;
  if (
    !l.points.every(
      (x) =>
        isObject(x) &&
        isWithin(x.at, RANGES.LanePoint.at) &&
        typeof x.value === 'number' &&
        x.value >= low &&
        x.value <= high &&
        (x.hold === undefined || x.hold === true),
    )
  ) {
    c.bad(
      q + '/points',
      'point',
      `${who}: a point of ${to?.label ?? 'a lane'} has a time in seconds and a value from ${low} to ${high}.`,
    );
  } else if (l.points.some((x, k) => k > 0 && x.at <= l.points[k - 1].at)) {
    c.bad(
      q + '/points',
      'order',
      `${who}: the points of ${to?.label ?? 'a lane'} follow one another in time.`,
    );
  }
}
