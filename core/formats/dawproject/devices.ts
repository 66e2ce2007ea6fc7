import { cutText, NAME_LENGTH } from '../../model/text.ts';
import { DEVICE_TYPES, valueIn } from '../../devices/index.ts';
import { EQ_BANDS } from '../../devices/eq.ts';
import { createDevice } from '../../session/create.ts';
import { devicesIn } from '../../session/slots.ts';
import type { ParamSpec } from '../../model/param.ts';
import type { Device, Foreign, Rack, Params } from '../../model/types.ts';
import { sha256Of } from '../bytes.ts';
import type { Contents } from '../zip.ts';
import {
  aroundOf,
  fromUnit,
  isOn,
  numberAt,
  readValue,
  writeValue,
  type Quantity,
  type Unit,
} from './units.ts';
import { append, attr, ensure, fromText, kid, kids, toText, type Element } from './xml.ts';

/** Name under which our own devices appear in a file. */
const OURS = 'rope-shelf:';
const FORMATS: Record<string, string> = {
  Vst2Plugin: 'VST2',
  Vst3Plugin: 'VST3',
  ClapPlugin: 'CLAP',
  AuPlugin: 'AU',
};
const BANDS = ['highPass', 'lowPass', 'bandPass', 'highShelf', 'lowShelf', 'bell', 'notch'];

/** On, bypassed or inactive, as the file says it. */
export function stateOf(e: Element): Device['state'] {
  if (attr(e, 'loaded') === 'false') return 'inactive';
  return isOn(kid(e, 'Enabled'), true) ? 'on' : 'bypassed';
}

/** One value of the format's own devices: its element, what it measures, the value of ours that it is. */
interface Field {
  name: string;
  quantity: Quantity;
  usual: Unit;
  /** null where a value of ours is made of several of theirs */
  param: string | null;
  /** ours for one of theirs: 1000 for ms of seconds */
  scale: number;
}
const field = (name: string, quantity: Quantity, usual: Unit, param: string | null, scale = 1): Field => ({
  name,
  quantity,
  usual,
  param,
  scale,
});
const gain = (name: string, param: string | null = null) => field(name, 'gain', 'decibel', param);
const time = (name: string, param: string) => field(name, 'time', 'seconds', param, 1000);

interface Known {
  type: string;
  /** values that the format's device does not have, as it behaves */
  start: Params;
  fields: Field[];
}

/** The format's own devices, and what they are here. */
const KNOWN: Record<string, Known> = {
  Equalizer: {
    type: 'eq',
    start: {},
    fields: [gain('InputGain', 'in'), gain('OutputGain', 'out')],
  },
  Compressor: {
    type: 'compressor',
    start: { knee: 0 },
    fields: [
      time('Attack', 'attack'),
      gain('InputGain'),
      gain('OutputGain'),
      field('Ratio', 'ratio', 'linear', 'ratio'),
      time('Release', 'release'),
      gain('Threshold'),
    ],
  },
  NoiseGate: {
    type: 'gate',
    start: { hysteresis: 0, hold: 1 },
    fields: [
      time('Attack', 'attack'),
      gain('Range'),
      field('Ratio', 'ratio', 'linear', 'ratio'),
      time('Release', 'release'),
      gain('Threshold', 'threshold'),
    ],
  },
  Limiter: {
    type: 'limiter',
    start: { truePeak: false },
    fields: [
      time('Attack', 'lookahead'),
      gain('InputGain'),
      gain('OutputGain'),
      time('Release', 'release'),
      gain('Threshold'),
    ],
  },
};
const BAND: Field[] = [
  field('Freq', 'frequency', 'hertz', 'freq'),
  gain('Gain', 'gain'),
  field('Q', 'q', 'linear', 'q'),
];

/** What is known beside the element when a device is read. */
export interface DeviceReading {
  entries: Contents;
  /** bpm */
  tempo: number;
  note(text: string): void;
}

/**
 * A device element as one of ours when it can be (equalizer, compressor, noise gate, limiter, our own),
 * otherwise opaque with its state.
 */
export function readDevice(e: Element, id: string, r: DeviceReading): Device {
  const name = cutText(attr(e, 'name') ?? attr(e, 'deviceName') ?? e.nodeName, NAME_LENGTH) || e.nodeName;
  const over = { id, name, state: stateOf(e) };
  const tooMany = e.nodeName === 'Equalizer' && kids(e, 'Band').length > EQ_BANDS;
  const known = tooMany || !Object.hasOwn(KNOWN, e.nodeName) ? undefined : KNOWN[e.nodeName];
  const own = attr(e, 'deviceID') ?? '';
  const ours = own.startsWith(OURS) && DEVICE_TYPES[own.slice(OURS.length)];
  if (!ours && !known) {
    if (tooMany) {
      r.note(`“${name}” has more than ${EQ_BANDS} bands; it is kept as it is and passes sound through.`);
    }
    return createDevice('opaque', {}, { ...over, foreign: readForeign(e, name, r) });
  }
  const d = ours ? createDevice(ours.type, {}, over) : createDevice(known!.type, known!.start, over);
  if (known?.type === d.type) readKnown(e, known, d, r);
  for (const x of kids(kid(e, 'Parameters') ?? e)) {
    if (x.parentNode?.nodeName === 'Parameters') readOwn(d, x, r);
  }
  return d;
}

function readKnown(e: Element, known: Known, d: Device, r: DeviceReading): void {
  const at: Record<string, number | null> = {};
  for (const f of known.fields) {
    at[f.name] = valueOf(e, f, d, r);
    if (f.param) setHeld(d, f.param, at[f.name], f.scale, r);
  }
  MADE_OF[e.nodeName]?.read(at, (param, v) => setHeld(d, param, v, 1, r));
  if (e.nodeName === 'Equalizer') readBands(e, d, r);
  if (isOn(kid(e, 'AutoMakeup'), false)) {
    r.note(`“${d.name}”: automatic makeup is not played here; set the makeup by hand.`);
  }
}

const valueOf = (e: Element, f: Field, d: Device, r: DeviceReading): number | null =>
  readValue(kid(e, f.name), { ...f, tempo: r.tempo, note: r.note, what: `“${d.name}”: ${f.name}` });

/** Sets a value inside its range; tells when the file's lies outside. */
function setHeld(d: Device, param: string, v: number | null, scale: number, r: DeviceReading): void {
  if (v === null) return;
  const ps = DEVICE_TYPES[d.type].byId[param];
  const x = Number((v * scale).toFixed(6));
  if (x < ps.min! || x > ps.max!) {
    r.note(`“${d.name}”: ${ps.label} of ${x} is outside ${ps.min} … ${ps.max} and was held there.`);
  }
  d.params[param] = Math.min(ps.max!, Math.max(ps.min!, x));
}

function readBands(e: Element, d: Device, r: DeviceReading): void {
  kids(e, 'Band').forEach((b, i) => {
    const n = `b${i + 1}`;
    const type = attr(b, 'type') ?? 'bell';
    d.params[`${n}.type`] = BANDS.includes(type) ? type : 'bell';
    d.params[`${n}.on`] = isOn(kid(b, 'Enabled'), true);
    for (const f of BAND) setHeld(d, `${n}.${f.param}`, valueOf(b, f, d, r), 1, r);
    const order = Number(attr(b, 'order') ?? 2);
    if (order >= 1 && order <= 8) d.params[`${n}.slope`] = String(order * 6);
  });
}

type At = Record<string, number | null>;
/** Values of ours that several of theirs make together, dB. */
interface MadeOf {
  params: string[];
  read(at: At, set: (param: string, v: number | null) => void): void;
  /** what theirs are for ours: `stood` as the file has them */
  write(params: Params, stood: At): Record<string, number>;
}
const MADE_OF: Record<string, MadeOf> = {
  Compressor: {
    params: ['threshold', 'makeup'],
    // an input gain moves the threshold and is made good at the output: the same sound
    read(at, set) {
      const input = at.InputGain ?? 0;
      set('threshold', at.Threshold === null ? null : at.Threshold - input);
      set('makeup', at.OutputGain === null && input === 0 ? null : (at.OutputGain ?? 0) + input);
    },
    write: (p, { InputGain }) => ({
      Threshold: (p.threshold as number) + (InputGain ?? 0),
      OutputGain: (p.makeup as number) - (InputGain ?? 0),
    }),
  },
  NoiseGate: {
    params: ['range'],
    // some write the range as an amount: its sign stays as the file has it
    read: (at, set) => set('range', at.Range === null ? null : -Math.abs(at.Range)),
    write: (p, { Range }) => ({ Range: (Range ?? -1) > 0 ? -(p.range as number) : (p.range as number) }),
  },
  Limiter: {
    params: ['threshold', 'ceiling'],
    // the file's limiter holds what comes in plus the input gain at the threshold and adds the output gain:
    // ours says which level comes out at the ceiling
    read(at, set) {
      set('threshold', (at.Threshold ?? 0) - (at.InputGain ?? 0));
      set('ceiling', (at.Threshold ?? 0) + (at.OutputGain ?? 0));
    },
    write(p, { InputGain }) {
      const held = (p.threshold as number) + (InputGain ?? 0);
      return { Threshold: held, OutputGain: (p.ceiling as number) - held };
    },
  },
};

/** What our units are called in the format, and what each measures. */
const UNITS: Record<string, { unit: Unit; quantity: Quantity }> = {
  dB: { unit: 'decibel', quantity: 'gain' },
  Hz: { unit: 'hertz', quantity: 'frequency' },
  s: { unit: 'seconds', quantity: 'time' },
};
const unitOf = (ps: ParamSpec): Unit =>
  ps.unit === '%' ? 'percent' : (UNITS[ps.unit ?? '']?.unit ?? 'linear');

/** A value of our own device: in the unit that we write, or what another program has made of it. */
function readOwn(d: Device, p: Element, r: DeviceReading): void {
  const ps = DEVICE_TYPES[d.type].byId[attr(p, 'name') ?? ''];
  const v = attr(p, 'value');
  if (!ps || v === null) return;
  if (ps.kind === 'switch') d.params[ps.id] = isOn(p, d.params[ps.id] as boolean);
  else if (ps.kind === 'choice') {
    const c = ps.choices![Number(v)];
    if (c) d.params[ps.id] = c.id;
  } else if (ps.kind === 'number') {
    const read = readOwnNumber(p, ps, r.tempo);
    if (read === null) {
      r.note(`“${d.name}”: ${ps.label} of “${v}” ${attr(p, 'unit') ?? ''} could not be read.`);
    } else d.params[ps.id] = Math.min(ps.max!, Math.max(ps.min!, read));
  }
}

function readOwnNumber(p: Element, ps: ParamSpec, tempo: number): number | null {
  const v = numberAt(p, 'value');
  const unit = attr(p, 'unit') ?? unitOf(ps);
  if (v === null || unit === unitOf(ps)) return v;
  // a share of the range
  if (unit === 'normalized') return ps.min! + v * (ps.max! - ps.min!);
  if (unit === 'percent') return ps.min! + (v / 100) * (ps.max! - ps.min!);
  if (ps.unit === 'ms') {
    const s = fromUnit('time', unit, v, aroundOf(p, tempo));
    return s === null ? null : 1000 * s;
  }
  const known = UNITS[ps.unit ?? ''];
  return known ? fromUnit(known.quantity, unit, v, aroundOf(p, tempo)) : null;
}

function readForeign(e: Element, name: string, r: DeviceReading): Foreign {
  const path = attr(kid(e, 'State'), 'path');
  const bytes = path ? r.entries[path] : undefined;
  if (path && !bytes) r.note(`the state of “${name}” (“${path}”) is not in the file.`);
  return {
    format: FORMATS[e.nodeName] ?? e.nodeName,
    identifier: attr(e, 'deviceID') ?? '',
    vendor: attr(e, 'deviceVendor') ?? '',
    name,
    ...(path && bytes ? { state: { sha256: sha256Of(bytes), path } } : {}),
    ...(toText(e).length <= 262144 ? { xml: toText(e) } : {}),
    params: kids(kid(e, 'Parameters') ?? e)
      .filter((x) => x.parentNode?.nodeName === 'Parameters')
      .slice(0, 500)
      .map((p) => ({
        id: attr(p, 'parameterID') ?? attr(p, 'id') ?? '',
        name: attr(p, 'name') ?? '',
        value: attr(p, 'value') ?? '',
        ...(attr(p, 'unit') ? { unit: attr(p, 'unit')! } : {}),
      })),
  };
}

/**
 * Writes what differs between a device as the file had it (`was`, null for a new one) and as it is now into
 * its element.
 * @param tempo bpm, of the file
 */
export function editDevice(e: Element, was: Device | null, d: Device, tempo: number): void {
  if (!was || was.name !== d.name) e.setAttribute('name', d.name);
  if (!was || was.state !== d.state) {
    if (d.state === 'inactive') e.setAttribute('loaded', 'false');
    else if (e.hasAttribute('loaded') || !was) e.setAttribute('loaded', 'true');
    const enabled = ensure(e, 'Enabled', { id: d.id + '-on' });
    enabled.setAttribute('value', String(d.state === 'on'));
  }
  if (DEVICE_TYPES[d.type].foreign) return;
  const changed = (p: string) => !was || was.params[p] !== d.params[p];
  const known = Object.hasOwn(KNOWN, e.nodeName) ? KNOWN[e.nodeName] : null;
  const spoken = known?.type === d.type ? editKnown(e, known, d, changed, tempo) : [];
  for (const ps of DEVICE_TYPES[d.type].params) {
    if (!spoken.includes(ps.id) && changed(ps.id)) writeOwn(e, d, ps.id);
  }
}

/** Puts what changed into the format's own elements; gives the values that these carry. */
function editKnown(
  e: Element,
  known: Known,
  d: Device,
  changed: (param: string) => boolean,
  tempo: number,
): string[] {
  const put = (f: Field, v: number) => writeField(e, f, v, d.id, tempo);
  for (const f of known.fields) {
    if (f.param && changed(f.param)) put(f, (d.params[f.param] as number) / f.scale);
  }
  const made = MADE_OF[e.nodeName];
  if (made?.params.some(changed)) {
    const read = (f: Field) =>
      readValue(kid(e, f.name), { ...f, tempo, note: () => undefined, what: f.name });
    const stood = Object.fromEntries(known.fields.map((f) => [f.name, read(f)]));
    for (const [name, v] of Object.entries(made.write(d.params, stood))) {
      const same = stood[name] !== null && Math.abs(stood[name] - v) < 1e-6;
      if (!same) {
        put(
          known.fields.find((f) => f.name === name)!,
          v,
        );
      }
    }
  }
  if (e.nodeName === 'Equalizer') {
    for (let n = 1; n <= EQ_BANDS; n++) editBand(e, n, d, changed, tempo);
    return DEVICE_TYPES.eq.params.map((p) => p.id);
  }
  return [...known.fields.flatMap((f) => f.param ?? []), ...(made?.params ?? [])];
}

function writeField(e: Element, f: Field, v: number, prefix: string, tempo: number): void {
  const x = ensure(e, f.name, { id: `${prefix}-${f.name}`, unit: f.usual });
  writeValue(x, f.quantity, f.usual, tempo, v);
}

function editBand(
  e: Element,
  n: number,
  d: Device,
  changed: (param: string) => boolean,
  tempo: number,
): void {
  const id = (k: string) => `b${n}.${k}`;
  if (!['on', 'type', 'freq', 'gain', 'q', 'slope'].some((k) => changed(id(k)))) return;
  while (kids(e, 'Band').length < n) append(e, 'Band', { type: 'bell' });
  const b = kids(e, 'Band')[n - 1];
  if (changed(id('type'))) b.setAttribute('type', String(d.params[id('type')]));
  if (changed(id('slope')) || changed(id('type'))) {
    b.setAttribute('order', String(Number(d.params[id('slope')]) / 6));
  }
  for (const f of BAND) {
    if (!changed(id(f.param!)) && kid(b, f.name)) continue;
    writeField(b, f, d.params[id(f.param!)] as number, `${d.id}-b${n}`, tempo);
  }
  if (changed(id('on')) || !kid(b, 'Enabled')) {
    ensure(b, 'Enabled', { id: `${d.id}-b${n}-on` }).setAttribute('value', String(d.params[id('on')]));
  }
}

const ELEMENTS: Record<string, string> = {
  eq: 'Equalizer',
  compressor: 'Compressor',
  gate: 'NoiseGate',
  limiter: 'Limiter',
};

function writeOwn(e: Element, d: Device, param: string): void {
  const ps = DEVICE_TYPES[d.type].byId[param];
  // a text has no parameter element; it travels in our own entry
  if (ps.kind === 'text') return;
  const list = ensure(e, 'Parameters');
  const tagOf = () => {
    if (ps.kind === 'switch') return 'BoolParameter';
    if (ps.kind === 'choice') return 'EnumParameter';
    return 'RealParameter';
  };
  const tag = tagOf();
  const p =
    kids(list, tag).find((x) => attr(x, 'name') === param) ??
    append(list, tag, {
      id: `${d.id}-${param}`,
      name: param,
      ...(ps.kind === 'number' ? { min: ps.min!, max: ps.max!, unit: unitOf(ps) } : {}),
      ...(ps.kind === 'choice'
        ? { count: ps.choices!.length, labels: ps.choices!.map((c) => c.label).join(',') }
        : {}),
    });
  const v = valueIn(d, ps);
  p.setAttribute(
    'value',
    ps.kind === 'choice' ? String(ps.choices!.findIndex((c) => c.id === v)) : String(v),
  );
  // another program may have put its own unit there
  if (ps.kind === 'number') p.setAttribute('unit', unitOf(ps));
}

/**
 * Device id under which a whole rack stands in a file: one device for other programs, its inside in our own
 * entry.
 */
export const RACK = OURS + 'rack';

/** A rack's own element: its name and state; an earlier one is edited in place. */
export function rackElement(devices: Element, e: Element | null, r: Rack): Element {
  const out = e ?? append(devices, 'BuiltinDevice', { deviceName: 'Rack', deviceID: RACK, id: r.id });
  const plays = devicesIn([r]).some((d) => DEVICE_TYPES[d.type].instrument);
  out.setAttribute('deviceRole', plays ? 'instrument' : 'audioFX');
  out.setAttribute('name', r.name);
  if (r.state === 'inactive') out.setAttribute('loaded', 'false');
  else if (out.hasAttribute('loaded')) out.setAttribute('loaded', 'true');
  ensure(out, 'Enabled', { id: r.id + '-on' }).setAttribute('value', String(r.state === 'on'));
  return out;
}

/** A new element for one of our devices, or for an opaque one that came from another file. */
export function newDevice(devices: Element, d: Device, tempo: number): Element {
  if (d.foreign?.xml) {
    const e = fromText(devices, d.foreign.xml, d.id);
    editDevice(e, null, d, tempo);
    return e;
  }
  const tag =
    ELEMENTS[d.type] ??
    (DEVICE_TYPES[d.type].foreign
      ? (Object.keys(FORMATS).find((k) => FORMATS[k] === d.foreign?.format) ?? 'BuiltinDevice')
      : 'BuiltinDevice');
  const e = append(devices, tag, {
    deviceRole: roleOf(d),
    deviceName: d.foreign?.name ?? DEVICE_TYPES[d.type].label,
    deviceID: d.foreign?.identifier ?? OURS + d.type,
    id: d.id,
  });
  if (d.foreign?.vendor) e.setAttribute('deviceVendor', d.foreign.vendor);
  if (d.foreign?.state) append(e, 'State', { path: d.foreign.state.path, external: false });
  editDevice(e, null, d, tempo);
  return e;
}

/** What a device does, in the format's words. */
function roleOf(d: Device): string {
  const type = DEVICE_TYPES[d.type];
  if (type.instrument) return 'instrument';
  if (type.pattern) return 'noteFX';
  return type.readings && type.params.length === 0 ? 'analyzer' : 'audioFX';
}
