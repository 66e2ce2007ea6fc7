import { DEVICE_TYPES, playedAs } from '../devices/index.ts';
import { dbToGain } from '../devices/math.ts';
import { Ways } from '../session/reach.ts';
import type { Device, Id, Rack, Session, Slot, Tap, Track } from '../model/types.ts';

/**
 * A connection that sound goes along, with the gains it has and the delay that lines it up with the others at
 * its end.
 */
export interface Edge {
  id: string;
  from: Id;
  to: Id;
  kind: 'output' | 'send' | 'input';
  gainL: number;
  gainR: number;
  /** samples */
  delay: number;
  /** cut by a solo, whatever the gains say */
  closed: boolean;
  /** a separate output of an instrument, and which side of it */
  tap?: { slot: Id; output: number; side: 'both' | 'left' | 'right' };
}

export interface KeyEdge {
  id: string;
  from: Id;
  tap: Tap;
  /** device that listens */
  slot: Id;
  gainL: number;
  gainR: number;
  delay: number;
}

export interface SlotPlan {
  slot: Slot;
  /** samples from the slot's input to its output */
  latency: number;
  key: KeyEdge | null;
  /** the slot whose input it hears as its key: it works a share of that sound by the same gain */
  follows?: Id;
  /** samples from a clip to the slot's input, after that wait */
  at: number;
  /** samples by which the signal waits before this slot because its key arrives later */
  wait: number;
  /** the parallel paths of a rack */
  strands: StrandPlan[] | null;
}

export interface StrandPlan {
  id: Id;
  slots: SlotPlan[];
  gainL: number;
  gainR: number;
  /** samples that line this strand up with the longest one */
  delay: number;
}

export interface NodePlan {
  track: Track;
  inputs: Edge[];
  slots: SlotPlan[];
  /** fader and pan, muted or not; what leaves the track is its chain's output times these */
  gainL: number;
  gainR: number;
  /** samples from a clip's start to this node's input, and to its chain's output */
  inputLatency: number;
  latency: number;
  /** nothing of it is heard (muted, or another track is soloed); `hushed` when it is a solo */
  silent: boolean;
  hushed: boolean;
}

export interface Schedule {
  nodes: NodePlan[];
  /** samples from a clip to the master's output */
  latency: number;
  master: Id;
}

/** A session that cannot be played, with the names along the way. */
export class CompileError extends Error {
  constructor(
    message: string,
    readonly path: Id[],
  ) {
    super(message);
    this.name = 'CompileError';
  }
}

/**
 * Turns a session into a schedule: tracks in dependency order with every send, output, input and key as an
 * edge; delays that line up all paths wherever they meet
 * (track inputs and keys); solo and mute as gains. Inactive tracks and devices are left out. A loop throws a
 * CompileError that names the tracks along it.
 */
export function compile(session: Session): Schedule {
  const live = session.tracks.filter((t) => t.state === 'on');
  const byId = new Map(live.map((t) => [t.id, t]));
  const links: Link[] = [];
  for (const t of live) {
    if (t.output.kind === 'track' && byId.has(t.output.track)) {
      links.push({ from: t.id, to: t.output.track, kind: 'output', id: t.id + '>out' });
    }
    for (const s of t.sends) {
      if (s.on && byId.has(s.to)) links.push({ from: t.id, to: s.to, kind: 'send', id: s.id });
    }
    if (t.input.kind === 'track' && byId.has(t.input.track)) {
      links.push({ from: t.input.track, to: t.id, kind: 'input', id: t.id + '>in' });
    }
    if (t.input.kind === 'deviceOutput' && byId.has(t.input.track)) {
      links.push(...outputLinks(t, t.input, byId.get(t.input.track)!));
    }
    for (const d of livingDevices(t.chain)) {
      if (usesKey(d) && byId.has(d.key.track)) {
        links.push({ from: d.key.track, to: t.id, kind: 'key', id: d.id });
      }
    }
  }
  const order = sort(live, links);
  const open = audible(live, links);
  const into = new Map<Id, Link[]>();
  for (const l of links) if (l.kind !== 'key') (into.get(l.to) ?? into.set(l.to, []).get(l.to)!).push(l);

  const nodes = new Map<Id, NodePlan>();
  for (const track of order) {
    const incoming = into.get(track.id) ?? [];
    const lateness = (l: Link) => {
      const src = nodes.get(l.from)!;
      return l.tap ? planOf(src.slots, l.tap.slot)!.at : src.latency;
    };
    const inputLatency = Math.max(0, ...incoming.map(lateness));
    const inputs = incoming.map((l): Edge => {
      const src = nodes.get(l.from)!;
      const closed = !open(l);
      const kind = l.kind as Edge['kind'];
      // an instrument's separate outputs leave before its line's fader and mute
      const heard = l.tap ? [l.gain!, l.gain!] : edgeGains({ kind, id: l.id }, src.track, session.panLaw);
      const [gainL, gainR] = closed ? [0, 0] : heard;
      return {
        id: l.id,
        from: l.from,
        to: l.to,
        kind,
        gainL,
        gainR,
        delay: inputLatency - lateness(l),
        closed,
        ...(l.tap ? { tap: l.tap } : {}),
      };
    });
    const { slots, at } = planChain(track.chain, inputLatency, nodes, session);
    const hushed = open.soloed && !open.heard(track.id);
    const silent = track.mute || hushed;
    const [gainL, gainR] = silent ? [0, 0] : faderGains(track, session.panLaw);
    nodes.set(track.id, { track, inputs, slots, gainL, gainR, inputLatency, latency: at, silent, hushed });
  }
  const master = order.find((t) => t.role === 'master');
  if (!master) {
    throw new CompileError(
      `Session “${session.name}” has no master that is on: switch the master on to hear it.`,
      [],
    );
  }
  return {
    nodes: order.map((t) => nodes.get(t.id)!),
    latency: nodes.get(master.id)!.latency,
    master: master.id,
  };
}

/** Plans a chain whose sound arrives `at` samples late; racks are planned strand by strand. */
function planChain(
  chain: Slot[],
  at: number,
  nodes: Map<Id, NodePlan>,
  session: Session,
): { slots: SlotPlan[]; at: number } {
  const slots: SlotPlan[] = [];
  for (const slot of chain) {
    if (slot.state === 'inactive') continue;
    if (slot.kind === 'rack') {
      const paths = slot.strands.map((s) => planChain(s.chain, at, nodes, session));
      const end = Math.max(at, ...paths.map((p) => p.at));
      const gains = strandGains(slot);
      slots.push({
        slot,
        latency: end - at,
        key: null,
        at,
        wait: 0,
        strands: slot.strands.map((s, i) => ({
          id: s.id,
          slots: paths[i].slots,
          gainL: gains[i][0],
          gainR: gains[i][1],
          delay: end - paths[i].at,
        })),
      });
      at = end;
      continue;
    }
    const latency = playedAs(slot).latency(slot.params, session.sampleRate);
    let key: KeyEdge | null = null;
    let wait = 0;
    const src = usesKey(slot) ? nodes.get(slot.key.track) : undefined;
    if (src && usesKey(slot)) {
      wait = Math.max(0, src.latency - at);
      at += wait;
      const [gainL, gainR] = keyGains(slot.key.tap, src.track, session.panLaw);
      key = {
        id: slot.id,
        from: src.track.id,
        tap: slot.key.tap,
        slot: slot.id,
        gainL,
        gainR,
        delay: at - src.latency,
      };
    }
    slots.push({ slot, latency, key, at, wait, strands: null });
    at += latency;
  }
  return { slots, at };
}

/** Every plan of a chain, those inside racks too. */
export function* flatPlans(slots: SlotPlan[]): Generator<SlotPlan> {
  for (const s of slots) {
    yield s;
    if (s.strands) for (const st of s.strands) yield* flatPlans(st.slots);
  }
}

/** The same, each with the id of the track or strand that it stands in. */
export function* homePlans(slots: SlotPlan[], home: Id): Generator<[SlotPlan, Id]> {
  for (const s of slots) {
    yield [s, home];
    if (s.strands) for (const st of s.strands) yield* homePlans(st.slots, st.id);
  }
}

/** Gain of the first (0) or second strand of a blend at a place of 0 … 1; exact at both ends. */
function blendGain(mode: 'linear' | 'power', p: number, strand: number): number {
  if (p === strand) return 1;
  if (p === 1 - strand) return 0;
  if (mode === 'linear') return strand === 0 ? 1 - p : p;
  const angle = (p * Math.PI) / 2;
  return strand === 0 ? Math.cos(angle) : Math.sin(angle);
}

/**
 * Gains of a rack's strands: level, balance, mute, solo, and the blend of the first two (equal power: cos and
 * sin of a quarter turn; linear: what one loses the other gains).
 */
export function strandGains(r: Rack): [number, number][] {
  const soloed = r.strands.some((s) => s.solo);
  const p = r.blend.position / 100;
  return r.strands.map((s, i) => {
    if (s.mute || (soloed && !s.solo)) return [0, 0];
    let g = dbToGain(s.level);
    if (r.blend.mode !== 'off' && r.strands.length > 1 && i < 2) {
      g *= blendGain(r.blend.mode, p, i);
    }
    const [l, rr] = panGains(s.pan, 2, -3);
    return [g * l, g * rr];
  });
}

/** Devices that play: those in slots and racks that are not inactive. */
function* livingDevices(chain: Slot[]): Generator<Device> {
  for (const s of chain) {
    if (s.state === 'inactive') continue;
    if (s.kind === 'device') yield s;
    else for (const st of s.strands) yield* livingDevices(st.chain);
  }
}

interface Link {
  from: Id;
  to: Id;
  kind: 'output' | 'send' | 'input' | 'key';
  id: string;
  tap?: Edge['tap'];
  /** of a half or a sum */ gain?: number;
}

/**
 * A track's input from an instrument: one connection, two for the sum of both sides; none when the instrument
 * or the output is gone or sleeps.
 */
function outputLinks(
  t: Track,
  input: Extract<Track['input'], { kind: 'deviceOutput' }>,
  from: Track,
): Link[] {
  const d = [...livingDevices(from.chain)].find((x) => x.id === input.slot);
  if (!d || input.output < 1 || input.output > (DEVICE_TYPES[d.type].instrument?.outputs ?? 0)) return [];
  const sides =
    input.take === 'sum'
      ? (['left', 'right'] as const)
      : [input.take === 'stereo' ? ('both' as const) : input.take];
  return sides.map((side) => ({
    from: from.id,
    to: t.id,
    kind: 'input',
    id: `${t.id}>in:${input.slot}:${input.output}:${side}`,
    tap: { slot: input.slot, output: input.output, side },
    gain: input.take === 'sum' ? 0.5 : 1,
  }));
}

/** The plan of a slot wherever it stands in a chain. */
function planOf(slots: SlotPlan[], id: Id): SlotPlan | undefined {
  for (const p of flatPlans(slots)) if (p.slot.id === id) return p;
  return undefined;
}

type Keyed = Device & { key: { kind: 'track'; track: Id; tap: Tap } };
const usesKey = (d: Device): d is Keyed =>
  d.key.kind === 'track' && d.state !== 'inactive' && DEVICE_TYPES[d.type].hasKey;

/**
 * Pan gains for −100…100. Mono: constant power with the session's law at the centre (−3.01 dB; −4.5 dB is the
 * geometric mean with linear panning; 0 dB lifts the
 * constant-power curve). Stereo: balance, the side that is turned away from goes down.
 */
export function panGains(pan: number, channels: 1 | 2, law: Session['panLaw']): [number, number] {
  const p = Math.max(-1, Math.min(1, pan / 100));
  if (channels === 2) return [Math.min(1, 1 - p), Math.min(1, 1 + p)];
  const a = ((p + 1) * Math.PI) / 4;
  const [l, r] = [Math.max(0, Math.cos(a)), Math.max(0, Math.sin(a))];
  if (law === -3) return [l, r];
  if (law === 0) return [Math.min(1, l * Math.SQRT2), Math.min(1, r * Math.SQRT2)];
  return [Math.sqrt((l * (1 - p)) / 2), Math.sqrt((r * (1 + p)) / 2)];
}

type Law = Session['panLaw'];

/** Fader and pan of a track. */
export function faderGains(t: Track, law: Law): [number, number] {
  const g = dbToGain(t.level);
  const [l, r] = panGains(t.pan, t.channels, law);
  return [g * l, g * r];
}

/** What a track gives to a device that listens to it. */
export const keyGains = (tap: Tap, t: Track, law: Law): [number, number] => {
  if (t.mute) return [0, 0];
  if (tap === 'pre') return [1, 1];
  return faderGains(t, law);
};

/** What a track gives to its output, one of its sends or a track that takes it as its input. */
export function edgeGains(e: Pick<Edge, 'kind' | 'id'>, t: Track, law: Law): [number, number] {
  if (t.mute) return [0, 0];
  if (e.kind === 'output') return faderGains(t, law);
  if (e.kind === 'input') return [1, 1];
  const send = t.sends.find((x) => x.id === e.id)!;
  const g = dbToGain(send.level) * (send.tap === 'post' ? dbToGain(t.level) : 1);
  const [pl, pr] = panGains(send.panMode === 'own' ? send.pan : t.pan, t.channels, law);
  return [g * pl, g * pr];
}

/** Kahn's algorithm over outputs, sends, inputs and keys; what is left over holds a loop. */
function sort(tracks: Track[], links: Link[]): Track[] {
  const waits = new Map(tracks.map((t) => [t.id, 0]));
  const next = new Map<Id, Id[]>();
  for (const l of links) {
    waits.set(l.to, waits.get(l.to)! + 1);
    (next.get(l.from) ?? next.set(l.from, []).get(l.from)!).push(l.to);
  }
  const ready = tracks.filter((t) => waits.get(t.id) === 0).map((t) => t.id);
  const byId = new Map(tracks.map((t) => [t.id, t]));
  const out: Track[] = [];
  for (let i = 0; i < ready.length; i++) {
    out.push(byId.get(ready[i])!);
    for (const to of next.get(ready[i]) ?? []) {
      const n = waits.get(to)! - 1;
      waits.set(to, n);
      if (n === 0) ready.push(to);
    }
  }
  if (out.length === tracks.length) return out;
  const path = loopIn(
    tracks.filter((t) => waits.get(t.id)! > 0).map((t) => t.id),
    next,
  );
  const names = path.map((id) => `“${byId.get(id)!.name}”`);
  throw new CompileError(
    `These tracks feed each other in a loop: ${names.join(' → ')} → ${names[0]}. Change an output, a send or a key along it.`,
    path,
  );
}

function loopIn(left: Id[], next: Map<Id, Id[]>): Id[] {
  const inLoop = new Set(left);
  // every node left has a predecessor that is left: walking backwards must close a loop
  const before = new Map<Id, Id>();
  for (const a of left) for (const b of next.get(a) ?? []) if (inLoop.has(b)) before.set(b, a);
  const path: Id[] = [];
  let at = left[0];
  while (!path.includes(at)) {
    path.push(at);
    at = before.get(at)!;
  }
  return path.slice(path.indexOf(at)).reverse();
}

interface Audible {
  (l: Link): boolean;
  soloed: boolean;
  heard(id: Id): boolean;
}

/**
 * Solo in place. What feeds a soloed track and what it feeds stay audible: a connection is open when its
 * start is soloed or lies downstream of a soloed track (or is
 * solo safe), or when its end is soloed or lies upstream of one. Keys are never cut, so that ducking sounds
 * the same under solo.
 */
function audible(tracks: Track[], links: Link[]): Audible {
  // a MIDI line has no sound: soloing it would silence everything
  const soloed = tracks.filter((t) => t.solo && t.role !== 'midi');
  const sound = links.filter((l) => l.kind !== 'key');
  const ways = new Ways(sound);
  const ids = soloed.map((t) => t.id);
  const down = ways.behind(ids);
  const up = ways.leadingTo(ids);
  const safe = new Set(tracks.filter((t) => t.soloSafe || t.role === 'master').map((t) => t.id));
  const open = ((l: Link) =>
    soloed.length === 0 || down.has(l.from) || safe.has(l.from) || up.has(l.to)) as Audible;
  open.soloed = soloed.length > 0;
  open.heard = (id) => down.has(id) || up.has(id) || safe.has(id);
  return open;
}
