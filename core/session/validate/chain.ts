import { LISTS, RANGES, TEXTS } from '../../model/limits.ts';
import { DEVICE_TYPES } from '../../devices/index.ts';
import { COLOURS } from '../../model/colours.ts';
import type { ParamSpec } from '../../model/param.ts';
import { type Device, type Handle, type Rack, type Slot, type Tie } from '../../model/types.ts';
import { formatValue } from '../../model/units.ts';
import { tieRange, tieTarget } from '../tie-targets.ts';
import { MAX_DEPTH } from '../slots.ts';
import { isObject, isWhole, type Checking } from './checking.ts';
import { checkHardware } from './hardware.ts';
import { checkForeign, checkOrigin } from './origin.ts';

/** A device or rack in a chain; `depth` counts the racks around it. */
export function checkSlot(c: Checking, d: Slot, path: string, who: string, depth: number): void {
  c.unique(d.id, path);
  if (d.kind === 'rack') checkRack(c, d, path, who, depth);
  else if (d.kind === 'device') checkDevice(c, d, path, who);
  else c.bad(path + '/kind', 'choice', `${who}: a chain holds devices and racks.`);
}

function checkRack(c: Checking, r: Rack, path: string, who: string, depth: number): void {
  c.text(r.name, path + '/name', `${who}: rack name`, TEXTS.Rack.name);
  const what = `${who}, ${r.name}`;
  if (!['on', 'bypassed', 'inactive'].includes(r.state)) {
    c.bad(path + '/state', 'choice', `${what}: a rack is on, bypassed or inactive.`);
  }
  checkOrigin(c, r.origin, path, what);
  if (depth >= MAX_DEPTH) {
    c.bad(path, 'depth', `${what}: racks nest at most ${MAX_DEPTH} deep.`);
    return;
  }
  if (!isObject(r.blend) || !['off', 'power', 'linear'].includes(r.blend.mode)) {
    c.bad(path + '/blend', 'choice', `${what}: a blend is off, equal-power or linear.`);
  } else c.number(r.blend.position, ...RANGES.Blend.position, path + '/blend/position', `${what}: blend (%)`);
  const [fewest, most] = LISTS.Rack.strands;
  if (Array.isArray(r.strands) && (r.strands.length < fewest || r.strands.length > most)) {
    c.bad(path + '/strands', 'size', `${what}: a rack has ${fewest} to ${most} strands.`);
  }
  c.list(r.strands, path + '/strands', `${what}: strands`, (s, q) => {
    c.unique(s.id, q);
    c.text(s.name, q + '/name', `${what}: strand name`, TEXTS.Strand.name);
    c.number(s.level, ...RANGES.Strand.level, q + '/level', `${what}, ${s.name}: level (dB)`);
    c.number(s.pan, ...RANGES.Strand.pan, q + '/pan', `${what}, ${s.name}: pan`);
    for (const k of ['mute', 'solo'] as const) {
      if (typeof s[k] !== 'boolean') c.bad(`${q}/${k}`, 'switch', `${what}, ${s.name}: ${k} is on or off.`);
    }
    c.list(s.chain, q + '/chain', `${what}, ${s.name}: devices`, (d, x) =>
      checkSlot(c, d, x, who, depth + 1),
    );
  });
  if (c.failed()) return;
  const mostHandles = LISTS.Rack.handles[1];
  if (Array.isArray(r.handles) && r.handles.length > mostHandles) {
    c.bad(path + '/handles', 'size', `${what}: a rack has at most ${mostHandles} handles.`);
  }
  c.list(r.handles, path + '/handles', `${what}: handles`, (h, q) => checkHandle(c, r, h, q, what));
}

function checkHandle(c: Checking, r: Rack, h: Handle, q: string, what: string): void {
  c.unique(h.id, q);
  c.text(h.name, q + '/name', `${what}: handle name`, TEXTS.Handle.name);
  if (!COLOURS.some((c) => c.id === h.colour)) {
    c.bad(
      q + '/colour',
      'colour',
      `${what}, ${h.name}: “${String(h.colour)}” is not one of the twelve colours.`,
    );
  }
  c.number(h.value, ...RANGES.Handle.value, q + '/value', `${what}, ${h.name}: value (%)`);
  const [first, last] = RANGES.Handle.cc;
  if (h.cc !== null && !isWhole(h.cc, first, last)) {
    c.bad(q + '/cc', 'controller', `${what}, ${h.name}: a controller number goes from ${first} to ${last}.`);
  }
  if (h.button !== undefined && h.button !== 'toggle' && h.button !== 'hold') {
    c.bad(q + '/button', 'choice', `${what}, ${h.name}: a button toggles or holds.`);
  }
  if (h.link !== undefined) c.text(h.link, q + '/link', `${what}, ${h.name}: link`, TEXTS.Handle.link);
  c.list(h.ties, q + '/ties', `${what}, ${h.name}: ties`, (t, x) =>
    checkTie(c, r, t, x, `${what}, ${h.name}`),
  );
}

function checkTie(c: Checking, r: Rack, t: Tie, x: string, what: string): void {
  c.unique(t.id, x);
  const far = typeof t.param === 'string' ? tieTarget(r, t) : null;
  if (!far) {
    c.bad(x, 'tie', `${what}: it is tied to a value that is not in this rack.`);
    return;
  }
  const [low, high] = tieRange(far.spec);
  c.number(t.from, low, high, x + '/from', `${what}: start of ${far.label}`);
  c.number(t.to, low, high, x + '/to', `${what}: end of ${far.label}`);
  c.number(t.curve, ...RANGES.Tie.curve, x + '/curve', `${what}: curve`);
}

function checkDevice(c: Checking, d: Device, path: string, who: string): void {
  // a list of one name would be taken for the name
  const spec = typeof d.type === 'string' ? DEVICE_TYPES[d.type] : undefined;
  if (!spec) {
    c.bad(path + '/type', 'device-type', `${who}: this program has no device “${String(d.type)}”.`);
    return;
  }
  c.text(d.name, path + '/name', `${who}: device name`, TEXTS.Device.name);
  if (!['on', 'bypassed', 'inactive'].includes(d.state)) {
    c.bad(path + '/state', 'choice', `${who}, ${d.name}: a device is on, bypassed or inactive.`);
  }
  if (!isObject(d.params)) {
    c.bad(path + '/params', 'object', `${who}, ${d.name}: the values are missing.`);
    return;
  }
  for (const k of Object.keys(d.params)) {
    if (!spec.byId[k]) {
      c.bad(`${path}/params/${k}`, 'unknown-param', `${who}, ${d.name}: there is no value called “${k}”.`);
    }
  }
  for (const ps of spec.params) {
    if (ps.isLater && d.params[ps.id] === undefined) continue;
    checkValue(c, ps, d.params[ps.id], `${path}/params/${ps.id}`, `${who}, ${d.name}: ${ps.label}`);
  }
  checkKey(c, d, path, who);
  if (d.revision !== undefined && !isWhole(d.revision, ...RANGES.Device.revision)) {
    c.bad(`${path}/revision`, 'range', `${who}, ${d.name}: revisions of a sound count from 1.`);
  }
  if (d.hardware !== undefined) {
    if (spec.loop) checkHardware(c, d.hardware, `${path}/hardware`, `${who}, ${d.name}`);
    else c.bad(`${path}/hardware`, 'unknown-param', `${who}, ${d.name} does not leave the computer.`);
  }
  checkOrigin(c, d.origin, path, `${who}, ${d.name}`);
  if (spec.foreign || d.foreign !== undefined) {
    checkForeign(c, d.foreign!, path, `${who}, ${d.name}`);
  }
}

function checkKey(c: Checking, d: Device, path: string, who: string): void {
  if (!isObject(d.key) || !['own', 'track'].includes(d.key.kind)) {
    c.bad(path + '/key', 'choice', `${who}, ${d.name}: unknown kind of key.`);
  } else if (d.key.kind === 'track') {
    if (!c.byId.has(d.key.track)) {
      c.bad(path + '/key', 'exists', `${who}, ${d.name}: its key comes from a track that does not exist.`);
    }
    if (!['pre', 'post'].includes(d.key.tap)) {
      c.bad(path + '/key', 'choice', `${who}, ${d.name}: a key is taken pre or post fader.`);
    }
  }
}

/** One value against its own table: kind and range. */
function checkValue(c: Checking, ps: ParamSpec, v: unknown, where: string, what: string): void {
  if (ps.kind === 'switch') {
    if (typeof v !== 'boolean') c.bad(where, 'switch', `${what} is on or off.`);
  } else if (ps.kind === 'text') {
    if (typeof v !== 'string' || v.length < 1 || v.length > 80) {
      c.bad(where, 'text', `${what} is a text of 1 to 80 characters.`);
    }
  } else if (ps.kind === 'choice') {
    if (!ps.choices!.some((c) => c.id === v)) {
      c.bad(where, 'choice', `${what} is one of ${ps.choices!.map((c) => c.label).join(', ')}.`);
    }
  } else if (typeof v !== 'number' || !Number.isFinite(v) || v < ps.min! || v > ps.max!) {
    c.bad(
      where,
      'range',
      `${what} is a number from ${formatValue(ps, ps.min!)} to ${formatValue(ps, ps.max!)}.`,
    );
  }
}
