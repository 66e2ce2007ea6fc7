import { MIDI_PORTS } from '../../model/basic.ts';
import { LISTS, RANGES, STUDIO_ID, TEXTS } from '../../model/limits.ts';
import {
  CABLE_FAULTS,
  CONTROL_KINDS,
  CONTROL_UNITS,
  FAMILIES,
  NOMINALS,
  NORMALS,
  WIDTHS,
  type Control,
  type Controller,
  type HardwareUse,
  type Line,
  type Measured,
  type Studio,
  type Unit,
  type UnitUse,
} from '../../model/hardware.ts';
import { isLonger, isObject, isWhole, type Checking, type Size } from './checking.ts';

/** What a check of hardware needs of a session's check; a setup of the shelf is checked by it too. */
export type Saying = Pick<Checking, 'bad' | 'number' | 'text' | 'list'>;

const oneOf = (list: readonly string[], v: unknown): boolean => typeof v === 'string' && list.includes(v);
const isId = (v: unknown): boolean => typeof v === 'string' && STUDIO_ID.test(v);

/** A list of at most so many objects; false when it is none. */
function isList(c: Saying, v: unknown, [, most]: Size, path: string, what: string): v is object[] {
  if (Array.isArray(v) && v.length <= most && v.every(isObject)) return true;
  c.bad(path, 'list', `${what}: a list of at most ${most} is expected.`);
  return false;
}

/** A studio: ports, bays, units, wires, cables, controllers. */
export function checkStudio(c: Saying, s: Studio, path: string): void {
  if (!isObject(s) || s.format !== 'rope-shelf/setup') {
    c.bad(path, 'format', 'This is not a setup of a studio.');
    return;
  }
  c.text(s.name, `${path}/name`, 'The setup’s name', TEXTS.Studio.name);
  c.text(s.note, `${path}/note`, 'The setup’s note', TEXTS.Studio.note);
  if (!isId(s.id)) c.bad(`${path}/id`, 'id', 'A setup has an id of up to 64 characters.');
  if (!isWhole(s.version, ...RANGES.Studio.version)) {
    c.bad(`${path}/version`, 'number', 'A setup’s version is counted from 1.');
  }
  checkPorts(c, s, path);
  checkBays(c, s, path);
  if (isList(c, s.units, LISTS.Studio.units, `${path}/units`, 'Units')) {
    unique(c, s.units, `${path}/units`, 'Units');
    s.units.forEach((u, i) => checkUnit(c, u, `${path}/units/${i}`));
  }
  checkLeads(c, s, path);
  const { midi } = s;
  if (!isObject(midi) || !MIDI_PORTS.every((port) => ['string', 'undefined'].includes(typeof midi[port]))) {
    c.bad(`${path}/midi`, 'object', 'What hangs on the MIDI ports is told by port.');
  }
  if (isList(c, s.loops, LISTS.Studio.loops, `${path}/loops`, 'Loops')) {
    s.loops.forEach((l, i) => {
      c.text(l.name, `${path}/loops/${i}/name`, 'A loop’s name', TEXTS.StudioLoop.name);
      checkMeasured(c, l.measured, `${path}/loops/${i}/measured`, `Loop ${l.name}`);
    });
  }
  if (isList(c, s.controllers, LISTS.Studio.controllers, `${path}/controllers`, 'Controllers')) {
    s.controllers.forEach((x, i) => checkController(c, x, `${path}/controllers/${i}`));
  }
}

function checkController(c: Saying, x: Controller, path: string): void {
  c.text(x.name, `${path}/name`, 'A controller’s name', TEXTS.Controller.name);
  if (typeof x.id !== 'string') c.bad(`${path}/id`, 'id', `${x.name}: a controller has an id.`);
  if (!oneOf(MIDI_PORTS, x.port)) c.bad(`${path}/port`, 'choice', `${x.name}: a MIDI port is A, B, C or D.`);
  const { channel, numbers } = RANGES.Controller;
  const areNumbers = Array.isArray(x.numbers) && x.numbers.every((n) => isWhole(n, ...numbers));
  if (!isWhole(x.channel, ...channel) || !areNumbers) {
    c.bad(path, 'controller', `${x.name}: a controller has a channel and sends numbers from 0 to 127.`);
  }
}

function unique(c: Saying, list: readonly { id: string }[], path: string, what: string): void {
  const seen = new Set<string>();
  list.forEach((x, i) => {
    if (!isId(x.id)) c.bad(`${path}/${i}/id`, 'id', `${what}: each has an id of up to 64 characters.`);
    if (seen.has(x.id)) c.bad(`${path}/${i}/id`, 'unique', `${what}: the id “${x.id}” is there twice.`);
    seen.add(x.id);
  });
}

function checkPorts(c: Saying, s: Studio, path: string): void {
  if (!isList(c, s.ports, LISTS.Studio.ports, `${path}/ports`, 'Ports')) return;
  unique(c, s.ports, `${path}/ports`, 'Ports');
  s.ports.forEach((p, i) => {
    const at = `${path}/ports/${i}`;
    c.text(p.name, `${at}/name`, 'A port’s name', TEXTS.Port.name);
    c.number(p.number, ...RANGES.Port.number, `${at}/number`, `${p.name}: number`);
    c.number(p.alignment, ...RANGES.Port.alignment, `${at}/alignment`, `${p.name}: dBu of 0 dBFS`);
    if (!oneOf(['in', 'out'], p.side)) c.bad(`${at}/side`, 'choice', `${p.name} is an input or an output.`);
    if (!oneOf(NOMINALS, p.nominal)) c.bad(`${at}/nominal`, 'choice', `${p.name}: unknown nominal level.`);
    if (p.pair !== null && typeof p.pair !== 'string') {
      c.bad(`${at}/pair`, 'id', `${p.name}: its other half is a port, or there is none.`);
    }
    if (p.monitor !== undefined && p.monitor !== true) {
      c.bad(`${at}/monitor`, 'switch', `${p.name}: loudspeakers hang on it, or nothing is said of them.`);
    }
    c.text(p.connector, `${at}/connector`, `${p.name}: its connector`, TEXTS.Port.connector);
  });
}

function checkBays(c: Saying, s: Studio, path: string): void {
  if (!isList(c, s.bays, LISTS.Studio.bays, `${path}/bays`, 'Patchbays')) return;
  unique(c, s.bays, `${path}/bays`, 'Patchbays');
  s.bays.forEach((b, i) => {
    const at = `${path}/bays/${i}`;
    c.text(b.name, `${at}/name`, 'A patchbay’s name', TEXTS.Bay.name);
    if (!isList(c, b.pairs, LISTS.Bay.pairs, `${at}/pairs`, b.name)) return;
    b.pairs.forEach((pair, k) => {
      if (!oneOf(NORMALS, pair.mode)) {
        c.bad(`${at}/pairs/${k}/mode`, 'choice', `${b.name} ${k + 1}: unknown normal.`);
      }
      for (const row of ['upper', 'lower'] as const) {
        c.text(pair[row], `${at}/pairs/${k}/${row}`, `${b.name} ${k + 1}: a label`, TEXTS.Pair[row]);
      }
    });
  });
}

/** Wires and cables. */
function checkLeads(c: Saying, s: Studio, path: string): void {
  const isJack = (v: unknown) => typeof v === 'string' && !isLonger(v, TEXTS.Wire.from[1]);
  for (const [key, what] of [
    ['wires', 'Wires'],
    ['cables', 'Cables'],
  ] as const) {
    if (!isList(c, s[key], LISTS.Studio[key], `${path}/${key}`, what)) return;
    s[key].forEach((w, i) => {
      if (!isJack(w.from) || !isJack(w.to)) {
        c.bad(`${path}/${key}/${i}`, 'jack', `${what}: each has two ends.`);
      }
    });
  }
  s.cables.forEach((x, i) => {
    if (typeof x.id !== 'string') c.bad(`${path}/cables/${i}/id`, 'id', 'A cable has an id.');
    if (x.fault !== undefined && !oneOf(CABLE_FAULTS, x.fault)) {
      c.bad(`${path}/cables/${i}/fault`, 'choice', 'A cable: unknown fault.');
    }
  });
}

function checkUnit(c: Saying, u: Unit, path: string): void {
  c.text(u.name, `${path}/name`, 'A unit’s name', TEXTS.Unit.name);
  if (!isId(u.id)) c.bad(`${path}/id`, 'id', `${u.name}: a unit has an id.`);
  if (!oneOf(FAMILIES, u.family)) c.bad(`${path}/family`, 'choice', `${u.name}: unknown family.`);
  if (!oneOf(WIDTHS, u.width)) {
    c.bad(`${path}/width`, 'choice', `${u.name} is mono, stereo or two mono channels.`);
  }
  if (!oneOf(NOMINALS, u.nominal)) c.bad(`${path}/nominal`, 'choice', `${u.name}: unknown nominal level.`);
  if (u.simulated !== null && typeof u.simulated !== 'string') {
    c.bad(`${path}/simulated`, 'choice', `${u.name}: a simulation is named, or there is none.`);
  }
  if (typeof u.hasKey !== 'boolean') {
    c.bad(`${path}/hasKey`, 'switch', `${u.name}: its key input is there or not.`);
  }
  c.text(u.note, `${path}/note`, `${u.name}: note`, TEXTS.Unit.note);
  if (!isList(c, u.panel, LISTS.Unit.panel, `${path}/panel`, u.name)) return;
  unique(c, u.panel, `${path}/panel`, u.name);
  u.panel.forEach((x, i) => checkControl(c, x, `${path}/panel/${i}`, u.name));
}

function checkControl(c: Saying, x: Control, path: string, unit: string): void {
  const what = `${unit}, ${x.label}`;
  c.text(x.label, `${path}/label`, `${unit}: a control’s label`, TEXTS.Control.label);
  if (!oneOf(CONTROL_KINDS, x.kind)) c.bad(`${path}/kind`, 'choice', `${what}: unknown kind of control.`);
  if (!oneOf(['linear', 'log', 'square'], x.taper)) {
    c.bad(`${path}/taper`, 'choice', `${what}: unknown taper.`);
  }
  if (!oneOf(CONTROL_UNITS, x.unit)) c.bad(`${path}/unit`, 'choice', `${what}: unknown unit.`);
  if (x.means !== undefined && typeof x.means !== 'string') {
    c.bad(`${path}/means`, 'text', `${what}: what it sets is a word.`);
  }
  c.number(x.min, ...RANGES.Control.min, `${path}/min`, `${what}: lowest position`);
  c.number(x.max, ...RANGES.Control.max, `${path}/max`, `${what}: highest position`);
  c.number(x.default, x.min, x.max, `${path}/default`, `${what}: position at rest`);
  if (!(x.max > x.min)) c.bad(`${path}/max`, 'range', `${what}: the highest position is above the lowest.`);
  if (x.taper === 'log' && !(x.min > 0)) {
    c.bad(`${path}/min`, 'range', `${what}: a log taper begins above 0.`);
  }
  if (!isWhole(x.column, ...RANGES.Control.column) || !isWhole(x.row, ...RANGES.Control.row)) {
    c.bad(path, 'place', `${what}: its place is a column and a row.`);
  }
  for (const [key, kind] of [
    ['steps', 'number'],
    ['labels', 'string'],
  ] as const) {
    const list: unknown = x[key];
    const [fewest, most] = LISTS.Control[key];
    const isSize = Array.isArray(list) && list.length >= fewest && list.length <= most;
    if (list !== undefined && !(isSize && list.every((one) => typeof one === kind))) {
      c.bad(`${path}/${key}`, 'list', `${what}: ${fewest} to ${most} ${key} are expected.`);
    }
  }
}

/** Units in use, with their positions. */
export function checkUses(c: Saying, uses: UnitUse[], path: string, what: string): void {
  if (!isList(c, uses, LISTS.HardwareUse.units, path, `${what}: units`)) return;
  unique(c, uses, path, `${what}: units`);
  uses.forEach((use, i) => {
    const at = `${path}/${i}`;
    if (!isObject(use.unit)) {
      c.bad(`${at}/unit`, 'object', `${what}: the unit is missing.`);
      return;
    }
    checkUnit(c, use.unit, `${at}/unit`);
    if (!isObject(use.positions)) {
      c.bad(`${at}/positions`, 'object', `${what}, ${use.unit.name}: the positions are missing.`);
      return;
    }
    for (const [id, v] of Object.entries(use.positions)) {
      const control = Array.isArray(use.unit.panel) ? use.unit.panel.find((x) => x?.id === id) : undefined;
      const label = `${what}, ${use.unit.name}: ${control?.label ?? id}`;
      if (!control) c.bad(`${at}/positions/${id}`, 'unknown-param', `${label} is not on its panel.`);
      else c.number(v, control.min, control.max, `${at}/positions/${id}`, label);
    }
  });
}

/** What a device goes through outside the computer. */
export function checkHardware(c: Saying, h: HardwareUse, path: string, what: string): void {
  if (!isObject(h)) {
    c.bad(path, 'object', `${what}: its hardware is no object.`);
    return;
  }
  checkUses(c, h.units, `${path}/units`, what);
  checkMeasured(c, h.measured, `${path}/measured`, what);
  if (h.line !== undefined) checkLine(c, h.line, `${path}/line`, what);
}

function checkMeasured(c: Saying, m: Measured | null, path: string, what: string): void {
  if (m === null) return;
  if (!isObject(m)) {
    c.bad(path, 'object', `${what}: what was measured is no object.`);
    return;
  }
  c.number(m.delay, ...RANGES.Measured.delay, `${path}/delay`, `${what}: measured delay (samples)`);
  c.number(m.gain, ...RANGES.Measured.gain, `${path}/gain`, `${what}: measured gain (dB)`);
  c.number(
    m.sampleRate,
    ...RANGES.Measured.sampleRate,
    `${path}/sampleRate`,
    `${what}: rate of the measurement (Hz)`,
  );
  const isResponse =
    Array.isArray(m.response) &&
    m.response.length <= LISTS.Measured.response[1] &&
    m.response.every((x) => Array.isArray(x) && x.length === 2 && x.every(Number.isFinite));
  if (!isResponse) c.bad(`${path}/response`, 'list', `${what}: a response is pairs of Hz and dB.`);
  const isFaults =
    Array.isArray(m.faults) &&
    m.faults.length <= LISTS.Measured.faults[1] &&
    m.faults.every((x) => typeof x === 'string');
  if (!isFaults) c.bad(`${path}/faults`, 'list', `${what}: faults are texts.`);
}

function checkLine(c: Saying, l: Line, path: string, what: string): void {
  if (!isObject(l)) {
    c.bad(path, 'object', `${what}: its line is no object.`);
    return;
  }
  c.number(l.delay, ...RANGES.Line.delay, `${path}/delay`, `${what}: delay of its line (samples)`);
  c.number(l.gain, ...RANGES.Line.gain, `${path}/gain`, `${what}: gain of its line (dB)`);
  if (l.polarity !== 1 && l.polarity !== -1) {
    c.bad(`${path}/polarity`, 'choice', `${what}: polarity is 1 or −1.`);
  }
  for (const key of ['noise', 'hum'] as const) {
    const level = l[key];
    if (level === null) continue;
    c.number(level, ...RANGES.Line[key], `${path}/${key}`, `${what}: ${key} of its line (dBFS)`);
  }
}
