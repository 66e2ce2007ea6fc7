import { matchHardware } from '../hardware/match.ts';
import { setupOf } from '../hardware/studio.ts';
import type { Studio } from '../model/hardware.ts';
import { same } from '../model/json.ts';
import type { Device, Id, LineEnds, Session, Setup, Track } from '../model/types.ts';
import { devicesIn, mapDevices } from '../session/slots.ts';
import { hardware, inputHere, unitsOn } from './adaptations/hardware.ts';
import { planPort, portsOfLoop, ports } from './adaptations/port.ts';
import type { Changed, PortPlan, UnitPlan } from './types.ts';

/** What moving a session to another studio would do. */
export interface MovePlan {
  studio: Studio;
  units: UnitPlan[];
  ports: PortPlan[];
  /** it goes back to where it came from, as it was there */
  back: boolean;
}

export interface MoveOptions {
  /** path of a unit → id of the choice that stands for it there */
  units?: Record<string, string>;
  /** "output/Out 7" → the port's name there */
  ports?: Record<string, string | null>;
}

/**
 * Works out how a session moves to another studio: what stands for each of its units, all at once, and which ports
 * its loops, inputs and outputs get. Changes nothing.
 */
export function planMove(session: Session, studio: Studio, options: MoveOptions = {}): MovePlan {
  const there: Session = { ...session, tracks: [], setup: setupOf(studio) };
  const wanted = session.tracks.flatMap(unitsOn);
  const matches = matchHardware(
    wanted.map((w) => w.use),
    studio,
    new Set(),
    (place) => wanted[place].isInput,
  );
  const units = matches.map((match, i): UnitPlan => {
    const { path, label } = wanted[i];
    const asked = options.units?.[path];
    const known = match.choices.some((c) => c.id === asked);
    return { ...match, path, label, chosen: known ? asked! : match.chosen };
  });
  const named = new Map<string, PortPlan>();
  for (const { side, port } of session.tracks.flatMap(portsOf)) {
    const key = `${side}/${port}`;
    if (!named.has(key)) named.set(key, planPort(there, side, port, options.ports ?? {}));
  }
  return { studio, units, ports: [...named.values()], back: wayBack(session, studio) !== null };
}

type Named = { side: PortPlan['side']; port: string };
const portsOf = (t: Track): Named[] => [
  ...(t.input.kind === 'hardware' ? [{ side: 'input' as const, port: t.input.port }] : []),
  ...(t.output.kind === 'hardware' ? [{ side: 'output' as const, port: t.output.port }] : []),
  ...devicesIn(t.chain).flatMap(portsOfLoop),
];

type Left = NonNullable<Setup['left']>;
const endsOf = ({ input, output }: Track): LineEnds => ({ input, output });

/** Carries a move out; one back to where the session came from leaves it as it was there, byte for byte. */
export function applyMove(session: Session, plan: MovePlan): Session {
  const home = wayBack(session, plan.studio);
  if (home) return home;
  const changed: Changed = {
    renames: [],
    adaptations: [],
    standIns: [],
    facts: [],
    units: plan.units,
    ports: plan.ports,
  };
  const slots: Left['slots'] = {};
  const ends: NonNullable<Left['ends']> = {};
  const tracks = session.tracks.map((t): Track => {
    const chain = mapDevices(t.chain, (before) => {
      const unitsThere = hardware.slot!(before, t, changed);
      const after = ports.slot!(unitsThere, t, changed) as Device;
      if (!same(before, after)) slots[before.id] = { before, after };
      return same(before, after) ? before : after;
    });
    const [before, after] = [endsOf(t), { input: movedInput(t, plan), output: movedOutput(t, plan) }];
    if (!same(before, after)) ends[t.id] = { before, after };
    return { ...t, chain, ...(same(before, after) ? before : after) };
  });
  const moved = { ...session, tracks, setupId: plan.studio.id };
  const left = { setup: session.setup ? within(session.setup, STEPS_BACK) : null, slots, ends };
  return { ...moved, setup: { ...setupOf(plan.studio), left } };
}

/** Studios that a session remembers having come from. */
const STEPS_BACK = 3;

/** A setup that remembers only so many before it; otherwise a session that travels would grow with every move. */
function within(setup: Setup, steps: number): Setup {
  const { left, ...rest } = setup;
  if (!left || steps <= 1) return rest;
  return { ...rest, left: { ...left, setup: left.setup && within(left.setup, steps - 1) } };
}

const nameThere = (plan: MovePlan, side: PortPlan['side'], port: string): string =>
  plan.ports.find((p) => p.side === side && p.port === port)?.chosen ?? port;

function movedInput(t: Track, plan: MovePlan): Track['input'] {
  if (t.input.kind !== 'hardware') return t.input;
  return inputHere(t, { ...t.input, port: nameThere(plan, 'input', t.input.port) }, plan);
}
const movedOutput = (t: Track, plan: MovePlan): Track['output'] =>
  t.output.kind === 'hardware' ? { ...t.output, port: nameThere(plan, 'output', t.output.port) } : t.output;

/**
 * The session as it was in the studio that it came from, when that is asked for and nothing that the move changed was
 * touched since; null otherwise.
 */
function wayBack(session: Session, studio: Studio): Session | null {
  const left = session.setup?.left;
  if (!left?.setup || left.setup.studio?.id !== studio.id) return null;
  const now = new Map<Id, Device>(session.tracks.flatMap((t) => devicesIn(t.chain).map((d) => [d.id, d])));
  const lines = new Map<Id, LineEnds>(session.tracks.map((t) => [t.id, endsOf(t)]));
  const ends = left.ends ?? {};
  const untouched =
    Object.entries(left.slots).every(([id, { after }]) => same(now.get(id), after)) &&
    Object.entries(ends).every(([id, { after }]) => same(lines.get(id), after));
  if (!untouched || hasNewPorts(session, left)) return null;
  const tracks = session.tracks.map((t) => ({
    ...t,
    ...ends[t.id]?.before,
    chain: mapDevices(t.chain, (d) => left.slots[d.id]?.before ?? d),
  }));
  return { ...session, tracks, setupId: studio.id, setup: left.setup };
}

/** Whether a line has got a hardware input or output since that the studio which it goes back to does not have. */
function hasNewPorts(session: Session, { setup, ends = {} }: Left): boolean {
  const knows = (side: 'inputs' | 'outputs', port: string) => setup![side].includes(port);
  return session.tracks.some(
    (t) =>
      !ends[t.id] &&
      ((t.input.kind === 'hardware' && !knows('inputs', t.input.port)) ||
        (t.output.kind === 'hardware' && !knows('outputs', t.output.port))),
  );
}
