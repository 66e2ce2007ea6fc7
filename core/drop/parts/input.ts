import { DEVICE_TYPES } from '../../devices/index.ts';
import { clone } from '../../model/json.ts';
import type { Id, Input, LooseEnd, Preset, Track } from '../../model/types.ts';
import { trackOf } from '../../session/create.ts';
import { instrumentsOn } from '../../session/midi.ts';
import { explainAddress } from '../adaptations/midi.ts';
import { inputPath, unitsBefore } from '../adaptations/hardware.ts';
import { explainPort } from '../adaptations/port.ts';
import { reportUnit } from './hardware.ts';
import type { Part, Putting, Reporting } from './part.ts';

const NONE: Input = { kind: 'none' };
type OfDevice = Extract<Input, { kind: 'deviceOutput' }>;
type OfHardware = Extract<Input, { kind: 'hardware' }>;

/** The first instrument on a track with at least that many outputs. */
const instrumentFor = (t: Track, outputs: number): Id | null =>
  instrumentsOn(t).find((i) => DEVICE_TYPES[i.device.type].instrument!.outputs >= outputs)?.device.id ?? null;

/** The highest output that the preset's lines take of an instrument at a loose end; 0 when it is a plain input. */
const outputsOf = (preset: Preset, end: LooseEnd): number =>
  Math.max(
    0,
    ...preset.content.tracks.map(({ input }) =>
      input.kind === 'deviceOutput' && input.track === end.id ? input.output : 0,
    ),
  );

function placedOutput(x: OfDevice, c: Putting): Input {
  const from = c.end(x.track);
  const far = from && trackOf(c.session, from);
  // an instrument of the session is the first one there that has the output
  const there = far ? instrumentFor(far, x.output) : null;
  const own = x.slot && c.comes(x.slot) ? c.fresh(x.slot, 'dev') : null;
  const slot = x.slot ? own : there;
  return from && slot ? { ...x, track: from, slot } : { ...NONE };
}

/** Where a preset's line takes its sound in this session. */
function placed({ input, ...home }: Track, c: Putting): Input {
  switch (input.kind) {
    case 'midi':
      return { ...input, ...c.adapted.address(input) };
    case 'track': {
      const from = c.end(input.track);
      return from ? { ...input, track: from } : { ...NONE };
    }
    case 'deviceOutput':
      return placedOutput(input, c);
    case 'hardware': {
      const port = c.adapted.port('input', input.port);
      return port ? c.adapted.input({ ...home, input }, { ...input, port }) : { ...NONE };
    }
    case 'none':
      return input;
  }
}

const text = (v: Input): string => (v.kind === 'hardware' ? v.port : v.kind);

function reportOutput(want: Track, x: OfDevice, found: Track | undefined, c: Reporting): void {
  const y = found?.input.kind === 'deviceOutput' ? found.input : null;
  const inside = c.preset.content.tracks.some((t) => t.id === x.track);
  if (!y && inside && !c.plan.ids[x.slot]) {
    const reason = 'its instrument did not come in';
    c.leftOut(`${want.id}/input`, `${want.name} · input`, c.nameOf(x.track), reason);
    return;
  }
  c.tie(`${want.id}/input`, `${want.name} · input`, x.track, y?.track ?? null);
  if (!y) return;
  c.row(
    `${want.id}/input/output`,
    `${want.name} · output of the instrument`,
    [x.slot && c.plan.ids[x.slot], x.output, x.take],
    [x.slot && y.slot, y.output, y.take],
    (v) => `${v[1]} ${v[2]}`,
  );
}

/** The port, and each unit before it. */
function reportHardware(want: Track, was: OfHardware, is: Input | undefined, c: Reporting): void {
  const bare = (x: Input | undefined) => {
    if (x?.kind !== 'hardware') return x;
    const { units: _units, ...port } = x;
    return port;
  };
  const [path, label] = [`${want.id}/input`, `${want.name} · input`];
  c.row(path, label, bare(was)!, bare(is), text, explainPort(c.plan, 'input', was, is));
  for (const use of was.units ?? []) {
    const there = is && unitsBefore(is).find((u) => u.id === use.id);
    reportUnit(inputPath(want, use), label, use, there, c);
  }
}

export const input: Part = {
  id: 'input',
  label: 'Input',
  help: '',
  section: 'routing',

  end: {
    kind: 'input',
    leads: (t) => (t.input.kind === 'track' || t.input.kind === 'deviceOutput' ? [t.input.track] : []),
    fits: (t, end, preset) => {
      const outputs = outputsOf(preset, end);
      return outputs === 0 || instrumentFor(t, outputs) !== null;
    },
    open: { label: 'No input' },
  },

  take(from, into, c) {
    const far = from.input.kind === 'track' || from.input.kind === 'deviceOutput' ? from.input : null;
    if (!far) {
      into.input = clone(from.input);
      return;
    }
    const track = c.tie('input', far.track);
    into.input = track ? { ...far, track } : { ...NONE };
  },

  /** An instrument that stays outside is known by its track alone. */
  settle(into, c) {
    if (into.input.kind !== 'deviceOutput') return;
    const outside = into.input.track.startsWith('end');
    into.input = { ...into.input, slot: outside ? '' : (c.ids[into.input.slot] ?? '') };
  },

  put(from, into, c) {
    into.input = placed(from, c);
  },

  report(want, found, c) {
    if (!c.has('input') || !c.whole || c.spare) return;
    const [path, label] = [`${want.id}/input`, `${want.name} · input`];
    const [was, is] = [want.input, found?.input];
    if (was.kind === 'track') c.tie(path, label, was.track, is?.kind === 'track' ? is.track : null);
    else if (was.kind === 'deviceOutput') reportOutput(want, was, found, c);
    else if (was.kind === 'midi') explainAddress('input', want, found, c);
    else if (was.kind === 'hardware') reportHardware(want, was, is, c);
    else c.row(path, label, was, is, text, explainPort(c.plan, 'input', was, is));
  },

  duplicate(copy, into) {
    into.input = copy.input;
  },
};
