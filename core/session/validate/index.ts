import { LISTS, METER, RANGES, TEXTS } from '../../model/limits.ts';
import { checkPrintPlan } from './print.ts';
import type { Studio } from '../../model/hardware.ts';
import { COLOURS } from '../../model/colours.ts';
import type { Heading, Problem, Session, Setup, SongKey } from '../../model/types.ts';
import { checking, isLonger, isObject, isWhole, type Checking, type Size } from './checking.ts';
import { checkStudio } from './hardware.ts';
import { checkHistory } from './origin.ts';
import { checkTrack } from './track.ts';

/**
 * The invariants of a session, in one place. Returns every breach with the JSON pointer of the place, the
 * rule's name and a sentence that names the
 * track or device and the way out; an empty list means that the session is sound. Never throws, whatever it
 * is given.
 */
export function validateSession(session: unknown): Problem[] {
  const s = session as Session;
  if (!isObject(s)) return [{ path: '', rule: 'object', message: 'A session is a JSON object.' }];
  const out: Problem[] = [];
  const c = checking(s, out);
  checkAround(c, s);
  if (!Array.isArray(s.tracks)) {
    c.bad('/tracks', 'list', 'The track list is missing.');
    return out;
  }
  const most = LISTS.Session.tracks[1];
  if (s.tracks.length > most) {
    c.bad('/tracks', 'size', `A session holds at most ${most} tracks.`);
    return out;
  }
  const masters = s.tracks.filter((t) => isObject(t) && t.role === 'master').length;
  if (masters !== 1) {
    c.bad('/tracks', 'one-master', `A session has exactly one master; this one has ${masters}.`);
  }
  s.tracks.forEach((t, i) => checkTrack(c, t, `/tracks/${i}`));
  return out;
}

/** Everything of a session but its lines. */
export function checkAround(c: Checking, s: Session): void {
  if (s.format !== 'rope-shelf/session' || s.version !== 1) {
    c.bad('/format', 'format', 'This is not a session of version 1; a newer program may have written it.');
  }
  checkSettings(c, s);
  checkSurroundings(c, s);
}

function checkSettings(c: Checking, s: Session): void {
  c.text(s.name, '/name', 'The session’s name', TEXTS.Session.name);
  c.number(s.sampleRate, ...RANGES.Session.sampleRate, '/sampleRate', 'The sample rate (Hz)');
  c.number(s.tempo, ...RANGES.Session.tempo, '/tempo', 'The tempo (bpm)');
  if (![16, 24, 32].includes(s.bitDepth)) c.bad('/bitDepth', 'choice', 'The bit depth is 16, 24 or 32.');
  if (![-3, -4.5, 0].includes(s.panLaw)) c.bad('/panLaw', 'choice', 'The pan law is −3, −4.5 or 0 dB.');
  if (!Array.isArray(s.meter) || s.meter.length !== 2 || !s.meter.every((n) => isWhole(n, ...METER))) {
    c.bad('/meter', 'meter', `The meter is two whole numbers from ${METER[0]} to ${METER[1]}.`);
  }
  c.text(s.note, '/note', 'The session’s note', TEXTS.Session.note);
  checkMedia(c, s.media);
  if (s.setupId !== null && typeof s.setupId !== 'string') {
    c.bad('/setupId', 'text', 'A session’s setup is named by its id, or there is none.');
  }
}

/** Sounds, by their sums. */
function checkMedia(c: Checking, media: Session['media']): void {
  if (!Array.isArray(media)) {
    c.bad('/media', 'list', 'The media list is missing.');
    return;
  }
  media.forEach((m, i) => {
    const at = `/media/${i}`;
    if (!isObject(m)) {
      c.bad(at, 'object', 'A sound is told by its sum, its name, its rate and its length.');
      return;
    }
    c.text(m.id, `${at}/id`, 'A sound’s id', TEXTS.MediaRef.id);
    c.text(m.name, `${at}/name`, 'A sound’s name', TEXTS.MediaRef.name);
    c.number(m.sampleRate, ...RANGES.MediaRef.sampleRate, `${at}/sampleRate`, `“${m.name}”: its rate (Hz)`);
    if (m.channels !== 1 && m.channels !== 2) {
      c.bad(`${at}/channels`, 'choice', `“${m.name}” is mono (1) or stereo (2).`);
    }
    c.number(m.frames, ...RANGES.MediaRef.frames, `${at}/frames`, `“${m.name}”: its length (samples)`);
  });
}

/** Findings that were silenced, and the studio's ports. */
function checkSurroundings(c: Checking, s: Session): void {
  const mostLetters = TEXTS.Session.reason[1];
  const isSilenced =
    Array.isArray(s.silenced) &&
    s.silenced.length <= LISTS.Session.silenced[1] &&
    s.silenced.every(
      (x) =>
        isObject(x) &&
        typeof x.key === 'string' &&
        typeof x.reason === 'string' &&
        !isLonger(x.reason, mostLetters),
    );
  if (s.silenced !== undefined && !isSilenced) {
    c.bad('/silenced', 'list', 'A silenced finding has a key and a reason.');
  }
  checkHistory(c, s);
  if (s.key !== undefined) checkKey(c, s.key);
  if (s.print !== undefined) checkPrintPlan(c, s.print);
  if (s.headings !== undefined) checkHeadings(c, s.headings);
  if (s.setup !== undefined) {
    const most = TEXTS.Setup.inputs[1];
    const isPort = (x: unknown) => typeof x === 'string' && x.trim() !== '' && !isLonger(x, most);
    const ports = (l: unknown, size: Size) => Array.isArray(l) && l.length <= size[1] && l.every(isPort);
    const { inputs, outputs } = LISTS.Setup;
    if (!isObject(s.setup) || !ports(s.setup.inputs, inputs) || !ports(s.setup.outputs, outputs)) {
      c.bad(
        '/setup',
        'list',
        `A setup has a list of inputs and one of outputs, each port a name of 1 to ${most} characters.`,
      );
    } else checkSetup(c, s.setup);
  }
}

function checkKey(c: Checking, key: SongKey): void {
  const isKey = isObject(key) && isWhole(key.tonic, ...RANGES.SongKey.tonic);
  if (!isKey || (key.mode !== 'major' && key.mode !== 'minor')) {
    c.bad('/key', 'choice', 'The song’s key is a note from 0 (C) to 11, major or minor.');
  }
}

/** A line that is gone is no fault of its heading: another window may have deleted it. */
function checkHeadings(c: Checking, list: readonly Heading[]): void {
  const most = LISTS.Session.headings[1];
  if (!Array.isArray(list) || list.length > most || !list.every(isObject)) {
    c.bad('/headings', 'list', `Headings are a list of at most ${most}.`);
    return;
  }
  list.forEach((h, i) => {
    const at = `/headings/${i}`;
    c.unique(h.id, at);
    c.text(h.name, `${at}/name`, 'A heading', TEXTS.Heading.name);
    if (!COLOURS.some((x) => x.id === h.colour)) {
      c.bad(`${at}/colour`, 'colour', `“${h.name}”: unknown colour.`);
    }
    if (typeof h.before !== 'string') c.bad(`${at}/before`, 'id', `“${h.name}” stands above no line.`);
  });
}

function checkSetup(c: Checking, setup: Setup): void {
  c.text(setup.name, '/setup/name', 'The setup’s name', TEXTS.Setup.name);
  if (setup.studio !== undefined) checkStudio(c, setup.studio, '/setup/studio');
  const { ticks } = setup;
  const isTicks =
    Array.isArray(ticks) && ticks.length <= LISTS.Setup.ticks[1] && ticks.every((x) => typeof x === 'string');
  if (ticks !== undefined && !isTicks) {
    c.bad('/setup/ticks', 'list', 'What is done of the patch list is a list of texts.');
  }
}

/** The same for a setup of the shelf by itself. */
export function validateStudio(studio: unknown): Problem[] {
  const out: Problem[] = [];
  checkStudio(checking({ tracks: [] } as unknown as Session, out), studio as Studio, '');
  return out;
}
