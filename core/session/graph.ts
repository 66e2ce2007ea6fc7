import { DEVICE_TYPES } from '../devices/index.ts';
import { addressText, listenersIn, sameAddress, sentBy, type Listener } from './midi.ts';
import { Ways, waysBy } from './reach.ts';
import { devicesIn } from './slots.ts';
import { MIN_LEVEL, type Id, type Session, type Track } from '../model/types.ts';

/** `loop`: out of the computer and back */
export type FlowKind = 'output' | 'send' | 'key' | 'input' | 'midi' | 'loop';

export interface FlowNode {
  id: Id;
  kind: 'track' | 'hardware' | 'speakers' | 'loop';
  label: string;
  /** of a loop: the ports that it goes over */
  detail?: string;
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
  const outside = new Map<Id, FlowNode>();
  const x: Drawing = {
    byId: new Map(s.tracks.map((t) => [t.id, t])),
    listeners: listenersIn(s.tracks),
    outside(id, kind, label, more = {}) {
      if (!outside.has(id)) outside.set(id, { id, kind, label, folder: null, ...more });
      return id;
    },
  };
  const flows = s.tracks.flatMap((t) => [
    ...inputFlows(t, x),
    ...outputFlows(t, x),
    ...sendFlows(t, x),
    ...keyFlows(t, x),
    ...loopFlows(t, x),
  ]);
  for (const t of s.tracks) if (t.role === 'midi') flows.push(...midiFlows(t, x));
  const nodes: FlowNode[] = s.tracks.map((t) => ({
    id: t.id,
    kind: 'track',
    label: t.name,
    track: t,
    folder: t.folder,
  }));
  return {
    nodes: [...nodes, ...outside.values()],
    flows,
    // what leaves the computer comes back on purpose
    loops: circles(flows.filter((f) => f.kind !== 'loop')),
    doubles: doubles(s, flows, x.byId),
  };
}

/** What is known while a graph is drawn. */
interface Drawing {
  byId: Map<Id, Track>;
  listeners: Listener[];
  /** a node that is no track, made when it is first led to */
  outside(id: Id, kind: FlowNode['kind'], label: string, more?: Partial<FlowNode>): Id;
}

const sounds = (t: Track): boolean => t.state === 'on' && !t.mute;

function inputFlows(t: Track, x: Drawing): Flow[] {
  const { input } = t;
  const head = { id: `${t.id}/input`, to: t.id, kind: 'input' as const };
  if (input.kind === 'hardware') {
    const from = x.outside(`in:${input.port}`, 'hardware', input.port);
    return [{ ...head, from, on: true, live: t.state === 'on' }];
  }
  if (input.kind !== 'track' && input.kind !== 'deviceOutput') return [];
  const source = x.byId.get(input.track);
  if (!source) return [];
  const from = input.track;
  if (input.kind === 'track') return [{ ...head, from, on: true, live: sounds(source), tap: input.tap }];
  const on = devicesIn(source.chain).some((d) => d.id === input.slot && d.state === 'on');
  const live = on && source.state === 'on' && t.state === 'on';
  const detail = `output ${input.output}${input.take === 'stereo' ? '' : ` ${input.take}`}`;
  return [{ ...head, from, on, live, detail }];
}

function outputFlows(t: Track, x: Drawing): Flow[] {
  const { output } = t;
  const flow = (to: Id): Flow[] => [
    { id: `${t.id}/output`, from: t.id, to, kind: 'output', on: true, live: sounds(t) },
  ];
  if (output.kind === 'hardware') return flow(x.outside(`out:${output.port}`, 'hardware', output.port));
  if (t.role === 'master') return flow(x.outside('speakers', 'speakers', 'Speakers'));
  return output.kind === 'track' && x.byId.has(output.track) ? flow(output.track) : [];
}

const sendFlows = (t: Track, x: Drawing): Flow[] =>
  t.sends
    .filter((send) => x.byId.has(send.to))
    .map((send) => ({
      id: send.id,
      from: t.id,
      to: send.to,
      kind: 'send',
      on: send.on,
      live: sounds(t) && send.on && send.level > MIN_LEVEL,
      tap: send.tap,
      level: send.level,
    }));

const keyFlows = (t: Track, x: Drawing): Flow[] =>
  devicesIn(t.chain).flatMap((d): Flow[] => {
    const source = d.key.kind === 'track' ? x.byId.get(d.key.track) : undefined;
    if (d.key.kind !== 'track' || !source) return [];
    const on = d.state === 'on';
    const live = on && t.state === 'on' && sounds(source);
    return [{ id: `${d.id}/key`, from: source.id, to: t.id, kind: 'key', on, live, tap: d.key.tap }];
  });

/** Out to the units of each device that leaves the computer, and back to the line. */
const loopFlows = (t: Track, x: Drawing): Flow[] =>
  devicesIn(t.chain).flatMap((d): Flow[] => {
    const { loop } = DEVICE_TYPES[d.type];
    if (!loop || d.state === 'inactive') return [];
    const units = (d.hardware?.units ?? []).map(({ unit }) => unit.name);
    const [send, back] = [String(d.params[loop.send]), String(d.params[loop.back])];
    const label = units.join(' → ') || d.name;
    const away = x.outside(`loop:${d.id}`, 'loop', label, { folder: t.folder, detail: `${send} ⇄ ${back}` });
    const on = d.state === 'on';
    const both = { kind: 'loop' as const, on, live: on && sounds(t) };
    return [
      { id: `${d.id}/away`, from: t.id, to: away, ...both, detail: `by ${send}` },
      { id: `${d.id}/back`, from: away, to: t.id, ...both, detail: `by ${back}` },
    ];
  });

/** From a MIDI line to every line that listens on one of its addresses. */
function midiFlows(t: Track, { listeners }: Drawing): Flow[] {
  const sent = sentBy(t);
  const heard = listeners.filter((l) => sent.some((a) => sameAddress(a, l)));
  return [...new Set(heard.map((l) => l.track))].map((to) => {
    const via = sent.filter((a) => listeners.some((l) => l.track === to && sameAddress(a, l)));
    const detail = via.length > 1 ? `port ${via[0].port}, ${via.length} channels` : addressText(via[0]);
    return { id: `${t.id}/midi/${to}`, from: t.id, to, kind: 'midi', on: true, live: sounds(t), detail };
  });
}

/** Everything that feeds a node and that it feeds, with the flows between: the whole path up and down. */
export function pathThrough(g: Pick<SignalGraph, 'flows'>, id: Id): { nodes: Set<Id>; flows: Set<Id> } {
  const ways = new Ways(g.flows);
  const below = ways.behind([id]);
  const above = ways.leadingTo([id]);
  const flows = g.flows.filter((f) => below.has(f.from) || above.has(f.to));
  return { nodes: new Set([...below, ...above]), flows: new Set(flows.map((f) => f.id)) };
}

/**
 * Flows inside a strongly connected part (R. Tarjan, "Depth-first search and linear graph algorithms", SIAM
 * J. Computing 1(2), 1972), without recursion so that long chains are no danger.
 */
function circles(flows: Flow[]): Set<Id> {
  const next = waysBy(flows, 'from');
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
  const next = waysBy(dry, 'from');
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
