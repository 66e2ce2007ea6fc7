import { portNames, portsNamed, type PortMap, type Studio } from '../../../core/index.ts';

/** One device of the browser, and which port of the studio its first channel is. */
export interface Plugged {
  id: string;
  label: string;
  /** number of the studio's port on that side */
  first: number;
}

/** What of this computer a studio's ports are. Browsers play on one output at a time; inputs may be several. */
export interface Connection {
  output: Plugged;
  inputs: Plugged[];
}

const PLACE = 'rope-shelf.real-ports';

/** The connections of this browser, by the studio's id. */
export function readConnections(): Record<string, Connection> {
  try {
    return JSON.parse(localStorage.getItem(PLACE) ?? '{}') as Record<string, Connection>;
  } catch {
    // what is there is not ours: nothing is connected
    return {};
  }
}
export const keepConnections = (all: Record<string, Connection>): void =>
  localStorage.setItem(PLACE, JSON.stringify(all));

/** The channels of an input that is open: as many as the browser gives, from a place in all of them on. */
export interface OpenInput {
  first: number;
  channels: number;
  /** its first channel among those of all inputs */
  offset: number;
}

/**
 * Which channels carry which ports. The mix goes to the ports that feed the monitors; where none does, to the first
 * two channels that no loop is sent to.
 * @param outs channels of the output
 * @param sends the ports that loops of the session are sent to, by name
 */
export function portMap(
  studio: Studio,
  { output }: Connection,
  outs: number,
  inputs: readonly OpenInput[],
  sends: readonly string[],
): PortMap {
  const outChannel = (n: number) => (n >= output.first && n < output.first + outs ? n - output.first : null);
  const inChannel = (n: number) => {
    const of = inputs.find((i) => n >= i.first && n < i.first + i.channels);
    return of ? of.offset + n - of.first : null;
  };
  const named = (side: 'in' | 'out', channel: (n: number) => number | null) =>
    Object.fromEntries(
      portNames(studio, side).flatMap((name) => {
        const channels = portsNamed(studio, side, name).map((p) => channel(p.number));
        return channels.every((k) => k !== null) ? [[name, channels]] : [];
      }),
    ) as Record<string, number[]>;
  const map = { outs: named('out', outChannel), ins: named('in', inChannel) };
  const monitors = studio.ports
    .filter((p) => p.side === 'out' && p.monitor)
    .flatMap((p) => outChannel(p.number) ?? []);
  const sent = new Set(sends.flatMap((name) => map.outs[name] ?? []));
  const free = Array.from({ length: outs }, (_, k) => k).filter((k) => !sent.has(k));
  return { ...map, monitor: monitors.length ? monitors : free.slice(0, 2) };
}
