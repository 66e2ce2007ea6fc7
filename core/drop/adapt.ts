import { DEVICE_TYPES } from '../devices/index.ts';
import { controllerName, controllersIn, freeController } from '../model/handles.ts';
import { devicesIn, racksIn } from '../model/slots.ts';
import { NOTES, formatValue, noteFor, noteMs } from '../model/units.ts';
import type { ParamValue, Parts, Preset, Session, Track } from '../model/types.ts';
import { isUsed } from './capture.ts';
import { words } from './ends.ts';
import { partsOf } from './parts.ts';
import type { Adaptation, EndPlan, PortPlan, StandIn } from './plan.ts';

const noteLabel = (id: string) => NOTES.find((n) => n.id === id)?.label ?? id;

/** Words in a third-party device's name that say what it does, and the built-in device that does the same. */
const KINDS: [RegExp, string][] = [
  [/de-?ess|sibil/i, 'deesser'], [/multi-?band/i, 'multiband'], [/limit|maxim/i, 'limiter'], [/comp|level(l)?er|squash|squeeze/i, 'compressor'], [/gate|expand/i, 'gate'], [/clip/i, 'clipper'],
  [/\beq\b|equal|filter|tone/i, 'eq'], [/verb|plate|hall|room|chamber/i, 'reverb'], [/delay|echo|slap/i, 'delay'], [/satur|tape|tube|drive|warm|distort/i, 'saturator'], [/chorus|flang|ensemble/i, 'chorus'],
  [/doubl/i, 'doubler'], [/tune|pitch corr/i, 'pitchcorrect'], [/pitch|shift|octav/i, 'pitchshift'], [/wid(e|th)|stereo|imag/i, 'width'], [/gain|trim|util/i, 'trim'],
];

export function planStandIns(tracks: Track[], wanted: Record<string, boolean>): StandIn[] {
  return tracks.flatMap((t) => devicesIn(t.chain).flatMap((d): StandIn[] => {
    if (!d.foreign) return [];
    const name = d.foreign.name || d.name;
    const type = KINDS.find(([words, id]) => words.test(`${d.name} ${name}`) && DEVICE_TYPES[id])?.[1] ?? 'trim';
    const label = DEVICE_TYPES[type].label, path = `${t.id}/${d.id}`;
    return [{ path, label: `${t.name} · ${d.name}`, name, type, typeLabel: label, on: wanted[path] ?? false, reason: type === 'trim' ? 'its name does not say what it does; a Trim keeps its place' : `by its name the nearest built-in device is ${label}, with its factory values` }];
  }));
}

/** Hardware is known by name: the same name, a similar one, or it stays under its own name for another setup. */
export function planPorts(session: Session, preset: Preset, tracks: Track[], parts: Parts, wanted: Record<string, string | null>): PortPlan[] {
  const out: PortPlan[] = [];
  for (const side of ['input', 'output'] as const) {
    const known = [...new Set(session.tracks.flatMap((t) => (t[side].kind === 'hardware' ? [(t[side] as { port: string }).port] : [])))];
    for (const t of tracks) {
      const far = t[side];
      if (far.kind !== 'hardware' || !partsOf(preset, t, parts).includes(side) || out.some((x) => x.side === side && x.port === far.port)) continue;
      const exact = known.includes(far.port), like = known.find((k) => words(k).some((w) => words(far.port).includes(w)));
      const key = `${side}/${far.port}`, chosen = key in wanted ? wanted[key] : exact ? far.port : (like ?? far.port);
      out.push({ side, port: far.port, choices: [...new Set([far.port, ...known])], chosen, reason: key in wanted ? 'your choice' : exact ? 'has the same name' : like ? 'similar name' : 'no other line here uses hardware of that name; it keeps its own' });
    }
  }
  return out;
}

export function planAdaptations(session: Session, preset: Preset, arriving: Track[], parts: Parts, ends: EndPlan[], adapt: Record<string, boolean>, facts: string[]): Adaptation[] {
  const out: Adaptation[] = [];
  const spares = preset.content.spares.filter((s) => ends.some((e) => e.chosen === 'spare' && e.end.spare === s.id));
  const tracks = [...arriving.filter((t) => partsOf(preset, t, parts).includes('chain')), ...spares];
  const [was, is] = [preset.reference.tempo, session.tempo];
  const top = session.sampleRate * 0.49;
  // what the preset moves with one controller on purpose stays together
  const taken = new Set(controllersIn(session.tracks.map((t) => t.chain))), moved = new Map<number, number | null>();
  for (const t of tracks) for (const rack of racksIn(t.chain)) for (const h of rack.handles) {
    if (h.cc === null || !taken.has(h.cc)) continue;
    if (!moved.has(h.cc)) moved.set(h.cc, freeController([...taken, ...controllersIn(tracks.map((x) => x.chain)), ...[...moved.values()].filter((v) => v !== null)]));
    const to = moved.get(h.cc)!;
    if (to === null) continue;
    const path = `${t.id}/${h.id}/cc`;
    out.push({ path, label: `${t.name} · ${rack.name} · ${h.name} · controller`, from: h.cc, to, fromText: controllerName(h.cc), toText: controllerName(to), reason: `${controllerName(h.cc)} already moves a handle in this session`, on: adapt[path] ?? true });
  }
  for (const t of tracks) for (const d of devicesIn(t.chain)) {
    const spec = DEVICE_TYPES[d.type];
    const add = (param: string, to: ParamValue, reason: string) => {
      const ps = spec.byId[param];
      const path = `${t.id}/${d.id}/${param}`;
      out.push({ path, label: `${t.name} · ${d.name} · ${ps.label}`, from: d.params[param], to, fromText: formatValue(ps, d.params[param]), toText: formatValue(ps, to), reason, on: adapt[path] ?? true });
    };
    for (const ps of spec.params) {
      const v = d.params[ps.id];
      // a value that the home session's own rate could not hold either is not this session's business
      if (ps.unit === 'Hz' && typeof v === 'number' && v > top && session.sampleRate < preset.reference.sampleRate && isUsed(d, ps.id)) add(ps.id, Math.max(ps.min!, Math.floor(top / 10) * 10), `over half the sample rate of ${session.sampleRate / 1000} kHz`);
      if (!ps.tempoBound || typeof v !== 'number' || was === is || !isUsed(d, ps.id)) continue;
      // a release only belongs to the tempo when something else sets its rhythm
      if (spec.hasKey && d.key.kind !== 'track') continue;
      const note = noteFor(v, was);
      if (!note) continue;
      const to = Number(noteMs(note, is).toFixed(3));
      if (to <= ps.max!) add(ps.id, to, `it was a ${noteLabel(note)} note at ${was} bpm; this session runs at ${is} bpm`);
      else facts.push(`${d.name} on ${t.name} stays at ${formatValue(ps, v)}: a ${noteLabel(note)} note at ${is} bpm is longer than it can be.`);
    }
    if (d.type === 'delay' && d.params.mode === 'note' && was !== is) {
      const n = String(d.params.note);
      facts.push(`${d.name} on ${t.name} follows the tempo: ${noteLabel(n)} was ${Math.round(noteMs(n, was))} ms and is ${Math.round(noteMs(n, is))} ms here.`);
    }
  }
  return out;
}
