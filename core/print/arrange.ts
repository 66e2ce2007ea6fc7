import { DEVICE_TYPES } from '../devices/index.ts';
import { flatPlans, type Edge, type NodePlan, type Schedule, type SlotPlan } from '../engine/compile.ts';
import type { Id, Track } from '../model/types.ts';
import type { Depth, Stem } from '../model/print.ts';
import { createTrack } from '../session/create.ts';
import { walkSlots } from '../session/slots.ts';

/**
 * Stems in one pass: beside what the session plays, every bus, return and the master is there once more for each stem
 * that leads into it, and hears only that stem. What is linear adds up by itself; what makes a gain hears, in each of
 * its doubles, the whole as its key, so that every share gets the gain of the whole mix (superposition; a gain is a
 * linear operation once its course is fixed).
 */

/** Nodes in which everything that belongs together is added up: named by what they hold. */
export const sinkOf = (stem: Id): Id => `stem:${stem}`;
/** The mix, and what comes into the master before its chain. */
export const MIX_SINK = 'stem::mix';
export const BEFORE_MASTER = 'stem::before-master';

/** Tracks that others are mixed into; what plays by itself is a source. */
export const isShared = (t: Track): boolean =>
  ['bus', 'return', 'folder', 'master'].includes(t.role) &&
  t.clips.length === 0 &&
  (t.input.kind === 'none' || t.role === 'master');

/** Which stem a line, or a whole bus or return, belongs to. */
export function ownersOf(stems: readonly Stem[]): Map<Id, Stem> {
  const owners = new Map<Id, Stem>();
  for (const stem of stems) for (const id of stem.lines) if (!owners.has(id)) owners.set(id, stem);
  return owners;
}

/** The schedule of a session with its stems and sums beside it. All sums lie equally late. */
export function withStems(
  schedule: Schedule,
  stems: readonly Stem[],
): { schedule: Schedule; latency: number } {
  const work = new Arranging(schedule, stems);
  return { schedule: { ...schedule, nodes: work.nodes() }, latency: work.latency };
}

class Arranging {
  /** samples that every sum lies late */
  readonly latency: number;
  private readonly byId: Map<Id, NodePlan>;
  private readonly owners: Map<Id, Stem>;
  private readonly outputs = new Map<Id, Edge>();

  constructor(
    private readonly schedule: Schedule,
    private readonly stems: readonly Stem[],
  ) {
    this.byId = new Map(schedule.nodes.map((n) => [n.track.id, n]));
    this.owners = ownersOf(stems);
    this.latency = Math.max(0, ...schedule.nodes.map((n) => n.latency));
    for (const n of schedule.nodes) {
      for (const e of n.inputs) if (e.kind === 'output') this.outputs.set(e.from, e);
    }
  }

  /** Every node in an order in which nothing is heard before it has played. */
  nodes(): NodePlan[] {
    const doubles = new Map<Id, NodePlan[]>();
    const sinks = this.stems.map((stem) => this.stem(stem, doubles));
    const master = this.byId.get(this.schedule.master)!;
    const mix = this.sink(MIX_SINK, [this.fromMaster(master, master.track.id)]);
    const before = this.sink(
      BEFORE_MASTER,
      master.inputs.map((e) => this.into(e, e.from)),
    );
    return [
      ...this.schedule.nodes.flatMap((n) => [n, ...(doubles.get(n.track.id) ?? [])]),
      ...sinks,
      mix,
      before,
    ];
  }

  /** The sum of one stem; what it needs of shared tracks goes into `doubles`, behind their originals. */
  private stem(stem: Stem, doubles: Map<Id, NodePlan[]>): NodePlan {
    const own = stem.lines.filter((id) => this.owners.get(id) === stem && this.byId.has(id));
    if (stem.depth === 'source' || stem.depth === 'chain') {
      return this.sink(
        sinkOf(stem.id),
        own.flatMap((id) => this.straight(id)),
      );
    }
    const carriers = new Map<Id, Id>(own.map((id) => [id, id]));
    const follows = (n: NodePlan) =>
      isShared(n.track) && !this.owners.has(n.track.id) && reaches(stem.depth, n.track);
    for (const n of this.schedule.nodes.filter(follows)) {
      const inputs = n.inputs.filter((e) => carriers.has(e.from));
      if (!inputs.length) continue;
      // what nothing else comes into is the stem's already
      if (n.inputs.every((e) => carriers.get(e.from) === e.from)) {
        carriers.set(n.track.id, n.track.id);
        continue;
      }
      const double = doubleOf(n, stem.id, inputs, carriers);
      doubles.set(n.track.id, [...(doubles.get(n.track.id) ?? []), double]);
      carriers.set(n.track.id, double.track.id);
    }
    return this.sink(sinkOf(stem.id), this.ends(stem.depth, carriers));
  }

  /** What of the carriers of a stem leaves it at its depth. */
  private ends(depth: Depth, carriers: ReadonlyMap<Id, Id>): Edge[] {
    const master = this.byId.get(this.schedule.master)!;
    if (depth === 'master') {
      const from = carriers.get(master.track.id);
      return from ? [this.fromMaster(master, from)] : [];
    }
    if (depth === 'buses') {
      return master.inputs
        .filter((e) => carriers.has(e.from))
        .map((e) => this.into(e, carriers.get(e.from)!));
    }
    return [...carriers].flatMap(([id, from]) => {
      const e = this.outputs.get(id);
      return e ? [this.into(e, from)] : [];
    });
  }

  /** A line right behind its chain, unless it is not heard at all. */
  private straight(id: Id): Edge[] {
    const n = this.byId.get(id)!;
    if (n.silent) return [];
    const edge = {
      id: `${id}>print`,
      from: id,
      to: id,
      kind: 'input' as const,
      gainL: 1,
      gainR: 1,
      closed: false,
    };
    return [this.into({ ...edge, delay: 0 }, id)];
  }

  /** The same connection into a sum: from a double in the place of its source, delayed so that all lie equally late. */
  private into(e: Edge, from: Id): Edge {
    const lateness = e.tap
      ? [...flatPlans(this.byId.get(e.from)!.slots)].find((s) => s.slot.id === e.tap!.slot)!.at
      : this.byId.get(e.from)!.latency;
    return { ...e, from, delay: this.latency - lateness };
  }
  private fromMaster({ track, gainL, gainR, latency }: NodePlan, from: Id): Edge {
    const delay = this.latency - latency;
    return { id: `${track.id}>out`, from, to: MIX_SINK, kind: 'output', gainL, gainR, delay, closed: false };
  }
  private sink(id: Id, inputs: Edge[]): NodePlan {
    return {
      track: createTrack('bus', { id, name: id }),
      inputs,
      slots: [],
      gainL: 1,
      gainR: 1,
      inputLatency: this.latency,
      latency: this.latency,
      silent: false,
      hushed: false,
    };
  }
}

/** Whether sound is followed through a shared track at a depth. */
function reaches(depth: Depth, { role }: Track): boolean {
  if (role === 'return') return depth !== 'fader';
  if (role === 'master') return depth === 'master';
  return depth === 'buses' || depth === 'master';
}

/** A shared track once more for a stem: under names of its own, hearing only what the stem sends there. */
function doubleOf(n: NodePlan, stem: Id, inputs: Edge[], carriers: ReadonlyMap<Id, Id>): NodePlan {
  const { inputs: _all, ...rest } = n;
  const own = ownIds(n.track);
  const double = renamed(rest, own, `#${stem}`) as Omit<NodePlan, 'inputs'>;
  const [plans, doubled] = [[...flatPlans(n.slots)], [...flatPlans(double.slots)]];
  plans.forEach((p, i) => {
    if (hearsWhole(p)) doubled[i].follows = p.slot.id;
  });
  return {
    ...double,
    inputs: inputs.map((e) => ({ ...e, from: carriers.get(e.from)!, to: double.track.id })),
  };
}

const hearsWhole = ({ slot, key }: SlotPlan): boolean =>
  slot.kind === 'device' && DEVICE_TYPES[slot.type].shares === 'gain' && key === null;

/** Ids of a track and of everything in its chain that its lanes, ties and plans name. */
function ownIds(t: Track): Set<string> {
  const ids = new Set<string>([t.id]);
  for (const slot of walkSlots(t.chain)) {
    ids.add(slot.id);
    if (slot.kind === 'device') continue;
    for (const part of [...slot.strands, ...slot.handles]) ids.add(part.id);
  }
  return ids;
}

/** Where plans, chains and lanes name slots, strands, handles and their track. */
const NAMING = new Set(['id', 'of', 'slot']);
/** What is a device's own business: a value may be called like a track. */
const APART = new Set(['params', 'hardware']);

/** The same data with other ids in the place of those named. */
function renamed(x: unknown, ids: ReadonlySet<string>, end: string, at = ''): unknown {
  if (typeof x === 'string') return NAMING.has(at) && ids.has(x) ? x + end : x;
  if (Array.isArray(x)) return x.map((y) => renamed(y, ids, end, at));
  if (x && typeof x === 'object' && !APART.has(at)) {
    return Object.fromEntries(Object.entries(x).map(([k, y]) => [k, renamed(y, ids, end, k)]));
  }
  return x;
}

/** A device whose work on several stems at once cannot be divided among them. */
export interface Undivided {
  track: Id;
  slot: Id;
  name: string;
  why: string;
  /** names of the stems that meet there */
  stems: string[];
}

/** Devices on buses, returns and the master that stems lead through and whose work cannot be divided among them. */
export function undividedIn(schedule: Schedule, stems: readonly Stem[]): Undivided[] {
  const nodes = new Map(withStems(schedule, stems).schedule.nodes.map((n) => [n.track.id, n]));
  const byId = new Map(schedule.nodes.map((n) => [n.track.id, n]));
  /** whether a stem has all that sounds there: then its share is the whole */
  const isWhole = (n: NodePlan, stem: Stem): boolean => {
    const double = nodes.get(`${n.track.id}#${stem.id}`);
    if (!double) return false;
    return n.inputs.every((e) => {
      const isSilent = e.gainL === 0 && e.gainR === 0;
      const there = double.inputs.find((x) => x.id === e.id);
      const from = byId.get(e.from)!;
      return isSilent || (!!there && (there.from === e.from || isWhole(from, stem)));
    });
  };
  return schedule.nodes.flatMap((n): Undivided[] => {
    const through = stems.filter((s) => nodes.has(`${n.track.id}#${s.id}`) && !isWhole(n, s));
    if (!through.length) return [];
    return [...flatPlans(n.slots)].flatMap(({ slot }): Undivided[] => {
      if (slot.kind === 'rack' || slot.state !== 'on') return [];
      const { shares, sharesWith, label } = DEVICE_TYPES[slot.type];
      if (shares === 'linear' || (shares === 'gain' && (sharesWith?.(slot.params) ?? true))) return [];
      const why = `${label} works on the sum: what it does cannot be told apart for each stem`;
      const names = through.map((s) => s.name);
      return [{ track: n.track.id, slot: slot.id, name: slot.name, why, stems: names }];
    });
  });
}
