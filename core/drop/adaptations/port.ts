import { DEVICE_TYPES } from '../../devices/index.ts';
import { devicesIn } from '../../session/slots.ts';
import type { Device, Input, Output, Session, Track } from '../../model/types.ts';
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

function planPort(
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
  const like = known.find((k) => words(k).some((w) => words(port).includes(w)));
  if (like) return { side, port, choices, chosen: like, reason: 'similar name' };
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
    for (const t of c.sounding) for (const d of devicesIn(t.chain)) tellLoop(c, t, d);
  },
};

/** The ports of a loop through hardware stay as they are: told, so that somebody looks at them. */
function tellLoop(c: Adapting, t: Track, d: Device): void {
  const loop = DEVICE_TYPES[d.type].loop;
  if (!loop) return;
  const [out, back] = [d.params[loop.send], d.params[loop.back]];
  c.out.facts.push(
    `${d.name} on ${t.name} goes out by “${out}” and comes back by “${back}”, under the names that they had: see that these are the right ports here, and measure its way again.`,
  );
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
