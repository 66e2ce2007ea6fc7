import { DEVICE_TYPES } from '../../devices/index.ts';
import { devicesIn } from '../../session/slots.ts';
import type { Device, Input, Output, Session } from '../../model/types.ts';
import type { Changed, DropPlan, Explanation, PortPlan } from '../types.ts';
import { words } from '../words.ts';
import type { AdaptationKind, Adapting } from './adaptation.ts';

type Side = PortPlan['side'];
const portOf = (far: Input | Output): string | null => (far.kind === 'hardware' ? far.port : null);

/** Names of hardware that the session knows: of its setup, and of its lines. */
function knownPorts(session: Session, side: Side): string[] {
  const setup = side === 'input' ? session.setup?.inputs : session.setup?.outputs;
  const used = session.tracks.flatMap((t) => portOf(t[side]) ?? []);
  return [...new Set([...(setup ?? []), ...used])];
}

export function planPort(
  session: Session,
  side: Side,
  port: string,
  wanted: Record<string, string | null>,
): PortPlan {
  const known = knownPorts(session, side);
  const choices = [...new Set([port, ...known])];
  const key = `${side}/${port}`;
  if (key in wanted) return { side, port, choices, chosen: wanted[key], reason: 'your choice' };
  if (known.includes(port)) return { side, port, choices, chosen: port, reason: 'has the same name' };
  const numbers = (name: string) => name.match(/\d+/g)?.join('/') ?? '';
  const isLike = (k: string) => words(k).some((w) => words(port).includes(w));
  const numbered = numbers(port) ? known.filter((k) => numbers(k) === numbers(port)) : [];
  const like = numbered.find(isLike) ?? (numbered.length ? undefined : known.find(isLike));
  if (like) return { side, port, choices, chosen: like, reason: 'similar name' };
  if (numbered.length) return { side, port, choices, chosen: numbered[0], reason: 'has the same number' };
  const reason = session.setup
    ? `“${session.setup.name}” has no port of that name; it keeps its own`
    : 'no other line here uses hardware of that name; it keeps its own';
  return { side, port, choices, chosen: port, reason };
}

/** Hardware is known by name: the same name, a similar one, or it stays under its own name for another setup. */
export const ports: AdaptationKind = {
  id: 'port',

  plan(c) {
    for (const side of ['input', 'output'] as const) {
      for (const t of c.arriving) {
        const port = portOf(t[side]);
        const known = c.out.ports.some((x) => x.side === side && x.port === port);
        if (port === null || known || !c.has(t, side)) continue;
        c.out.ports.push(planPort(c.session, side, port, c.options.ports ?? {}));
      }
    }
    for (const t of c.sounding) for (const d of devicesIn(t.chain)) planLoop(c, d);
  },

  slot(slot, _home, plan) {
    const loop = slot.kind === 'device' ? DEVICE_TYPES[slot.type].loop : undefined;
    if (slot.kind !== 'device' || !loop) return slot;
    const here = portsOfLoop(slot).map(({ param, side, port }) => [
      param,
      portHere(plan, side, port) ?? port,
    ]);
    return { ...slot, params: { ...slot.params, ...Object.fromEntries(here) } };
  },

  remember: (t, named, plan) =>
    Object.fromEntries(
      devicesIn(t.chain)
        .filter((d) => named.includes(d.id))
        .flatMap((d) =>
          portsOfLoop(d).flatMap(({ param, side, port }) => {
            const here = portHere(plan, side, port) ?? port;
            return here === port ? [] : [[`${d.id}/${param}`, here]];
          }),
        ),
    ),

  explain(_t, want, param, found, plan) {
    const at = portsOfLoop(want).find((x) => x.param === param);
    const p = at && plan.ports.find((x) => x.side === at.side && x.port === at.port);
    return p && found === p.chosen ? { verdict: 'tied', reason: p.reason } : null;
  },
};

/** The ports of a device that leaves the computer, by the values that name them. */
export function portsOfLoop(d: Device): { param: string; side: Side; port: string }[] {
  const { loop } = DEVICE_TYPES[d.type];
  if (!loop) return [];
  return [
    { param: loop.send, side: 'output', port: String(d.params[loop.send]) },
    { param: loop.back, side: 'input', port: String(d.params[loop.back]) },
  ];
}

function planLoop(c: Adapting, d: Device): void {
  for (const { side, port } of portsOfLoop(d)) {
    if (c.out.ports.some((x) => x.side === side && x.port === port)) continue;
    c.out.ports.push(planPort(c.session, side, port, c.options.ports ?? {}));
  }
}

/** The name that a port gets here; null: left unconnected. */
export const portHere = (plan: Changed, side: Side, port: string): string | null =>
  plan.ports.find((x) => x.side === side && x.port === port)?.chosen ?? null;

/** Why an input or output of hardware is another one here. */
export function explainPort(
  plan: DropPlan,
  side: Side,
  want: Input | Output,
  found: Input | Output | undefined,
): Explanation | null {
  const p = plan.ports.find((x) => x.side === side && x.port === portOf(want));
  if (!p) return null;
  if (found?.kind === 'hardware' && found.port === p.chosen) return { verdict: 'tied', reason: p.reason };
  const open = p.chosen === null && found?.kind !== 'hardware';
  return open ? { verdict: 'left out', reason: 'left unconnected on the drop sheet' } : null;
}
