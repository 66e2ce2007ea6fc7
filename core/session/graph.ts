import { addressText, listenersIn, sameAddress, sentBy } from './midi.ts';
import { devicesIn } from './slots.ts';
import type { Id, Session, Track } from '../model/types.ts';

export type FlowKind = 'output' | 'send' | 'key' | 'input' | 'midi';

export interface FlowNode {
  id: Id;
  kind: 'track' | 'hardware' | 'speakers';
  label: string;
  /** the track that it stands for */
  track?: Track;
  folder: Id | null;
}

export interface Flow {
  id: Id;
  from: Id;
  to: Id;
  kind: FlowKind;
  /** whether the connection itself is switched on */
  on: boolean;
  /** whether sound goes through it now: nothing on the way is off, muted or inactive */
  live: boolean;
  /** in words, such as "send −12.0 dB, pre-fader" */
  tap?: 'pre' | 'post';
  level?: number;
  /** "output 3 left", "port A, channel 10" */
  detail?: string;
}

export interface SignalGraph {
  nodes: FlowNode[];
  flows: Flow[];
  /** flows that lie on a circle */
  loops: Set<Id>;
  /** flows by which a track reaches one bus, folder or the master by two dry ways at once */
  doubles: Set<Id>;
}

/**
 * The session as a graph: every track, the hardware that it uses, and what leads from where to where. A dry
 * way is one along outputs and along sends to buses and folders; the wet way through a return is meant to
 * come beside the dry one, so it is no double path.
 */
export function signalGraph(s: Session): SignalGraph {
  const byId = new Map(s.tracks.map((t) => [t.id, t]));
  const nodes: FlowNode[] = s.tracks.map((t) => ({
    id: t.id,
    kind: 'track',
    label: t.name,
    track: t,
    folder: t.folder,
  }));
  const flows: Flow[] = [];
  const extra = new Map<Id, FlowNode>();
  const outside = (id: Id, kind: FlowNode['kind'], label: string) => {
    if (!extra.has(id)) extra.set(id, { id, kind, label, folder: null });
    return id;
  };
  const sounds = (t: Track) => t.state === 'on' && !t.mute;
  for (const t of s.tracks) {
    if (t.input.kind === 'track' && byId.has(t.input.track)) {
      flows.push({
        id: `${t.id}/input`,
        from: t.input.track,
        to: t.id,
        kind: 'input',
        on: true,
        live: sounds(byId.get(t.input.track)!),
        tap: t.input.tap,
      });
    }
    if (t.input.kind === 'deviceOutput' && byId.has(t.input.track)) {
      const x = t.input;
      const from = byId.get(x.track)!;
      const d = devicesIn(from.chain).find((y) => y.id === x.slot);
      flows.push({
        id: `${t.id}/input`,
        from: x.track,
        to: t.id,
        kind: 'input',
        on: !!d && d.state === 'on',
        live: !!d && d.state === 'on' && from.state === 'on' && t.state === 'on',
        detail: `output ${x.output}${x.take === 'stereo' ? '' : ` ${x.take}`}`,
      });
    }
    if (t.input.kind === 'hardware') {
      flows.push({
        id: `${t.id}/input`,
        from: outside(`in:${t.input.port}`, 'hardware', t.input.port),
        to: t.id,
        kind: 'input',
        on: true,
        live: t.state === 'on',
      });
    }
    if (t.role === 'master') {
      flows.push({
        id: `${t.id}/output`,
        from: t.id,
        to:
          t.output.kind === 'hardware'
            ? outside(`out:${t.output.port}`, 'hardware', t.output.port)
            : outside('speakers', 'speakers', 'Speakers'),
        kind: 'output',
        on: true,
        live: sounds(t),
      });
    } else if (t.output.kind === 'track' && byId.has(t.output.track)) {
      flows.push({
        id: `${t.id}/output`,
        from: t.id,
        to: t.output.track,
        kind: 'output',
        on: true,
        live: sounds(t),
      });
    } else if (t.output.kind === 'hardware') {
      flows.push({
        id: `${t.id}/output`,
        from: t.id,
        to: outside(`out:${t.output.port}`, 'hardware', t.output.port),
        kind: 'output',
        on: true,
        live: sounds(t),
      });
    }
    for (const x of t.sends) {
      if (byId.has(x.to)) {
        flows.push({
          id: x.id,
          from: t.id,
          to: x.to,
          kind: 'send',
          on: x.on,
          live: sounds(t) && x.on && x.level > -144,
          tap: x.tap,
          level: x.level,
        });
      }
    }
    for (const d of devicesIn(t.chain)) {
      if (d.key.kind === 'track' && byId.has(d.key.track)) {
        flows.push({
          id: `${d.id}/key`,
          from: d.key.track,
          to: t.id,
          kind: 'key',
          on: d.state === 'on',
          live: d.state === 'on' && t.state === 'on' && sounds(byId.get(d.key.track)!),
          tap: d.key.tap,
        });
      }
    }
  }
  const listeners = listenersIn(s.tracks);
  for (const t of s.tracks) {
    if (t.role === 'midi') {
      for (const to of new Set(
        listeners.filter((l) => sentBy(t).some((a) => sameAddress(a, l))).map((l) => l.track),
      )) {
        const via = sentBy(t).filter((a) => listeners.some((l) => l.track === to && sameAddress(a, l)));
        flows.push({
          id: `${t.id}/midi/${to}`,
          from: t.id,
          to,
          kind: 'midi',
          on: true,
          live: sounds(t),
          detail: via.length > 1 ? `port ${via[0].port}, ${via.length} channels` : addressText(via[0]),
        });
      }
    }
  }
  return {
    nodes: [...nodes, ...extra.values()],
    flows,
    loops: circles(flows),
    doubles: doubles(s, flows, byId),
  };
}

/** Everything that feeds a node and that it feeds, with the flows between: the whole path up and down. */
export function pathThrough(g: Pick<SignalGraph, 'flows'>, id: Id): { nodes: Set<Id>; flows: Set<Id> } {
  const [from, to] = [index(g.flows, 'from'), index(g.flows, 'to')];
  const nodes = new Set([id]);
  const flows = new Set<Id>();
  const walk = (next: Map<Id, Flow[]>, end: 'from' | 'to') => {
    const seen = new Set([id]);
    const todo = [id];
    while (todo.length) {
      for (const f of next.get(todo.pop()!) ?? []) {
        flows.add(f.id);
        nodes.add(f[end]);
        if (!seen.has(f[end])) {
          seen.add(f[end]);
          todo.push(f[end]);
        }
      }
    }
  };
  walk(from, 'to');
  walk(to, 'from');
  return { nodes, flows };
}

function index(flows: Flow[], end: 'from' | 'to'): Map<Id, Flow[]> {
  const out = new Map<Id, Flow[]>();
  for (const f of flows) {
    const l = out.get(f[end]);
    if (l) l.push(f);
    else out.set(f[end], [f]);
  }
  return out;
}

/**
 * Flows inside a strongly connected part (R. Tarjan, "Depth-first search and linear graph algorithms", SIAM
 * J. Computing 1(2), 1972), without recursion so that long chains are no danger.
 */
function circles(flows: Flow[]): Set<Id> {
  const next = index(flows, 'from');
  const num = new Map<Id, number>();
  const low = new Map<Id, number>();
  const part = new Map<Id, number>();
  const stack: Id[] = [];
  let n = 0;
  let parts = 0;
  for (const start of new Set(flows.map((f) => f.from))) {
    if (num.has(start)) continue;
    const work: { id: Id; i: number }[] = [{ id: start, i: 0 }];
    while (work.length) {
      const w = work[work.length - 1];
      if (w.i === 0) {
        num.set(w.id, n);
        low.set(w.id, n++);
        stack.push(w.id);
      }
      const out = next.get(w.id) ?? [];
      if (w.i < out.length) {
        const to = out[w.i++].to;
        if (!num.has(to)) work.push({ id: to, i: 0 });
        else if (!part.has(to)) low.set(w.id, Math.min(low.get(w.id)!, num.get(to)!));
        if (w.i === 0) w.i = 1;
        continue;
      }
      work.pop();
      const up = work[work.length - 1];
      if (up) low.set(up.id, Math.min(low.get(up.id)!, low.get(w.id)!));
      if (low.get(w.id) === num.get(w.id)) {
        for (;;) {
          const x = stack.pop()!;
          part.set(x, parts);
          if (x === w.id) break;
        }
        parts++;
      }
    }
  }
  return new Set(
    flows
      .filter((f) => part.get(f.from) !== undefined && part.get(f.from) === part.get(f.to))
      .map((f) => f.id),
  );
}

/**
 * Dry flows of tracks that reach a place by two ways: those on both ways, from the track to where they meet.
 */
function doubles(s: Session, flows: Flow[], byId: Map<Id, Track>): Set<Id> {
  const dry = flows.filter(
    (f) =>
      f.live &&
      (f.kind === 'output' ||
        (f.kind === 'send' && ['bus', 'folder', 'master'].includes(byId.get(f.to)?.role ?? ''))),
  );
  const next = index(dry, 'from');
  const out = new Set<Id>();
  for (const t of s.tracks) {
    const ways = next.get(t.id) ?? [];
    if (ways.length < 2) continue;
    // each first step and everything behind it; where two of them meet first, the sound is there twice
    const reach = ways.map((f) => {
      const path = new Map<Id, Flow>([[f.to, f]]);
      const todo = [f.to];
      while (todo.length) {
        for (const g of next.get(todo.shift()!) ?? []) {
          if (!path.has(g.to) && g.to !== t.id) {
            path.set(g.to, g);
            todo.push(g.to);
          }
        }
      }
      return path;
    });
    for (let i = 0; i < ways.length; i++) {
      for (let j = i + 1; j < ways.length; j++) {
        const meet = [...reach[i].keys()].find((id) => reach[j].has(id));
        if (!meet) continue;
        for (const [path, first] of [
          [reach[i], ways[i]],
          [reach[j], ways[j]],
        ] as const) {
          for (let at: Id | undefined = meet; at && at !== t.id;) {
            const f: Flow = path.get(at)!;
            out.add(f.id);
            if (f.id === first.id) break;
            at = f.from;
          }
        }
      }
    }
  }
  return out;
}
