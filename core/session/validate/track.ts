import { RANGES, TEXTS } from '../../model/limits.ts';
import { COLOURS } from '../../model/colours.ts';
import { ROLES, type Printed, type Track } from '../../model/types.ts';
import { checkSlot } from './chain.ts';
import { isObject, type Checking } from './checking.ts';
import { checkClip, checkLane, checkNotes, checkSend } from './content.ts';
import { checkOrigin } from './origin.ts';
import { checkInput, checkRouting } from './routing.ts';

export function checkTrack(c: Checking, t: Track, p: string): void {
  if (!isObject(t)) {
    c.bad(p, 'object', 'A track is a JSON object.');
    return;
  }
  const who = `Track “${t.name}”`;
  checkFace(c, t, p, who);
  checkRouting(c, t, p, who);
  if (t.notes !== undefined) {
    c.list(t.notes, p + '/notes', `${who}: clips of notes`, (x, q) => checkNotes(c, x, q, who));
  }
  checkOrigin(c, t.origin, p, who);
  if (t.printed !== undefined) checkPrinted(c, t.printed, p + '/printed', who);

  c.list(t.sends, p + '/sends', `${who}: sends`, (x, q) => checkSend(c, x, q, who));
  c.list(t.chain, p + '/chain', `${who}: devices`, (d, q) => checkSlot(c, d, q, who, 0));
  if (t.automation !== undefined) {
    c.list(t.automation, p + '/automation', `${who}: lanes`, (l, q) => checkLane(c, t, l, q, who));
  }
  c.list(t.clips, p + '/clips', `${who}: clips`, (x, q) => checkClip(c, x, q, who));
}

const isAsleep = (one: unknown): boolean =>
  isObject(one) && typeof one.id === 'string' && ['on', 'bypassed', 'inactive'].includes(one.was as string);

/** What a printed line goes back to. */
function checkPrinted(c: Checking, printed: Printed, p: string, who: string): void {
  const { input, clip, instrument, chain } = isObject(printed) ? printed : ({} as Partial<Printed>);
  const isInstrument =
    isObject(instrument) && typeof instrument.track === 'string' && typeof instrument.slot === 'string';
  const isChain = isObject(chain) && Array.isArray(chain.asleep) && chain.asleep.every(isAsleep);
  const isWhole =
    isObject(input) &&
    typeof clip === 'string' &&
    (isInstrument || (instrument === undefined && isChain)) &&
    (isChain || chain === undefined);
  if (isWhole) checkInput(c, input, p + '/input', `${who}, before it was printed`);
  else c.bad(p, 'object', `${who}: what was printed needs the input that it goes back to.`);
  if (chain !== undefined) {
    c.list(chain?.clips, p + '/chain/clips', `${who}, before it was printed: clips`, (x, q) =>
      checkClip(c, x, q, who),
    );
  }
}

/** What a track is called, what it is for, and its fader. */
function checkFace(c: Checking, t: Track, p: string, who: string): void {
  c.unique(t.id, p);
  c.text(t.name, p + '/name', 'A track’s name', TEXTS.Track.name);
  if (!COLOURS.some((c) => c.id === t.colour)) {
    c.bad(p + '/colour', 'colour', `${who}: “${t.colour}” is not one of the twelve track colours.`);
  }
  if (!ROLES.includes(t.role)) {
    c.bad(p + '/role', 'choice', `${who}: unknown role “${t.role}”.`);
  }
  if (t.inputTrim !== undefined) {
    c.number(t.inputTrim, ...RANGES.Track.inputTrim, p + '/inputTrim', `${who}: trim before the chain (dB)`);
  }
  if (t.channels !== 1 && t.channels !== 2) {
    c.bad(p + '/channels', 'choice', `${who} is mono (1) or stereo (2).`);
  }
  c.number(t.level, ...RANGES.Track.level, p + '/level', `${who}: level (dB)`);
  c.number(t.pan, ...RANGES.Track.pan, p + '/pan', `${who}: pan`);
  for (const k of ['polarity', 'mute', 'solo', 'soloSafe', 'hidden'] as const) {
    if (typeof t[k] !== 'boolean') c.bad(`${p}/${k}`, 'switch', `${who}: ${k} is on or off.`);
  }
  if (t.state !== 'on' && t.state !== 'inactive') {
    c.bad(p + '/state', 'choice', `${who}: state is on or inactive.`);
  }
  c.text(t.note, p + '/note', `${who}: note`, TEXTS.Track.note);
}
