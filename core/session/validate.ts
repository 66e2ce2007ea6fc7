import { DEVICE_TYPES } from '../devices/index.ts';
import { COLOURS } from '../model/colours.ts';
import { formatValue } from '../model/units.ts';
import { laneTarget } from './automation.ts';
import { tieTarget } from './handles.ts';
import { MAX_DEPTH } from './slots.ts';
import {
  MAX_LEVEL,
  MIN_LEVEL,
  type Device,
  type Problem,
  type Rack,
  type Session,
  type Slot,
  type Track,
} from '../model/types.ts';

/**
 * The invariants of a session, in one place. Returns every breach with the JSON pointer of the place, the
 * rule's name and a sentence that names the
 * track or device and the way out; an empty list means that the session is sound. Never throws, whatever it
 * is given.
 */
export function validateSession(session: unknown): Problem[] {
  const out: Problem[] = [];
  const bad = (path: string, rule: string, message: string) => {
    if (out.length < 200) out.push({ path, rule, message });
  };
  const s = session as Session;
  if (!isObject(s)) return [{ path: '', rule: 'object', message: 'A session is a JSON object.' }];
  if (s.format !== 'rope-shelf/session' || s.version !== 1) {
    bad('/format', 'format', 'This is not a session of version 1; a newer program may have written it.');
  }
  text(s.name, '/name', 'The session’s name', 200, bad);
  number(s.sampleRate, 8000, 384000, '/sampleRate', 'The sample rate (Hz)', bad);
  number(s.tempo, 10, 999, '/tempo', 'The tempo (bpm)', bad);
  if (![16, 24, 32].includes(s.bitDepth)) bad('/bitDepth', 'choice', 'The bit depth is 16, 24 or 32.');
  if (![-3, -4.5, 0].includes(s.panLaw)) bad('/panLaw', 'choice', 'The pan law is −3, −4.5 or 0 dB.');
  if (
    !Array.isArray(s.meter) ||
    s.meter.length !== 2 ||
    !s.meter.every((n) => Number.isInteger(n) && n >= 1 && n <= 64)
  ) {
    bad('/meter', 'meter', 'The meter is two whole numbers from 1 to 64.');
  }
  if (!Array.isArray(s.media)) bad('/media', 'list', 'The media list is missing.');
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
    bad('/silenced', 'list', 'A silenced finding has a key and a reason.');
  }
  if (s.setup !== undefined) {
    const ports = (l: unknown) =>
      Array.isArray(l) &&
      l.length <= 256 &&
      l.every((x) => typeof x === 'string' && x.trim() !== '' && x.length <= 80);
    if (!isObject(s.setup) || !ports(s.setup.inputs) || !ports(s.setup.outputs)) {
      bad(
        '/setup',
        'list',
        'A setup has a list of inputs and one of outputs, each port a name of 1 to 80 characters.',
      );
    } else text(s.setup.name, '/setup/name', 'The setup’s name', 200, bad);
  }
  if (!Array.isArray(s.tracks)) {
    bad('/tracks', 'list', 'The track list is missing.');
    return out;
  }
  if (s.tracks.length > 2000) {
    bad('/tracks', 'size', 'A session holds at most 2,000 tracks.');
    return out;
  }

  const byId = new Map<string, Track>();
  const seen = new Set<string>();
  const unique = (id: unknown, path: string) => {
    if (typeof id !== 'string' || !/^[\w.:-]{1,80}$/.test(id)) {
      bad(path + '/id', 'id', 'An id is 1 to 80 letters, digits, dots, colons or dashes.');
    } else if (seen.has(id)) bad(path + '/id', 'unique-id', `The id “${id}” is used twice.`);
    else seen.add(id);
  };
  for (const t of s.tracks) if (isObject(t) && typeof t.id === 'string') byId.set(t.id, t);
  const masters = s.tracks.filter((t) => isObject(t) && t.role === 'master').length;
  if (masters !== 1) {
    bad('/tracks', 'one-master', `A session has exactly one master; this one has ${masters}.`);
  }
  const media = new Set(Array.isArray(s.media) ? s.media.map((m) => m?.id) : []);

  s.tracks.forEach((t, i) => {
    const p = `/tracks/${i}`;
    if (!isObject(t)) {
      bad(p, 'object', 'A track is a JSON object.');
      return;
    }
    unique(t.id, p);
    text(t.name, p + '/name', 'A track’s name', 200, bad);
    const who = `Track “${t.name}”`;
    if (!COLOURS.some((c) => c.id === t.colour)) {
      bad(p + '/colour', 'colour', `${who}: “${t.colour}” is not one of the twelve track colours.`);
    }
    if (!['audio', 'instrument', 'midi', 'bus', 'return', 'folder', 'master'].includes(t.role)) {
      bad(p + '/role', 'choice', `${who}: unknown role “${t.role}”.`);
    }
    if (t.channels !== 1 && t.channels !== 2) {
      bad(p + '/channels', 'choice', `${who} is mono (1) or stereo (2).`);
    }
    number(t.level, MIN_LEVEL, MAX_LEVEL, p + '/level', `${who}: level (dB)`, bad);
    number(t.pan, -100, 100, p + '/pan', `${who}: pan`, bad);
    for (const k of ['polarity', 'mute', 'solo', 'soloSafe', 'hidden'] as const) {
      if (typeof t[k] !== 'boolean') bad(`${p}/${k}`, 'switch', `${who}: ${k} is on or off.`);
    }
    if (t.state !== 'on' && t.state !== 'inactive') {
      bad(p + '/state', 'choice', `${who}: state is on or inactive.`);
    }
    text(t.note, p + '/note', `${who}: note`, 20000, bad, true);

    if (t.folder !== null) {
      const f = byId.get(t.folder);
      if (!f || f.role !== 'folder') {
        bad(p + '/folder', 'folder', `${who} lies in a folder that does not exist.`);
      } else {
        let up: Track | undefined = f;
        for (let n = 0; up && n <= s.tracks.length; n++) {
          if (up.id === t.id) {
            bad(p + '/folder', 'folder-loop', `${who} lies inside itself.`);
            break;
          }
          up = up.folder ? byId.get(up.folder) : undefined;
        }
      }
    }
    target(t.output, p + '/output', `${who}: output`, t);
    if (isObject(t.input) && t.input.kind === 'track' && !byId.has(t.input.track)) {
      bad(p + '/input', 'exists', `${who} takes its input from a track that does not exist.`);
    }
    if (!isObject(t.input) || !['none', 'hardware', 'track', 'deviceOutput', 'midi'].includes(t.input.kind)) {
      bad(p + '/input', 'choice', `${who}: unknown kind of input.`);
    } else if (t.input.kind === 'deviceOutput') {
      const x = t.input;
      if (!byId.has(x.track)) {
        bad(
          p + '/input',
          'exists',
          `${who} takes an output of an instrument on a track that does not exist.`,
        );
      } else if (x.track === t.id) bad(p + '/input', 'self', `${who} takes an output of its own.`);
      if (typeof x.slot !== 'string' || x.slot.length > 80) {
        bad(p + '/input/slot', 'id', `${who}: the instrument that it listens to needs an id.`);
      }
      if (!Number.isInteger(x.output) || x.output < 1 || x.output > 64) {
        bad(p + '/input/output', 'range', `${who}: an instrument’s outputs are numbered from 1 to 64.`);
      }
      if (!['stereo', 'left', 'right', 'sum'].includes(x.take)) {
        bad(p + '/input/take', 'choice', `${who} takes an output in stereo, left, right or summed.`);
      }
    } else if (t.input.kind === 'midi') {
      address(t.input, p + '/input', who);
      const f = t.input.filter;
      if (
        f !== undefined &&
        !(isObject(f) && key(f.low) && key(f.high) && f.low <= f.high && typeof f.controllers === 'boolean')
      ) {
        bad(p + '/input/filter', 'range', `${who}: a MIDI filter goes from a lower to a higher key (0–127).`);
      }
    }
    list(t.notes ?? [], p + '/notes', (c, q) => {
      unique(c.id, q);
      text(c.name, q + '/name', `${who}: name of the notes`, 200, bad);
      number(c.start, 0, 100000, q + '/start', `${who}: start of the notes (quarters)`, bad);
      number(c.length, 0, 100000, q + '/length', `${who}: length of the notes (quarters)`, bad);
      const size =
        (Array.isArray(c.notes) ? c.notes.length : 0) +
        (Array.isArray(c.controllers) ? c.controllers.length : 0);
      if (!Array.isArray(c.notes) || !Array.isArray(c.controllers) || size > 50000) {
        bad(q, 'size', `${who}: a clip holds at most 50,000 notes and controllers.`);
      } else {
        if (
          !c.notes.every(
            (n) =>
              isObject(n) &&
              time(n.at) &&
              time(n.length) &&
              channel(n.channel) &&
              key(n.key) &&
              key(n.velocity) &&
              n.velocity > 0,
          )
        ) {
          bad(
            q + '/notes',
            'note',
            `${who}: a note has a time, a length, a channel from 1 to 16, a key from 0 to 127 and a velocity from 1 to 127.`,
          );
        }
        if (
          !c.controllers.every(
            (x) => isObject(x) && time(x.at) && channel(x.channel) && key(x.number) && key(x.value),
          )
        ) {
          bad(
            q + '/controllers',
            'controller',
            `${who}: a controller has a time, a channel from 1 to 16, a number and a value from 0 to 127.`,
          );
        }
      }
    });
    if (
      t.printed !== undefined &&
      !(
        isObject(t.printed) &&
        isObject(t.printed.input) &&
        typeof t.printed.clip === 'string' &&
        isObject(t.printed.instrument)
      )
    ) {
      bad(p + '/printed', 'object', `${who}: what was printed needs the input that it goes back to.`);
    }

    list(t.sends, p + '/sends', (x, q) => {
      unique(x.id, q);
      const far = byId.get(x.to);
      if (!far) bad(q + '/to', 'exists', `${who} sends to a track that does not exist.`);
      else if (far.role === 'master' || far.role === 'midi') {
        bad(q + '/to', 'send-target', `${who} sends to “${far.name}”, which takes no sends.`);
      }
      number(x.level, MIN_LEVEL, MAX_LEVEL, q + '/level', `${who}: send level (dB)`, bad);
      number(x.pan, -100, 100, q + '/pan', `${who}: send pan`, bad);
      if (!['pre', 'post'].includes(x.tap)) bad(q + '/tap', 'choice', `${who}: a send is pre or post fader.`);
      if (!['follow', 'own'].includes(x.panMode)) {
        bad(q + '/panMode', 'choice', `${who}: a send’s pan follows the track or is its own.`);
      }
      if (typeof x.on !== 'boolean') bad(q + '/on', 'switch', `${who}: a send is on or off.`);
    });
    list(t.chain, p + '/chain', (d, q) => slot(d, q, who, 0));
    list(t.automation ?? [], p + '/automation', (l, q) => {
      unique(l.id, q);
      if (
        typeof l.of !== 'string' ||
        typeof l.param !== 'string' ||
        l.of.length > 80 ||
        l.param.length > 80
      ) {
        bad(q, 'lane', `${who}: a lane names what it moves.`);
      }
      if (typeof l.on !== 'boolean') bad(q + '/on', 'switch', `${who}: a lane is on or off.`);
      if (!Array.isArray(l.points) || l.points.length > 20000) {
        bad(q + '/points', 'size', `${who}: a lane holds at most 20,000 points.`);
        return;
      }
      // the value's own range, as far as it is still there
      const to = out.length ? null : laneTarget(t, l);
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
        bad(
          q + '/points',
          'point',
          `${who}: a point of ${to?.label ?? 'a lane'} has a time in seconds and a value from ${low} to ${high}.`,
        );
      } else if (l.points.some((x, k) => k > 0 && x.at <= l.points[k - 1].at)) {
        bad(
          q + '/points',
          'order',
          `${who}: the points of ${to?.label ?? 'a lane'} follow one another in time.`,
        );
      }
    });
    list(t.clips, p + '/clips', (c, q) => {
      unique(c.id, q);
      if (!media.has(c.media)) {
        bad(q + '/media', 'exists', `${who}: a clip plays a sound that is not in the session’s media list.`);
      }
      number(c.start, 0, 86400, q + '/start', `${who}: clip start (s)`, bad);
      number(c.offset, 0, 86400, q + '/offset', `${who}: clip offset (s)`, bad);
      number(c.length, 0, 86400, q + '/length', `${who}: clip length (s)`, bad);
      number(c.gain, MIN_LEVEL, 36, q + '/gain', `${who}: clip gain (dB)`, bad);
    });
  });
  return out;

  function target(o: Track['output'], path: string, what: string, t: Track) {
    if (!isObject(o) || !['none', 'track', 'hardware', 'midi'].includes(o.kind)) {
      bad(path, 'choice', `${what}: unknown kind of output.`);
      return;
    }
    if (o.kind === 'midi') {
      address(o, path, what);
      if (t.role !== 'midi') bad(path, 'choice', `${what}: only a MIDI track sends notes.`);
    }
    if (o.kind !== 'track') return;
    const far = byId.get(o.track);
    if (!far) bad(path, 'exists', `${what} goes to a track that does not exist.`);
    else if (o.track === t.id) bad(path, 'self', `${what} goes to itself.`);
    else if (!['bus', 'return', 'folder', 'master', 'audio'].includes(far.role)) {
      bad(path, 'output-target', `${what} goes to “${far.name}”, which takes no sound.`);
    }
  }

  function address(a: { port: unknown; channel: unknown }, path: string, what: string) {
    if (!['A', 'B', 'C', 'D'].includes(a.port as string)) {
      bad(path + '/port', 'choice', `${what}: a MIDI port is A, B, C or D.`);
    }
    if (a.channel !== 0 && !channel(a.channel)) {
      bad(path + '/channel', 'range', `${what}: a MIDI channel goes from 1 to 16; 0 is all of them.`);
    }
  }

  function slot(d: Slot, path: string, who: string, depth: number) {
    unique(d.id, path);
    if (d.kind === 'rack') rack(d, path, who, depth);
    else if (d.kind === 'device') device(d, path, who);
    else bad(path + '/kind', 'choice', `${who}: a chain holds devices and racks.`);
  }

  function rack(r: Rack, path: string, who: string, depth: number) {
    text(r.name, path + '/name', `${who}: rack name`, 200, bad);
    const what = `${who}, ${r.name}`;
    if (!['on', 'bypassed', 'inactive'].includes(r.state)) {
      bad(path + '/state', 'choice', `${what}: a rack is on, bypassed or inactive.`);
    }
    if (depth >= MAX_DEPTH) {
      bad(path, 'depth', `${what}: racks nest at most ${MAX_DEPTH} deep.`);
      return;
    }
    if (!isObject(r.blend) || !['off', 'power', 'linear'].includes(r.blend.mode)) {
      bad(path + '/blend', 'choice', `${what}: a blend is off, equal-power or linear.`);
    } else number(r.blend.position, 0, 100, path + '/blend/position', `${what}: blend (%)`, bad);
    if (Array.isArray(r.strands) && (r.strands.length < 1 || r.strands.length > 16)) {
      bad(path + '/strands', 'size', `${what}: a rack has 1 to 16 strands.`);
    }
    list(r.strands, path + '/strands', (s, q) => {
      unique(s.id, q);
      text(s.name, q + '/name', `${what}: strand name`, 200, bad);
      number(s.level, MIN_LEVEL, MAX_LEVEL, q + '/level', `${what}, ${s.name}: level (dB)`, bad);
      number(s.pan, -100, 100, q + '/pan', `${what}, ${s.name}: pan`, bad);
      for (const k of ['mute', 'solo'] as const) {
        if (typeof s[k] !== 'boolean') bad(`${q}/${k}`, 'switch', `${what}, ${s.name}: ${k} is on or off.`);
      }
      list(s.chain, q + '/chain', (d, x) => slot(d, x, who, depth + 1));
    });
    if (out.length) return;
    if (Array.isArray(r.handles) && r.handles.length > 32) {
      bad(path + '/handles', 'size', `${what}: a rack has at most 32 handles.`);
    }
    list(r.handles, path + '/handles', (h, q) => {
      unique(h.id, q);
      text(h.name, q + '/name', `${what}: handle name`, 200, bad);
      if (!COLOURS.some((c) => c.id === h.colour)) {
        bad(
          q + '/colour',
          'colour',
          `${what}, ${h.name}: “${String(h.colour)}” is not one of the twelve colours.`,
        );
      }
      number(h.value, 0, 100, q + '/value', `${what}, ${h.name}: value (%)`, bad);
      if (h.cc !== null && !(Number.isInteger(h.cc) && h.cc >= 0 && h.cc <= 119)) {
        bad(q + '/cc', 'controller', `${what}, ${h.name}: a controller number goes from 0 to 119.`);
      }
      list(h.ties, q + '/ties', (t, x) => {
        unique(t.id, x);
        const far = tieTarget(r, t);
        if (!far) {
          bad(x, 'tie', `${what}, ${h.name}: it is tied to a value that is not in this rack.`);
          return;
        }
        number(
          t.from,
          far.spec.min!,
          far.spec.max!,
          x + '/from',
          `${what}, ${h.name}: start of ${far.label}`,
          bad,
        );
        number(t.to, far.spec.min!, far.spec.max!, x + '/to', `${what}, ${h.name}: end of ${far.label}`, bad);
        number(t.curve, -100, 100, x + '/curve', `${what}, ${h.name}: curve`, bad);
      });
    });
  }

  function device(d: Device, path: string, who: string) {
    const spec = DEVICE_TYPES[d.type];
    if (!spec) {
      bad(path + '/type', 'device-type', `${who}: this program has no device “${d.type}”.`);
      return;
    }
    text(d.name, path + '/name', `${who}: device name`, 200, bad);
    if (!['on', 'bypassed', 'inactive'].includes(d.state)) {
      bad(path + '/state', 'choice', `${who}, ${d.name}: a device is on, bypassed or inactive.`);
    }
    if (!isObject(d.params)) {
      bad(path + '/params', 'object', `${who}, ${d.name}: the values are missing.`);
      return;
    }
    for (const k of Object.keys(d.params)) {
      if (!spec.byId[k]) {
        bad(`${path}/params/${k}`, 'unknown-param', `${who}, ${d.name}: there is no value called “${k}”.`);
      }
    }
    for (const ps of spec.params) {
      const v = d.params[ps.id];
      const where = `${path}/params/${ps.id}`;
      const what = `${who}, ${d.name}: ${ps.label}`;
      if (ps.kind === 'switch') {
        if (typeof v !== 'boolean') bad(where, 'switch', `${what} is on or off.`);
      } else if (ps.kind === 'text') {
        if (typeof v !== 'string' || v.length < 1 || v.length > 80) {
          bad(where, 'text', `${what} is a text of 1 to 80 characters.`);
        }
      } else if (ps.kind === 'choice') {
        if (!ps.choices!.some((c) => c.id === v)) {
          bad(where, 'choice', `${what} is one of ${ps.choices!.map((c) => c.label).join(', ')}.`);
        }
      } else if (typeof v !== 'number' || !Number.isFinite(v) || v < ps.min! || v > ps.max!) {
        bad(
          where,
          'range',
          `${what} is a number from ${formatValue(ps, ps.min!)} to ${formatValue(ps, ps.max!)}.`,
        );
      }
    }
    if (!isObject(d.key) || !['own', 'track'].includes(d.key.kind)) {
      bad(path + '/key', 'choice', `${who}, ${d.name}: unknown kind of key.`);
    } else if (d.key.kind === 'track') {
      if (!byId.has(d.key.track)) {
        bad(path + '/key', 'exists', `${who}, ${d.name}: its key comes from a track that does not exist.`);
      }
      if (!['pre', 'post'].includes(d.key.tap)) {
        bad(path + '/key', 'choice', `${who}, ${d.name}: a key is taken pre or post fader.`);
      }
    }
    if (d.type === 'opaque' && !isObject(d.foreign)) {
      bad(path + '/foreign', 'opaque', `${who}, ${d.name}: a third-party device needs its identifier.`);
    }
  }

  function list<T>(v: T[], path: string, each: (x: T, p: string) => void) {
    if (!Array.isArray(v)) bad(path, 'list', 'A list is expected here.');
    else if (v.length > 500) bad(path, 'size', 'A list holds at most 500 members.');
    else {
      v.forEach((x, i) =>
        isObject(x) ? each(x, `${path}/${i}`) : bad(`${path}/${i}`, 'object', 'An object is expected here.'),
      );
    }
  }
}

type Bad = (path: string, rule: string, message: string) => void;
const isObject = (v: unknown): v is Record<string, unknown> =>
  typeof v === 'object' && v !== null && !Array.isArray(v);

const whole = (v: unknown, low: number, high: number): v is number =>
  Number.isInteger(v) && (v as number) >= low && (v as number) <= high;
const key = (v: unknown): v is number => whole(v, 0, 127);
const channel = (v: unknown): v is number => whole(v, 1, 16);
const time = (v: unknown): v is number => typeof v === 'number' && v >= 0 && v <= 100000;

function number(v: unknown, min: number, max: number, path: string, what: string, bad: Bad) {
  if (typeof v !== 'number' || !Number.isFinite(v)) bad(path, 'number', `${what} is a number.`);
  else if (v < min || v > max) bad(path, 'range', `${what} goes from ${min} to ${max}; ${v} is outside.`);
}

function text(v: unknown, path: string, what: string, max: number, bad: Bad, mayBeEmpty = false) {
  if (typeof v !== 'string' || (!mayBeEmpty && v.trim() === '')) {
    bad(path, 'text', `${what} is a text${mayBeEmpty ? '' : ' and is not empty'}.`);
  } else if (v.length > max) bad(path, 'length', `${what} holds at most ${max} characters.`);
}
