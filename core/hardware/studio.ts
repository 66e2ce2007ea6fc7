import { DEVICE_TYPES } from '../devices/index.ts';
import { CLEAN_LINE } from '../devices/units/loop.ts';
import type { HardwareUse, Jack, Line, Port, Studio, UnitUse } from '../model/hardware.ts';
import type { Device, Session, Setup, Track } from '../model/types.ts';
import { devicesIn } from '../session/slots.ts';
import { followSignal } from './follow.ts';
import { inputsOf, outputsOf, portJack } from './jacks.ts';
import type { WantedPatch } from './plan.ts';

type Side = Port['side'];

/** “Out 7/8” for a pair “Out 7” and “Out 8”; two other names stand beside each other. */
export function pairName(a: Port, b: Port): string {
  const [, stem, number] = /^(.*?)(\d+)$/.exec(a.name) ?? [];
  const other = stem !== undefined && b.name.startsWith(stem) ? b.name.slice(stem.length) : null;
  return other && /^\d+$/.test(other) ? `${stem}${number}/${other}` : `${a.name} / ${b.name}`;
}

/** Names by which inputs and outputs of a studio are chosen: every port, and every pair. */
export function portNames(studio: Studio, side: Side): string[] {
  const ports = studio.ports.filter((p) => p.side === side);
  const pairs = ports.flatMap((p) => {
    const other = ports.find((x) => x.id === p.pair && x.number > p.number);
    return other ? [pairName(p, other)] : [];
  });
  return [...ports.map((p) => p.name), ...pairs];
}

/** The port, or the two ports of a pair, that a name stands for; none where there is no such name. */
export function portsNamed(studio: Studio, side: Side, name: string): Port[] {
  const ports = studio.ports.filter((p) => p.side === side);
  const one = ports.find((p) => p.name === name);
  if (one) return [one];
  for (const p of ports) {
    const other = ports.find((x) => x.id === p.pair && x.number > p.number);
    if (other && pairName(p, other) === name) return [p, other];
  }
  return [];
}

/** A device that leaves the computer, on its line. */
export interface SessionLoop {
  track: Track;
  device: Device;
  send: string;
  back: string;
}

/** Every loop of lines that are on. */
export const loopsOfSession = (session: Pick<Session, 'tracks'>): SessionLoop[] =>
  session.tracks
    .filter((t) => t.state === 'on')
    .flatMap((track) =>
      devicesIn(track.chain).flatMap((device) => {
        const { loop } = DEVICE_TYPES[device.type];
        if (!loop || device.state !== 'on') return [];
        return [
          { track, device, send: String(device.params[loop.send]), back: String(device.params[loop.back]) },
        ];
      }),
    );

/** Units of a session: of its loops, and before its inputs. */
export const unitsUsed = (
  session: Pick<Session, 'tracks'>,
): { use: UnitUse; track: Track; device: Device | null }[] => [
  ...loopsOfSession(session).flatMap(({ track, device }) =>
    (device.hardware?.units ?? []).map((use) => ({ use, track, device })),
  ),
  ...session.tracks.flatMap((track) =>
    (track.input.kind === 'hardware' ? (track.input.units ?? []) : []).map((use) => ({
      use,
      track,
      device: null,
    })),
  ),
];

/** What a session wants plugged in its studio: every loop from its send through its units to its return. */
export function wantedPatches(
  session: Session,
  studio: Studio,
): { wanted: WantedPatch[]; problems: string[] } {
  const wanted: WantedPatch[] = [];
  const problems: string[] = [];
  for (const { track, device, send, back } of loopsOfSession(session)) {
    const what = `“${device.name}” on “${track.name}”`;
    const of = { track: track.id, device: device.id };
    const [out, home] = [portsNamed(studio, 'out', send), portsNamed(studio, 'in', back)];
    if (!out.length) problems.push(`${what}: “${studio.name}” has no output “${send}”.`);
    if (!home.length) problems.push(`${what}: “${studio.name}” has no input “${back}”.`);
    const stages = [
      { name: send, into: [] as Jack[], out: out.map((p) => portJack(p.id)) },
      ...stagesOf(device.hardware, studio, what, problems),
      { name: back, into: home.map((p) => portJack(p.id)), out: [] as Jack[] },
    ];
    stages.slice(1).forEach((to, i) => {
      const from = stages[i];
      join(from.out, to.into, `${what}: ${from.name} to ${to.name}`, of, wanted, problems);
    });
  }
  for (const track of session.tracks) wantInput(track, studio, wanted, problems);
  return { wanted: [...new Map(wanted.map((w) => [`${w.from} ${w.to}`, w])).values()], problems };
}

interface Stage {
  name: string;
  into: Jack[];
  out: Jack[];
}

function stagesOf(use: HardwareUse | undefined, studio: Studio, what: string, problems: string[]): Stage[] {
  return (use?.units ?? []).flatMap(({ unit }) => {
    const here = studio.units.find((u) => u.id === unit.id);
    if (here) return [{ name: here.name, into: inputsOf(here), out: outputsOf(here) }];
    problems.push(`${what}: “${unit.name}” is not in “${studio.name}”.`);
    return [];
  });
}

/** Channel by channel; between a mono side and a stereo one the left. */
function join(
  from: Jack[],
  to: Jack[],
  label: string,
  of: WantedPatch['of'],
  wanted: WantedPatch[],
  problems: string[],
): void {
  const count = Math.min(from.length, to.length);
  if (count === 1 && from.length !== to.length) {
    const [one, two] = from.length === 1 ? ['output', 'input'] : ['input', 'output'];
    problems.push(`${label}: a mono ${one} meets a stereo ${two}; only the left is patched.`);
  }
  for (let i = 0; i < count; i++) wanted.push({ from: from[i], to: to[i], label, of });
}

function wantInput(track: Track, studio: Studio, wanted: WantedPatch[], problems: string[]): void {
  if (track.input.kind !== 'hardware' || !track.input.units?.length || track.state !== 'on') return;
  const { port, units } = track.input;
  const what = `Input of “${track.name}”`;
  const home = portsNamed(studio, 'in', port).map((p) => portJack(p.id));
  const stages = stagesOf({ units, measured: null }, studio, what, problems);
  stages.slice(1).forEach((to, i) => {
    join(
      stages[i].out,
      to.into,
      `${what}: ${stages[i].name} to ${to.name}`,
      { track: track.id },
      wanted,
      problems,
    );
  });
  const last = stages.at(-1);
  if (last) join(last.out, home, `${what}: ${last.name} to ${port}`, { track: track.id }, wanted, problems);
}

/** How the way of a simulated loop is: what is wrong with the cables on it. */
export function simulatedLine(studio: Studio, send: string, units: readonly UnitUse[], back: string): Line {
  const line = { ...CLEAN_LINE };
  const starts = [
    ...portsNamed(studio, 'out', send).map((p) => portJack(p.id)),
    ...units.flatMap(({ unit }) => outputsOf(unit)),
  ];
  const ends = new Set(portsNamed(studio, 'in', back).map((p) => portJack(p.id)));
  const faults = new Set<string>();
  for (const start of starts) {
    if (!knows(studio, start)) continue;
    for (const { jack, via, through } of followSignal(studio, start).reaches) {
      if (through.length > 0 || !(ends.has(jack) || jack.startsWith('unit/'))) continue;
      for (const { cable } of via) if (cable?.fault) faults.add(cable.fault);
    }
  }
  line.dead = hasDeadCable(studio, starts);
  if (faults.has('polarity turned')) line.polarity = -1;
  if (faults.has('quiet')) line.gain = -6;
  if (faults.has('sides swapped')) line.swapped = true;
  if (faults.has('hum')) line.hum = -46;
  if (faults.has('noise')) line.noise = -58;
  return line;
}

/** Whether a cable that carries nothing is plugged where a loop begins or leaves a unit. */
function hasDeadCable(studio: Studio, starts: readonly Jack[]): boolean {
  const sound = studio.cables.map(({ fault: _fault, ...cable }) => cable);
  const dead = new Set(studio.cables.filter((c) => c.fault === 'dead').map((c) => c.id));
  if (!dead.size) return false;
  const mended = { ...studio, cables: sound };
  return starts
    .filter((start) => knows(studio, start))
    .some((start) =>
      followSignal(mended, start).reaches.some(
        ({ through, via }) => !through.length && via.some(({ cable }) => cable && dead.has(cable.id)),
      ),
    );
}

const knows = (studio: Studio, jack: Jack): boolean => {
  const [kind, id] = jack.split('/');
  return kind === 'port' ? studio.ports.some((p) => p.id === id) : studio.units.some((u) => u.id === id);
};

/**
 * The copy of a studio that a session keeps: ports, bays, cables and units, which loops pass and drops are matched to;
 * of its measured loops none, and of its MIDI nothing, since a session has its own.
 */
const copyOf = (studio: Studio): Studio => ({ ...studio, controllers: [], loops: [] });

/** What a session says of the studio that it is in. */
export const setupOf = (studio: Studio, ticks?: string[]): Setup => ({
  name: studio.name,
  inputs: portNames(studio, 'in'),
  outputs: portNames(studio, 'out'),
  studio: copyOf(studio),
  ...(ticks?.length ? { ticks } : {}),
});
