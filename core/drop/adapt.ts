import { DEVICE_TYPES } from '../devices/index.ts';
import { controllerName, controllersIn, freeController } from '../session/handles.ts';
import { MIDI_PORTS, addressText, freeAddresses, listenersIn, sameAddress, sentBy } from '../session/midi.ts';
import { devicesIn, racksIn } from '../session/slots.ts';
import { NOTES, formatValue, noteFor, noteMs } from '../model/units.ts';
import type {
  Device,
  MidiAddress,
  MidiPort,
  NoteClip,
  ParamValue,
  Parts,
  Preset,
  Session,
  Track,
} from '../model/types.ts';
import { isUsed } from './capture.ts';
import { words } from './ends.ts';
import { partsOf } from './parts.ts';
import type { Adaptation, EndPlan, PortPlan, StandIn } from './plan.ts';

const noteLabel = (id: string) => NOTES.find((n) => n.id === id)?.label ?? id;

/** Words in a third-party device's name that say what it does, and the built-in device that does the same. */
const KINDS: [RegExp, string][] = [
  [/de-?ess|sibil/i, 'deesser'],
  [/multi-?band/i, 'multiband'],
  [/limit|maxim/i, 'limiter'],
  [/comp|level(l)?er|squash|squeeze/i, 'compressor'],
  [/gate|expand/i, 'gate'],
  [/clip/i, 'clipper'],
  [/\beq\b|equal|filter|tone/i, 'eq'],
  [/verb|plate|hall|room|chamber/i, 'reverb'],
  [/delay|echo|slap/i, 'delay'],
  [/satur|tape|tube|drive|warm|distort/i, 'saturator'],
  [/chorus|flang|ensemble/i, 'chorus'],
  [/doubl/i, 'doubler'],
  [/tune|pitch corr/i, 'pitchcorrect'],
  [/pitch|shift|octav/i, 'pitchshift'],
  [/wid(e|th)|stereo|imag/i, 'width'],
  [/gain|trim|util/i, 'trim'],
];

export function planStandIns(tracks: Track[], wanted: Record<string, boolean>): StandIn[] {
  return tracks.flatMap((t) =>
    devicesIn(t.chain).flatMap((d): StandIn[] => {
      if (!d.foreign) return [];
      const name = d.foreign.name || d.name;
      const type =
        KINDS.find(([words, id]) => words.test(`${d.name} ${name}`) && DEVICE_TYPES[id])?.[1] ?? 'trim';
      const label = DEVICE_TYPES[type].label;
      const path = `${t.id}/${d.id}`;
      return [
        {
          path,
          label: `${t.name} · ${d.name}`,
          name,
          type,
          typeLabel: label,
          on: wanted[path] ?? false,
          reason:
            type === 'trim'
              ? 'its name does not say what it does; a Trim keeps its place'
              : `by its name the nearest built-in device is ${label}, with its factory values`,
        },
      ];
    }),
  );
}

/**
 * Hardware is known by name: the same name, a similar one, or it stays under its own name for another setup.
 */
export function planPorts(
  session: Session,
  preset: Preset,
  tracks: Track[],
  parts: Parts,
  wanted: Record<string, string | null>,
): PortPlan[] {
  const out: PortPlan[] = [];
  for (const side of ['input', 'output'] as const) {
    const known = [
      ...new Set([
        ...(session.setup ? (side === 'input' ? session.setup.inputs : session.setup.outputs) : []),
        ...session.tracks.flatMap((t) =>
          t[side].kind === 'hardware' ? [(t[side] as { port: string }).port] : [],
        ),
      ]),
    ];
    for (const t of tracks) {
      const far = t[side];
      if (
        far.kind !== 'hardware' ||
        !partsOf(preset, t, parts).includes(side) ||
        out.some((x) => x.side === side && x.port === far.port)
      ) {
        continue;
      }
      const exact = known.includes(far.port);
      const like = known.find((k) => words(k).some((w) => words(far.port).includes(w)));
      const key = `${side}/${far.port}`;
      const chosen = key in wanted ? wanted[key] : exact ? far.port : (like ?? far.port);
      out.push({
        side,
        port: far.port,
        choices: [...new Set([far.port, ...known])],
        chosen,
        reason:
          key in wanted
            ? 'your choice'
            : exact
              ? 'has the same name'
              : like
                ? 'similar name'
                : session.setup
                  ? `“${session.setup.name}” has no port of that name; it keeps its own`
                  : 'no other line here uses hardware of that name; it keeps its own',
      });
    }
  }
  return out;
}

/**
 * MIDI addresses that something in the session already listens on: what arrives moves to free channels of the
 * same port, or as a whole to a port where all its channels are free. Lines that send and lines that
 * listen move together.
 */
function planMidi(
  session: Session,
  arriving: Track[],
  adapt: Record<string, boolean>,
  facts: string[],
): Adaptation[] {
  const comes = listenersIn(arriving);
  const sends = arriving.flatMap(sentBy);
  const there = listenersIn(session.tracks);
  const plays = session.tracks.filter((t) => t.state === 'on').flatMap(sentBy);
  // a pattern that comes alone is meant for what listens here already
  const clash = (a: MidiAddress) =>
    !comes.some((l) => sameAddress(l, a))
      ? undefined
      : (there.find((l) => sameAddress(l, a)) ??
        (sends.some((x) => sameAddress(x, a)) ? plays.find((x) => sameAddress(x, a)) : undefined));
  const who = (a: MidiAddress) => {
    const l = there.find((x) => sameAddress(x, a));
    return l
      ? `${l.name} already listens to ${addressText(a)}`
      : `a MIDI line here already plays on ${addressText(a)}`;
  };
  const out: Adaptation[] = [];
  for (const port of MIDI_PORTS) {
    const used = [
      ...new Map(
        [...comes, ...sends]
          .filter((a) => a.port === port)
          .map((a) => [a.channel, { port, channel: a.channel }]),
      ).values(),
    ].sort((a, b) => a.channel - b.channel);
    const taken = used.filter(clash);
    if (!taken.length) continue;
    const open = freeAddresses([
      ...there,
      ...plays,
      ...comes,
      ...sends,
      ...out.map((a) => parse(String(a.to))),
    ]).filter((a) => a.port === port);
    const names = (a: MidiAddress) =>
      [
        ...new Set([
          ...comes.filter((l) => sameAddress(l, a)).map((l) => l.part?.name ?? l.device.name),
          ...arriving.filter((t) => sentBy(t).some((x) => sameAddress(x, a))).map((t) => t.name),
        ]),
      ]
        .slice(0, 3)
        .join(', ');
    const add = (
      path: string,
      label: string,
      from: string,
      to: string,
      fromText: string,
      toText: string,
      reason: string,
    ) => {
      out.push({ path, label, from, to, fromText, toText, reason, on: adapt[path] ?? true });
    };
    const all = arriving.some(
      (t) =>
        t.input.kind === 'midi' &&
        t.input.port === port &&
        t.input.channel === 0 &&
        comes.some((l) => l.track === t.id && !l.part),
    );
    if (!all && open.length >= taken.length) {
      taken.forEach((a, i) =>
        add(
          `midi/${port}/${a.channel}`,
          `${names(a)} · MIDI channel`,
          key(a),
          key(open[i]),
          addressText(a),
          addressText(open[i]),
          who(a),
        ),
      );
      continue;
    }
    const busy = [
      ...there,
      ...plays,
      ...comes.filter((l) => l.port !== port),
      ...out.map((a) => parse(String(a.to))),
    ];
    const other = MIDI_PORTS.find(
      (p) => p !== port && !used.some((a) => busy.some((b) => b.port === p && b.channel === a.channel)),
    );
    if (other) {
      add(
        `midi/${port}`,
        `${names(taken[0])}${used.length > 1 ? ' and what plays with it' : ''} · MIDI port`,
        port,
        other,
        `port ${port}`,
        `port ${other}`,
        `${who(taken[0])}${taken.length > 1 ? `, and ${taken.length - 1} more channels are taken` : ''}`,
      );
    } else {
      facts.push(
        `${who(taken[0])}, and no port has all ${used.length} channels free: both will hear the same notes until one of them is moved.`,
      );
    }
  }
  return out;
}
const key = (a: MidiAddress) => `${a.port}${a.channel}`;
const parse = (text: string): MidiAddress => ({
  port: text[0] as MidiPort,
  channel: Number(text.slice(1)) || 0,
});

/**
 * Where an address of the preset is in the session, after the moves of a drop. Channel 0 (all) moves with its
 * port only.
 */
export function movedAddress(adaptations: readonly Adaptation[], a: MidiAddress): MidiAddress {
  const one = adaptations.find((x) => x.on && x.path === `midi/${a.port}/${a.channel}`);
  if (one) return parse(String(one.to));
  const port = adaptations.find((x) => x.on && x.path === `midi/${a.port}`);
  return port ? { ...a, port: port.to as MidiPort } : a;
}

/**
 * Values of a device that stand for MIDI addresses and move with them: parts with channels of their own,
 * layers of a pattern that keeps its channels.
 */
export function movedParams(
  adaptations: readonly Adaptation[],
  t: Track,
  d: Device,
): Record<string, ParamValue> {
  const out: Record<string, ParamValue> = {};
  if (!adaptations.some((a) => a.on && a.path.startsWith('midi/'))) return out;
  const spec = DEVICE_TYPES[d.type];
  const set = (param: string, v: ParamValue) => {
    if (d.params[param] !== v) out[param] = v;
  };
  for (const p of spec.instrument?.parts(d.params) ?? []) {
    if (p.address) {
      const to = movedAddress(adaptations, p.address);
      set(`${p.id}.port`, to.port);
      set(`${p.id}.channel`, to.channel);
    }
  }
  if (spec.pattern && t.output.kind === 'midi' && t.output.channel === 0) {
    for (const ps of spec.params) {
      if (/^l\d\.channel$/.test(ps.id)) {
        set(
          ps.id,
          movedAddress(adaptations, { port: t.output.port, channel: d.params[ps.id] as number }).channel,
        );
      }
    }
  }
  return out;
}

/** Written notes on the channels that they move to. */
export function movedNotes(adaptations: readonly Adaptation[], t: Track): NoteClip[] | undefined {
  const out = t.output;
  if (out.kind !== 'midi' || out.channel !== 0 || !t.notes) return t.notes;
  const to = (channel: number) => movedAddress(adaptations, { port: out.port, channel }).channel;
  return t.notes.map((c) => ({
    ...c,
    notes: c.notes.map((n) => ({ ...n, channel: to(n.channel) })),
    controllers: c.controllers.map((x) => ({ ...x, channel: to(x.channel) })),
  }));
}

export function planAdaptations(
  session: Session,
  preset: Preset,
  arriving: Track[],
  parts: Parts,
  ends: EndPlan[],
  adapt: Record<string, boolean>,
  facts: string[],
): Adaptation[] {
  const out: Adaptation[] = [];
  const spares = preset.content.spares.filter((s) =>
    ends.some((e) => e.chosen === 'spare' && e.end.spare === s.id),
  );
  const tracks = [...arriving.filter((t) => partsOf(preset, t, parts).includes('chain')), ...spares];
  const [was, is] = [preset.reference.tempo, session.tempo];
  const top = session.sampleRate * 0.49;
  // what the preset moves with one controller on purpose stays together
  const taken = new Set(controllersIn(session.tracks.map((t) => t.chain)));
  const moved = new Map<number, number | null>();
  for (const t of tracks) {
    for (const rack of racksIn(t.chain)) {
      for (const h of rack.handles) {
        if (h.cc === null || !taken.has(h.cc)) continue;
        if (!moved.has(h.cc)) {
          moved.set(
            h.cc,
            freeController([
              ...taken,
              ...controllersIn(tracks.map((x) => x.chain)),
              ...[...moved.values()].filter((v) => v !== null),
            ]),
          );
        }
        const to = moved.get(h.cc)!;
        if (to === null) continue;
        const path = `${t.id}/${h.id}/cc`;
        out.push({
          path,
          label: `${t.name} · ${rack.name} · ${h.name} · controller`,
          from: h.cc,
          to,
          fromText: controllerName(h.cc),
          toText: controllerName(to),
          reason: `${controllerName(h.cc)} already moves a handle in this session`,
          on: adapt[path] ?? true,
        });
      }
    }
  }
  // a line that keeps its own input here, or a new session, moves nothing
  out.push(
    ...planMidi(
      session,
      arriving.filter((t) => partsOf(preset, t, parts).includes('input') || t.role === 'midi'),
      adapt,
      facts,
    ),
  );
  for (const t of tracks) {
    for (const d of devicesIn(t.chain)) {
      const spec = DEVICE_TYPES[d.type];
      const add = (param: string, to: ParamValue, reason: string) => {
        const ps = spec.byId[param];
        const path = `${t.id}/${d.id}/${param}`;
        out.push({
          path,
          label: `${t.name} · ${d.name} · ${ps.label}`,
          from: d.params[param],
          to,
          fromText: formatValue(ps, d.params[param]),
          toText: formatValue(ps, to),
          reason,
          on: adapt[path] ?? true,
        });
      };
      for (const ps of spec.params) {
        const v = d.params[ps.id];
        // a value that the home session's own rate could not hold either is not this session's business
        if (
          ps.unit === 'Hz' &&
          typeof v === 'number' &&
          v > top &&
          session.sampleRate < preset.reference.sampleRate &&
          isUsed(d, ps.id)
        ) {
          add(
            ps.id,
            Math.max(ps.min!, Math.floor(top / 10) * 10),
            `over half the sample rate of ${session.sampleRate / 1000} kHz`,
          );
        }
        if (!ps.tempoBound || typeof v !== 'number' || was === is || !isUsed(d, ps.id)) continue;
        // a release only belongs to the tempo when something else sets its rhythm
        if (spec.hasKey && d.key.kind !== 'track') continue;
        const note = noteFor(v, was);
        if (!note) continue;
        const to = Number(noteMs(note, is).toFixed(3));
        if (to <= ps.max!) {
          add(ps.id, to, `it was a ${noteLabel(note)} note at ${was} bpm; this session runs at ${is} bpm`);
        } else {
          facts.push(
            `${d.name} on ${t.name} stays at ${formatValue(ps, v)}: a ${noteLabel(note)} note at ${is} bpm is longer than it can be.`,
          );
        }
      }
      if (d.type === 'delay' && d.params.mode === 'note' && was !== is) {
        const n = String(d.params.note);
        facts.push(
          `${d.name} on ${t.name} follows the tempo: ${noteLabel(n)} was ${Math.round(noteMs(n, was))} ms and is ${Math.round(noteMs(n, is))} ms here.`,
        );
      }
    }
  }
  return out;
}
