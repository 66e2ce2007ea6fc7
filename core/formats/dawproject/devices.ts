import { DEVICE_TYPES } from '../../devices/index.ts';
import { EQ_BANDS } from '../../devices/eq.ts';
import { createDevice } from '../../session/create.ts';
import { sha256Hex } from '../../model/json.ts';
import type { Device, Foreign, ParamValue, Rack, Params } from '../../model/types.ts';
import type { Entries } from '../zip.ts';
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
  return attr(kid(e, 'Enabled'), 'value') === 'false' ? 'bypassed' : 'on';
}

type Set = (param: string, v: number | null, scale?: number) => void;
interface Known {
  type: string;
  /** values that the format's device does not have, as it behaves */
  start: Params;
  read(e: Element, d: Device, set: Set, note: (text: string) => void): void;
}

/** The format's own devices, and what they are here. */
const KNOWN: Record<string, Known> = {
  Equalizer: { type: 'eq', start: {}, read: readEqualizer },
  Compressor: { type: 'compressor', start: { knee: 0 }, read: readCompressor },
  NoiseGate: { type: 'gate', start: { hysteresis: 0, hold: 1 }, read: readGate },
  Limiter: { type: 'limiter', start: { truePeak: false }, read: readLimiter },
};

/**
 * A device element as one of ours when it can be (equalizer, compressor, noise gate, limiter, our own),
 * otherwise opaque with its state.
 */
export function readDevice(e: Element, id: string, entries: Entries, note: (text: string) => void): Device {
  const name = (attr(e, 'name') ?? attr(e, 'deviceName') ?? e.nodeName).slice(0, 200) || e.nodeName;
  const over = { id, name, state: stateOf(e) };
  const tooMany = e.nodeName === 'Equalizer' && kids(e, 'Band').length > EQ_BANDS;
  const known = tooMany ? undefined : KNOWN[e.nodeName];
  const own = attr(e, 'deviceID') ?? '';
  const ours = own.startsWith(OURS) && DEVICE_TYPES[own.slice(OURS.length)];
  if (!ours && !known) {
    if (tooMany) {
      note(`“${name}” has more than ${EQ_BANDS} bands; it is kept as it is and passes sound through.`);
    }
    return createDevice('opaque', {}, { ...over, foreign: readForeign(e, name, entries, note) });
  }
  const d = ours ? createDevice(ours.type, {}, over) : createDevice(known!.type, known!.start, over);
  KNOWN[e.nodeName]?.read(e, d, (param, v, scale = 1) => setHeld(d, param, v, scale, note), note);
  for (const x of kids(kid(e, 'Parameters') ?? e)) {
    if (x.parentNode?.nodeName === 'Parameters') readOwn(d, x);
  }
  return d;
}

/** Sets a value inside its range; tells when the file's lies outside. */
function setHeld(
  d: Device,
  param: string,
  v: number | null,
  scale: number,
  note: (text: string) => void,
): void {
  if (v === null) return;
  const ps = DEVICE_TYPES[d.type].byId[param];
  const x = Number((v * scale).toFixed(6));
  if (x < ps.min! || x > ps.max!) {
    note(`“${d.name}”: ${ps.label} of ${x} is outside ${ps.min} … ${ps.max} and was held there.`);
  }
  d.params[param] = Math.min(ps.max!, Math.max(ps.min!, x));
}

function readEqualizer(e: Element, d: Device, set: Set): void {
  set('in', value(kid(e, 'InputGain')));
  set('out', value(kid(e, 'OutputGain')));
  kids(e, 'Band').forEach((b, i) => {
    const n = `b${i + 1}`;
    const type = attr(b, 'type') ?? 'bell';
    d.params[`${n}.type`] = BANDS.includes(type) ? type : 'bell';
    d.params[`${n}.on`] = attr(kid(b, 'Enabled'), 'value') !== 'false';
    set(`${n}.freq`, value(kid(b, 'Freq')));
    set(`${n}.gain`, value(kid(b, 'Gain')));
    set(`${n}.q`, value(kid(b, 'Q')));
    const order = Number(attr(b, 'order') ?? 2);
    if (order >= 1 && order <= 8) d.params[`${n}.slope`] = String(order * 6);
  });
}

function readCompressor(e: Element, d: Device, set: Set, note: (text: string) => void): void {
  // an input gain moves the threshold and is made good at the output: the same sound
  const input = value(kid(e, 'InputGain')) ?? 0;
  const threshold = value(kid(e, 'Threshold'));
  const output = value(kid(e, 'OutputGain'));
  set('threshold', threshold === null ? null : threshold - input);
  set('makeup', output === null && input === 0 ? null : (output ?? 0) + input);
  set('ratio', value(kid(e, 'Ratio')));
  set('attack', value(kid(e, 'Attack')), 1000);
  set('release', value(kid(e, 'Release')), 1000);
  if (attr(kid(e, 'AutoMakeup'), 'value') === 'true') {
    note(`“${d.name}”: automatic makeup is not played here; set the makeup by hand.`);
  }
}

function readGate(e: Element, _d: Device, set: Set): void {
  set('threshold', value(kid(e, 'Threshold')));
  set('ratio', value(kid(e, 'Ratio')));
  const range = value(kid(e, 'Range'));
  set('range', range === null ? null : -Math.abs(range));
  set('attack', value(kid(e, 'Attack')), 1000);
  set('release', value(kid(e, 'Release')), 1000);
}

function readLimiter(e: Element, _d: Device, set: Set): void {
  // the file's limiter holds what comes in plus the input gain at the threshold and adds the output gain:
  // ours says which level comes out at the ceiling
  const threshold = value(kid(e, 'Threshold')) ?? 0;
  const input = value(kid(e, 'InputGain')) ?? 0;
  const output = value(kid(e, 'OutputGain')) ?? 0;
  set('threshold', threshold - input);
  set('ceiling', threshold + output);
  set('lookahead', value(kid(e, 'Attack')), 1000);
  set('release', value(kid(e, 'Release')), 1000);
}

function readOwn(d: Device, p: Element): void {
  const ps = DEVICE_TYPES[d.type].byId[attr(p, 'name') ?? ''];
  const v = attr(p, 'value');
  if (!ps || v === null) return;
  if (ps.kind === 'switch') d.params[ps.id] = v === 'true';
  else if (ps.kind === 'text') return;
  else if (ps.kind === 'choice') {
    const c = ps.choices![Number(v)];
    if (c) d.params[ps.id] = c.id;
  } else if (Number.isFinite(Number(v))) d.params[ps.id] = Math.min(ps.max!, Math.max(ps.min!, Number(v)));
}

function readForeign(e: Element, name: string, entries: Entries, note: (text: string) => void): Foreign {
  const path = attr(kid(e, 'State'), 'path');
  const bytes = path ? entries[path] : undefined;
  if (path && !bytes) note(`the state of “${name}” (“${path}”) is not in the file.`);
  return {
    format: FORMATS[e.nodeName] ?? e.nodeName,
    identifier: attr(e, 'deviceID') ?? '',
    vendor: attr(e, 'deviceVendor') ?? '',
    name,
    ...(path && bytes ? { state: { sha256: sha256Hex(bytes), path } } : {}),
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

/** A parameter's value: seconds and decibels as they are, linear gains only where the unit says decibel. */
function value(e: Element | null): number | null {
  const v = attr(e, 'value');
  if (v === null || !Number.isFinite(Number(v))) return null;
  return Number(v);
}

/**
 * Writes what differs between a device as the file had it (`was`, null for a new one) and as it is now into
 * its element.
 */
export function editDevice(e: Element, was: Device | null, d: Device): void {
  if (!was || was.name !== d.name) e.setAttribute('name', d.name);
  if (!was || was.state !== d.state) {
    if (d.state === 'inactive') e.setAttribute('loaded', 'false');
    else if (e.hasAttribute('loaded') || !was) e.setAttribute('loaded', 'true');
    const enabled = ensure(e, 'Enabled', { id: d.id + '-on' });
    enabled.setAttribute('value', String(d.state === 'on'));
  }
  if (DEVICE_TYPES[d.type].foreign) return;
  const changed = (p: string) => !was || was.params[p] !== d.params[p];
  const real = (at: Element, name: string, v: number, unit: string) => {
    const x = ensure(at, name, { id: `${d.id}-${name}${at === e ? '' : (attr(at, 'n') ?? '')}`, unit });
    x.setAttribute('value', String(v));
  };
  if (e.nodeName === 'Equalizer') {
    if (changed('in')) real(e, 'InputGain', d.params.in as number, 'decibel');
    if (changed('out')) real(e, 'OutputGain', d.params.out as number, 'decibel');
    for (let n = 1; n <= EQ_BANDS; n++) {
      const p = (k: string) => d.params[`b${n}.${k}`];
      if (!['on', 'type', 'freq', 'gain', 'q', 'slope'].some((k) => changed(`b${n}.${k}`))) continue;
      while (kids(e, 'Band').length < n) append(e, 'Band', { type: 'bell' });
      const b = kids(e, 'Band')[n - 1];
      if (changed(`b${n}.type`)) b.setAttribute('type', String(p('type')));
      if (changed(`b${n}.slope`) || changed(`b${n}.type`)) {
        b.setAttribute('order', String(Number(p('slope')) / 6));
      }
      const set = (k: string, name: string, unit: string) => {
        if (!changed(`b${n}.${k}`) && kid(b, name)) return;
        const x = ensure(b, name, { id: `${d.id}-b${n}-${k}`, ...(unit ? { unit } : {}) });
        x.setAttribute('value', String(p(k)));
      };
      set('freq', 'Freq', 'hertz');
      set('gain', 'Gain', 'decibel');
      set('q', 'Q', 'linear');
      set('on', 'Enabled', '');
    }
    return;
  }
  if (e.nodeName === 'Compressor') {
    const input = value(kid(e, 'InputGain')) ?? 0;
    if (changed('threshold')) real(e, 'Threshold', (d.params.threshold as number) + input, 'decibel');
    if (changed('makeup')) real(e, 'OutputGain', (d.params.makeup as number) - input, 'decibel');
    if (changed('ratio')) real(e, 'Ratio', d.params.ratio as number, 'linear');
    if (changed('attack')) real(e, 'Attack', (d.params.attack as number) / 1000, 'seconds');
    if (changed('release')) real(e, 'Release', (d.params.release as number) / 1000, 'seconds');
  }
  if (e.nodeName === 'NoiseGate') {
    if (changed('threshold')) real(e, 'Threshold', d.params.threshold as number, 'decibel');
    if (changed('ratio')) real(e, 'Ratio', d.params.ratio as number, 'linear');
    // some write the range as an amount: its sign stays as the file has it
    if (changed('range')) {
      real(
        e,
        'Range',
        (value(kid(e, 'Range')) ?? -1) > 0 ? -(d.params.range as number) : (d.params.range as number),
        'decibel',
      );
    }
    if (changed('attack')) real(e, 'Attack', (d.params.attack as number) / 1000, 'seconds');
    if (changed('release')) real(e, 'Release', (d.params.release as number) / 1000, 'seconds');
  }
  if (e.nodeName === 'Limiter') {
    const held = (d.params.threshold as number) + (value(kid(e, 'InputGain')) ?? 0);
    if (changed('threshold')) real(e, 'Threshold', tidyDb(held), 'decibel');
    if (changed('threshold') || changed('ceiling')) {
      real(e, 'OutputGain', tidyDb((d.params.ceiling as number) - held), 'decibel');
    }
    if (changed('lookahead')) real(e, 'Attack', (d.params.lookahead as number) / 1000, 'seconds');
    if (changed('release')) real(e, 'Release', (d.params.release as number) / 1000, 'seconds');
  }
  const spoken = SPOKEN[e.nodeName] ?? [];
  for (const ps of DEVICE_TYPES[d.type].params) {
    if (!spoken.includes(ps.id) && changed(ps.id)) writeOwn(e, d, ps.id);
  }
}

/** Values that the format's own elements carry. */
const SPOKEN: Record<string, string[]> = {
  Compressor: ['threshold', 'makeup', 'ratio', 'attack', 'release'],
  NoiseGate: ['threshold', 'ratio', 'range', 'attack', 'release'],
  Limiter: ['threshold', 'ceiling', 'lookahead', 'release'],
};
const ELEMENTS: Record<string, string> = {
  eq: 'Equalizer',
  compressor: 'Compressor',
  gate: 'NoiseGate',
  limiter: 'Limiter',
};
const tidyDb = (v: number) => Number(v.toFixed(6));

const UNITS: Record<string, string> = { dB: 'decibel', Hz: 'hertz', '%': 'percent', s: 'seconds' };

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
      ...(ps.kind === 'number' ? { min: ps.min!, max: ps.max!, unit: UNITS[ps.unit ?? ''] ?? 'linear' } : {}),
      ...(ps.kind === 'choice'
        ? { count: ps.choices!.length, labels: ps.choices!.map((c) => c.label).join(',') }
        : {}),
    });
  const v: ParamValue = d.params[param];
  p.setAttribute(
    'value',
    ps.kind === 'choice' ? String(ps.choices!.findIndex((c) => c.id === v)) : String(v),
  );
}

/**
 * Device id under which a whole rack stands in a file: one device for other programs, its inside in our own
 * entry.
 */
export const RACK = OURS + 'rack';

/** A rack's own element: its name and state; an earlier one is edited in place. */
export function rackElement(devices: Element, e: Element | null, r: Rack): Element {
  const out =
    e ??
    append(devices, 'BuiltinDevice', { deviceRole: 'audioFX', deviceName: 'Rack', deviceID: RACK, id: r.id });
  out.setAttribute('name', r.name);
  if (r.state === 'inactive') out.setAttribute('loaded', 'false');
  else if (out.hasAttribute('loaded')) out.setAttribute('loaded', 'true');
  ensure(out, 'Enabled', { id: r.id + '-on' }).setAttribute('value', String(r.state === 'on'));
  return out;
}

/** A new element for one of our devices, or for an opaque one that came from another file. */
export function newDevice(devices: Element, d: Device): Element {
  if (d.foreign?.xml) {
    const e = fromText(devices, d.foreign.xml, d.id);
    editDevice(e, null, d);
    return e;
  }
  const tag =
    ELEMENTS[d.type] ??
    (DEVICE_TYPES[d.type].foreign
      ? (Object.keys(FORMATS).find((k) => FORMATS[k] === d.foreign?.format) ?? 'BuiltinDevice')
      : 'BuiltinDevice');
  const e = append(devices, tag, {
    deviceRole: 'audioFX',
    deviceName: d.foreign?.name ?? DEVICE_TYPES[d.type].label,
    deviceID: d.foreign?.identifier ?? OURS + d.type,
    id: d.id,
  });
  if (d.foreign?.vendor) e.setAttribute('deviceVendor', d.foreign.vendor);
  if (d.foreign?.state) append(e, 'State', { path: d.foreign.state.path, external: false });
  editDevice(e, null, d);
  return e;
}
