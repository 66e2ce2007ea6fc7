import { RANGES } from '../../model/ranges.ts';
import { checkPrintPlan } from './print.ts';
import type { Studio } from '../../model/hardware.ts';
import { COLOURS } from '../../model/colours.ts';
import type { Heading, Problem, Session, Setup, SongKey } from '../../model/types.ts';
import { checking, isObject, type Checking } from './checking.ts';
import { checkStudio } from './hardware.ts';
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
  if (s.tracks.length > 2000) {
    c.bad('/tracks', 'size', 'A session holds at most 2,000 tracks.');
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
  c.text(s.name, '/name', 'The session’s name', 200);
  c.number(s.sampleRate, ...RANGES.Session.sampleRate, '/sampleRate', 'The sample rate (Hz)');
  c.number(s.tempo, ...RANGES.Session.tempo, '/tempo', 'The tempo (bpm)');
  if (![16, 24, 32].includes(s.bitDepth)) c.bad('/bitDepth', 'choice', 'The bit depth is 16, 24 or 32.');
  if (![-3, -4.5, 0].includes(s.panLaw)) c.bad('/panLaw', 'choice', 'The pan law is −3, −4.5 or 0 dB.');
  if (
    !Array.isArray(s.meter) ||
    s.meter.length !== 2 ||
    !s.meter.every((n) => Number.isInteger(n) && n >= 1 && n <= 64)
  ) {
    c.bad('/meter', 'meter', 'The meter is two whole numbers from 1 to 64.');
  }
  if (typeof s.note !== 'string' || s.note.length > 20000) {
    c.bad('/note', 'text', 'The session’s note is a text of at most 20,000 characters.');
  }
  if (!Array.isArray(s.media)) c.bad('/media', 'list', 'The media list is missing.');
}

/** Findings that were silenced, and the studio's ports. */
function checkSurroundings(c: Checking, s: Session): void {
  if (
    s.silenced !== undefined &&
    !(
      Array.isArray(s.silenced) &&
      s.silenced.length <= 2000 &&
      s.silenced.every(
        (x) =>
          isObject(x) && typeof x.key === 'string' && typeof x.reason === 'string' && x.reason.length <= 2000,
      )
    )
  ) {
    c.bad('/silenced', 'list', 'A silenced finding has a key and a reason.');
  }
  if (s.key !== undefined) checkKey(c, s.key);
  if (s.print !== undefined) checkPrintPlan(c, s.print);
  if (s.headings !== undefined) checkHeadings(c, s.headings);
  if (s.setup !== undefined) {
    const ports = (l: unknown) =>
      Array.isArray(l) &&
      l.length <= 256 &&
      l.every((x) => typeof x === 'string' && x.trim() !== '' && x.length <= 80);
    if (!isObject(s.setup) || !ports(s.setup.inputs) || !ports(s.setup.outputs)) {
      c.bad(
        '/setup',
        'list',
        'A setup has a list of inputs and one of outputs, each port a name of 1 to 80 characters.',
      );
    } else checkSetup(c, s.setup);
  }
}

function checkKey(c: Checking, key: SongKey): void {
  const isKey = isObject(key) && Number.isInteger(key.tonic) && key.tonic >= 0 && key.tonic < 12;
  if (!isKey || (key.mode !== 'major' && key.mode !== 'minor')) {
    c.bad('/key', 'choice', 'The song’s key is a note from 0 (C) to 11, major or minor.');
  }
}

/** A line that is gone is no fault of its heading: another window may have deleted it. */
function checkHeadings(c: Checking, list: readonly Heading[]): void {
  if (!Array.isArray(list) || list.length > 2000 || !list.every(isObject)) {
    c.bad('/headings', 'list', 'Headings are a list of at most 2,000.');
    return;
  }
  list.forEach((h, i) => {
    const at = `/headings/${i}`;
    c.unique(h.id, at);
    c.text(h.name, `${at}/name`, 'A heading', 200);
    if (!COLOURS.some((x) => x.id === h.colour)) {
      c.bad(`${at}/colour`, 'colour', `“${h.name}”: unknown colour.`);
    }
    if (typeof h.before !== 'string') c.bad(`${at}/before`, 'id', `“${h.name}” stands above no line.`);
  });
}

function checkSetup(c: Checking, setup: Setup): void {
  c.text(setup.name, '/setup/name', 'The setup’s name', 200);
  if (setup.studio !== undefined) checkStudio(c, setup.studio, '/setup/studio');
  const { ticks } = setup;
  const isTicks = Array.isArray(ticks) && ticks.length <= 5000 && ticks.every((x) => typeof x === 'string');
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
