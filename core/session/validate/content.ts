import { RANGES } from '../../model/ranges.ts';
import { type Clip, type Lane, type NoteClip, type Send, type Track } from '../../model/types.ts';
import { laneTarget } from '../automation.ts';
import { channel, isObject, key, time, type Checking } from './checking.ts';

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
  c.text(clip.name, q + '/name', `${who}: name of the notes`, 200);
  c.number(clip.start, ...RANGES.NoteClip.start, q + '/start', `${who}: start of the notes (quarters)`);
  c.number(clip.length, ...RANGES.NoteClip.length, q + '/length', `${who}: length of the notes (quarters)`);
  const size =
    (Array.isArray(clip.notes) ? clip.notes.length : 0) +
    (Array.isArray(clip.controllers) ? clip.controllers.length : 0);
  if (!Array.isArray(clip.notes) || !Array.isArray(clip.controllers) || size > 50000) {
    c.bad(q, 'size', `${who}: a clip holds at most 50,000 notes and controllers.`);
    return;
  }
  if (
    !clip.notes.every(
      (n) =>
        isObject(n) &&
        time(n.at) &&
        time(n.length) &&
        channel(n.channel) &&
        key(n.key) &&
        key(n.velocity) &&
        n.velocity > 0 &&
        (n.release === undefined || key(n.release)),
    )
  ) {
    c.bad(
      q + '/notes',
      'note',
      `${who}: a note has a time, a length, a channel from 1 to 16, a key from 0 to 127, a velocity from 1 to 127 and a release velocity from 0 to 127.`,
    );
  }
  if (
    !clip.controllers.every(
      (x) => isObject(x) && time(x.at) && channel(x.channel) && key(x.number) && key(x.value),
    )
  ) {
    c.bad(
      q + '/controllers',
      'controller',
      `${who}: a controller has a time, a channel from 1 to 16, a number and a value from 0 to 127.`,
    );
  }
}

export function checkLane(c: Checking, t: Track, l: Lane, q: string, who: string): void {
  c.unique(l.id, q);
  if (typeof l.of !== 'string' || typeof l.param !== 'string' || l.of.length > 80 || l.param.length > 80) {
    c.bad(q, 'lane', `${who}: a lane names what it moves.`);
  }
  if (typeof l.on !== 'boolean') c.bad(q + '/on', 'switch', `${who}: a lane is on or off.`);
  if (!Array.isArray(l.points) || l.points.length > 20000) {
    c.bad(q + '/points', 'size', `${who}: a lane holds at most 20,000 points.`);
    return;
  }
  // the value's own range, as far as it is still there
  const to = c.failed() ? null : laneTarget(t, l);
  const [low, high] = to ? [to.spec.min ?? 0, to.spec.max ?? 1] : [-1e9, 1e9];
  if (
    !l.points.every(
      (x) =>
        isObject(x) &&
        time(x.at) &&
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
