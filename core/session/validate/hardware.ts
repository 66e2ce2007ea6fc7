import { RANGES } from '../../model/ranges.ts';
import {
  CABLE_FAULTS,
  CONTROL_KINDS,
  FAMILIES,
  NOMINALS,
  NORMALS,
  WIDTHS,
  type Control,
  type HardwareUse,
  type Line,
  type Measured,
  type Studio,
  type Unit,
  type UnitUse,
} from '../../model/hardware.ts';
import { isObject, type Checking } from './checking.ts';

/** What a check of hardware needs of a session's check; a setup of the shelf is checked by it too. */
export type Saying = Pick<Checking, 'bad' | 'number' | 'text' | 'list'>;

const oneOf = (list: readonly string[], v: unknown): boolean => typeof v === 'string' && list.includes(v);
const isId = (v: unknown): boolean => typeof v === 'string' && /^[\w.-]{1,64}$/.test(v);

/** Most members of the lists of a setup. */
const MOST = {
  ports: 256,
  bays: 32,
  pairs: 512,
  units: 200,
  panel: 64,
  cables: 2000,
  loops: 200,
  labels: 32,
};

/** A list of at most so many objects; false when it is none. */
function isList(c: Saying, v: unknown, most: number, path: string, what: string): v is object[] {
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
  c.text(s.name, `${path}/name`, 'The setup’s name', 200);
  if (typeof s.note !== 'string' || s.note.length > 20000) {
    c.bad(`${path}/note`, 'text', 'The setup’s note is a text of at most 20,000 characters.');
  }
  if (!isId(s.id)) c.bad(`${path}/id`, 'id', 'A setup has an id of up to 64 characters.');
  if (!Number.isInteger(s.version) || s.version < 1) {
    c.bad(`${path}/version`, 'number', 'A setup’s version is counted from 1.');
  }
  checkPorts(c, s, path);
  checkBays(c, s, path);
  if (isList(c, s.units, MOST.units, `${path}/units`, 'Units')) {
    unique(c, s.units, `${path}/units`, 'Units');
    s.units.forEach((u, i) => checkUnit(c, u, `${path}/units/${i}`));
  }
  checkLeads(c, s, path);
  if (!isObject(s.midi)) c.bad(`${path}/midi`, 'object', 'What hangs on the MIDI ports is told by port.');
  if (isList(c, s.loops, MOST.loops, `${path}/loops`, 'Loops')) {
    s.loops.forEach((l, i) => {
      c.text(l.name, `${path}/loops/${i}/name`, 'A loop’s name', 200);
      checkMeasured(c, l.measured, `${path}/loops/${i}/measured`, `Loop ${l.name}`);
    });
  }
  if (isList(c, s.controllers, MOST.units, `${path}/controllers`, 'Controllers')) {
    s.controllers.forEach((x, i) =>
      c.text(x.name, `${path}/controllers/${i}/name`, 'A controller’s name', 200),
    );
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
  if (!isList(c, s.ports, MOST.ports, `${path}/ports`, 'Ports')) return;
  unique(c, s.ports, `${path}/ports`, 'Ports');
  s.ports.forEach((p, i) => {
    const at = `${path}/ports/${i}`;
    c.text(p.name, `${at}/name`, 'A port’s name', 80);
    c.number(p.number, ...RANGES.Port.number, `${at}/number`, `${p.name}: number`);
    c.number(p.alignment, ...RANGES.Port.alignment, `${at}/alignment`, `${p.name}: dBu of 0 dBFS`);
    if (!oneOf(['in', 'out'], p.side)) c.bad(`${at}/side`, 'choice', `${p.name} is an input or an output.`);
    if (!oneOf(NOMINALS, p.nominal)) c.bad(`${at}/nominal`, 'choice', `${p.name}: unknown nominal level.`);
    if (typeof p.connector !== 'string' || p.connector.length > 40) {
      c.bad(`${at}/connector`, 'text', `${p.name}: its connector is a text of at most 40 characters.`);
    }
  });
}

function checkBays(c: Saying, s: Studio, path: string): void {
  if (!isList(c, s.bays, MOST.bays, `${path}/bays`, 'Patchbays')) return;
  unique(c, s.bays, `${path}/bays`, 'Patchbays');
  s.bays.forEach((b, i) => {
    const at = `${path}/bays/${i}`;
    c.text(b.name, `${at}/name`, 'A patchbay’s name', 80);
    if (!isList(c, b.pairs, MOST.pairs, `${at}/pairs`, b.name)) return;
    b.pairs.forEach((pair, k) => {
      if (!oneOf(NORMALS, pair.mode)) {
        c.bad(`${at}/pairs/${k}/mode`, 'choice', `${b.name} ${k + 1}: unknown normal.`);
      }
      for (const row of ['upper', 'lower'] as const) {
        if (typeof pair[row] !== 'string' || pair[row].length > 80) {
          c.bad(`${at}/pairs/${k}/${row}`, 'text', `${b.name} ${k + 1}: a label has at most 80 characters.`);
        }
      }
    });
  });
}

/** Wires and cables. */
function checkLeads(c: Saying, s: Studio, path: string): void {
  const isJack = (v: unknown) => typeof v === 'string' && v.length <= 200;
  for (const [key, what] of [
    ['wires', 'Wires'],
    ['cables', 'Cables'],
  ] as const) {
    if (!isList(c, s[key], MOST.cables, `${path}/${key}`, what)) continue;
    s[key].forEach((w, i) => {
      if (!isJack(w.from) || !isJack(w.to)) {
        c.bad(`${path}/${key}/${i}`, 'jack', `${what}: each has two ends.`);
      }
    });
  }
  if (!Array.isArray(s.cables)) return;
  s.cables.forEach((x, i) => {
    if (x.fault !== undefined && !oneOf(CABLE_FAULTS, x.fault)) {
      c.bad(`${path}/cables/${i}/fault`, 'choice', 'A cable: unknown fault.');
    }
  });
}

function checkUnit(c: Saying, u: Unit, path: string): void {
  c.text(u.name, `${path}/name`, 'A unit’s name', 200);
  if (!isId(u.id)) c.bad(`${path}/id`, 'id', `${u.name}: a unit has an id.`);
  if (!oneOf(FAMILIES, u.family)) c.bad(`${path}/family`, 'choice', `${u.name}: unknown family.`);
  if (!oneOf(WIDTHS, u.width)) {
    c.bad(`${path}/width`, 'choice', `${u.name} is mono, stereo or two mono channels.`);
  }
  if (!oneOf(NOMINALS, u.nominal)) c.bad(`${path}/nominal`, 'choice', `${u.name}: unknown nominal level.`);
  if (u.simulated !== null && typeof u.simulated !== 'string') {
    c.bad(`${path}/simulated`, 'choice', `${u.name}: a simulation is named, or there is none.`);
  }
  if (!isList(c, u.panel, MOST.panel, `${path}/panel`, u.name)) return;
  unique(c, u.panel, `${path}/panel`, u.name);
  u.panel.forEach((x, i) => checkControl(c, x, `${path}/panel/${i}`, u.name));
}

function checkControl(c: Saying, x: Control, path: string, unit: string): void {
  const what = `${unit}, ${x.label}`;
  c.text(x.label, `${path}/label`, `${unit}: a control’s label`, 80);
  if (!oneOf(CONTROL_KINDS, x.kind)) c.bad(`${path}/kind`, 'choice', `${what}: unknown kind of control.`);
  if (!oneOf(['linear', 'log', 'square'], x.taper)) {
    c.bad(`${path}/taper`, 'choice', `${what}: unknown taper.`);
  }
  c.number(x.min, ...RANGES.Control.min, `${path}/min`, `${what}: lowest position`);
  c.number(x.max, ...RANGES.Control.max, `${path}/max`, `${what}: highest position`);
  c.number(x.default, x.min, x.max, `${path}/default`, `${what}: position at rest`);
  if (!(x.max > x.min)) c.bad(`${path}/max`, 'range', `${what}: the highest position is above the lowest.`);
  if (x.taper === 'log' && !(x.min > 0)) {
    c.bad(`${path}/min`, 'range', `${what}: a log taper begins above 0.`);
  }
  const isPlace = (v: unknown) => Number.isInteger(v) && (v as number) >= 0 && (v as number) < 32;
  if (!isPlace(x.column) || !isPlace(x.row)) {
    c.bad(path, 'place', `${what}: its place is a column and a row.`);
  }
  for (const key of ['steps', 'labels'] as const) {
    const list: unknown = x[key];
    if (list !== undefined && !(Array.isArray(list) && list.length > 0 && list.length <= MOST.labels)) {
      c.bad(`${path}/${key}`, 'list', `${what}: 1 to ${MOST.labels} ${key} are expected.`);
    }
  }
}

/** Units in use, with their positions. */
export function checkUses(c: Saying, uses: UnitUse[], path: string, what: string): void {
  if (!isList(c, uses, 16, path, `${what}: units`)) return;
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
      const control = Array.isArray(use.unit.panel) ? use.unit.panel.find((x) => x.id === id) : undefined;
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
    m.response.length <= 400 &&
    m.response.every((x) => Array.isArray(x) && x.length === 2 && x.every(Number.isFinite));
  if (!isResponse) c.bad(`${path}/response`, 'list', `${what}: a response is pairs of Hz and dB.`);
  const isFaults =
    Array.isArray(m.faults) && m.faults.length <= 50 && m.faults.every((x) => typeof x === 'string');
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
    if (l[key] !== null) c.number(l[key], -200, 0, `${path}/${key}`, `${what}: ${key} of its line (dBFS)`);
  }
}
