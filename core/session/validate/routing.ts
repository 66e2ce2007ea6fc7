import { MIDI_PORTS } from '../../model/basic.ts';
import { RANGES, TEXTS } from '../../model/limits.ts';
import type { Input, Track } from '../../model/types.ts';
import { isLonger, isObject, isWhole, type Checking } from './checking.ts';
import { checkUses } from './hardware.ts';

const TAPS = ['pre', 'post'];
type Of<K extends Input['kind']> = Extract<Input, { kind: K }>;

/** Folder, output and input of a track. */
export function checkRouting(c: Checking, t: Track, p: string, who: string): void {
  checkFolder(c, t, p, who);
  checkOutput(c, t.output, p + '/output', `${who}: output`, t);
  checkSource(c, t, p + '/input', who);
  checkInput(c, t.input, p + '/input', who);
}

const INPUTS = ['none', 'hardware', 'track', 'deviceOutput', 'midi'];

/** What an input is; whether the track that it comes from is there is another question. */
export function checkInput(c: Checking, x: Input, path: string, who: string): void {
  if (!isObject(x) || !INPUTS.includes(x.kind)) {
    c.bad(path, 'choice', `${who}: unknown kind of input.`);
    return;
  }
  if ((x.kind === 'track' || x.kind === 'deviceOutput') && typeof x.track !== 'string') {
    c.bad(path, 'id', `${who}: the track that its input comes from needs an id.`);
  }
  if (x.kind === 'deviceOutput') checkDeviceOutput(c, x, path, who);
  else if (x.kind === 'hardware') checkPortInput(c, x, path, `${who}: input`);
  else if (x.kind === 'track' && !TAPS.includes(x.tap)) {
    c.bad(path + '/tap', 'choice', `${who}: an input is pre or post fader.`);
  } else if (x.kind === 'midi') checkMidiInput(c, x, path, who);
}

/** Whether the track that an input comes from is there, and is another one. */
function checkSource(c: Checking, t: Track, path: string, who: string): void {
  if (!isObject(t.input)) return;
  const { kind } = t.input;
  if (kind === 'track' && !c.byId.has(t.input.track)) {
    c.bad(path, 'exists', `${who} takes its input from a track that does not exist.`);
  }
  if (kind !== 'deviceOutput') return;
  if (!c.byId.has(t.input.track)) {
    c.bad(path, 'exists', `${who} takes an output of an instrument on a track that does not exist.`);
  } else if (t.input.track === t.id) c.bad(path, 'self', `${who} takes an output of its own.`);
}

function checkPortInput(c: Checking, x: Of<'hardware'>, path: string, what: string): void {
  if (typeof x.port !== 'string') c.bad(path + '/port', 'text', `${what}: its port has a name.`);
  if (x.units !== undefined) checkUses(c, x.units, path + '/units', what);
}

function checkFolder(c: Checking, t: Track, p: string, who: string): void {
  if (t.folder !== null) {
    const f = c.byId.get(t.folder);
    if (!f || f.role !== 'folder') {
      c.bad(p + '/folder', 'folder', `${who} lies in a folder that does not exist.`);
    } else {
      let up: Track | undefined = f;
      for (let n = 0; up && n <= c.tracks; n++) {
        if (up.id === t.id) {
          c.bad(p + '/folder', 'folder-loop', `${who} lies inside itself.`);
          break;
        }
        up = up.folder ? c.byId.get(up.folder) : undefined;
      }
    }
  }
}

function checkDeviceOutput(c: Checking, x: Of<'deviceOutput'>, path: string, who: string): void {
  if (typeof x.slot !== 'string' || isLonger(x.slot, TEXTS.Input.slot[1])) {
    c.bad(path + '/slot', 'id', `${who}: the instrument that it listens to needs an id.`);
  }
  const [first, last] = RANGES.Input.output;
  if (!isWhole(x.output, first, last)) {
    c.bad(
      path + '/output',
      'range',
      `${who}: an instrument’s outputs are numbered from ${first} to ${last}.`,
    );
  }
  if (!['stereo', 'left', 'right', 'sum'].includes(x.take)) {
    c.bad(path + '/take', 'choice', `${who} takes an output in stereo, left, right or summed.`);
  }
}

function checkMidiInput(c: Checking, x: Of<'midi'>, path: string, who: string): void {
  checkAddress(c, x, path, who);
  const f = x.filter;
  const { low, high } = RANGES.MidiFilter;
  const isFilter =
    isObject(f) &&
    isWhole(f.low, ...low) &&
    isWhole(f.high, ...high) &&
    f.low <= f.high &&
    typeof f.controllers === 'boolean';
  if (f !== undefined && !isFilter) {
    c.bad(path + '/filter', 'range', `${who}: a MIDI filter goes from a lower to a higher key (0–127).`);
  }
}

function checkOutput(c: Checking, o: Track['output'], path: string, what: string, t: Track): void {
  if (!isObject(o) || !['none', 'track', 'hardware', 'midi'].includes(o.kind)) {
    c.bad(path, 'choice', `${what}: unknown kind of output.`);
    return;
  }
  if (o.kind === 'midi') {
    checkAddress(c, o, path, what);
    if (t.role !== 'midi') c.bad(path, 'choice', `${what}: only a MIDI track sends notes.`);
  }
  if (o.kind === 'hardware' && typeof o.port !== 'string') {
    c.bad(path + '/port', 'text', `${what}: its port has a name.`);
  }
  if (o.kind !== 'track') return;
  const far = c.byId.get(o.track);
  if (!far) c.bad(path, 'exists', `${what} goes to a track that does not exist.`);
  else if (o.track === t.id) c.bad(path, 'self', `${what} goes to itself.`);
  else if (!['bus', 'return', 'folder', 'master', 'audio'].includes(far.role)) {
    c.bad(path, 'output-target', `${what} goes to “${far.name}”, which takes no sound.`);
  }
}

function checkAddress(c: Checking, a: { port: unknown; channel: unknown }, path: string, what: string): void {
  if (!(MIDI_PORTS as readonly unknown[]).includes(a.port)) {
    c.bad(path + '/port', 'choice', `${what}: a MIDI port is A, B, C or D.`);
  }
  if (!isWhole(a.channel, ...RANGES.Output.channel)) {
    c.bad(path + '/channel', 'range', `${what}: a MIDI channel goes from 1 to 16; 0 is all of them.`);
  }
}
