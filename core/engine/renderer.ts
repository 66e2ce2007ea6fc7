import { Ramp } from '../devices/math.ts';
import type { LivePorts } from '../devices/live.ts';
import { LANE_GRID, TrackLanes } from './automation.ts';
import { NO_AUDITION, auditioned, type Audition } from './audition.ts';
import type { Id, Session } from '../model/types.ts';
import {
  compile,
  flatPlans,
  homePlans,
  type Edge,
  type NodePlan,
  type Schedule,
  type SlotPlan,
} from './compile.ts';
import { EdgeRun } from './edge.ts';
import { Hearer, scoresOf, type Score } from './midi.ts';
import { NodeRun } from './node.ts';
import type { Scope, Sound } from './sound.ts';
import { SlotRun, typeOf } from './slot.ts';
import { beside, within, type Arena } from '../devices/kernels/index.ts';

/**
 * An offline render over two workers: the helper renders some of the tracks that nothing flows into and adds
 * them up for each bus, return or master that they go to; the other worker renders everything else and
 * takes those sums in, chunk by chunk. Both work from the whole session's schedule, so delays, solo and gains
 * are what they are alone.
 */
export type Part =
  { kind: 'helper'; tracks: ReadonlySet<Id>; collects: Id[] } | { kind: 'main'; tracks: ReadonlySet<Id> };

/** The whole of what another slot hears. */
const WHOLE = { gainL: 1, gainR: 1, delay: 0 };

interface Running {
  nodes: NodeRun[];
  byId: Map<Id, NodeRun>;
  slots: Map<Id, SlotRun>;
  plans: Map<Id, NodePlan>;
  schedule: Schedule;
  master: NodeRun;
  hearers: Hearer[];
  scores: Score[];
  lanes: TrackLanes[];
}

/**
 * The running engine: the same code in the AudioWorklet, a worker and Node. `update` takes a new session at
 * any time: what both have in common goes on by id; what leaves is
 * faded out for 10 ms before the new structure is put in, and what arrives is faded in, so that an edit while
 * playing gives no gap and no click.
 * `process` allocates nothing, apart from the new values of devices that a lane moves.
 */
export class Renderer {
  position = 0;
  playing = false;
  loop: { start: number; end: number } | null = null;
  metering = true;
  /** adds to a schedule, or takes from it, before it is played */
  arrange: (schedule: Schedule) => Schedule = (schedule) => schedule;
  private probe: Scope | null = null;
  private running: Running | null = null;
  private pending: Running | null = null;
  private pendingIn = 0;
  private audition: Audition = NO_AUDITION;
  private readonly transport = new Ramp(0);
  private readonly mono = new Ramp(0);
  private part: Part | null = null;
  private seekTo: number | null = null;
  /** where the last block ended: a jump or a stop ends what the instruments hold */
  private expected = -1;
  /**
   * where automated values were set for, when the next setting is due, and whether something new waits for
   * one
   */
  private lanesAt = -1;
  private lanesLeft = 0;
  private lanesNew = true;
  private masterL = 1;
  private masterR = 1;
  private readonly fade: number;
  private session: Session | null = null;

  /**
   * @param arena what its buffers belong to, when its end is known (offline)
   * @param live the interface that loops through hardware go out to
   */
  constructor(
    readonly sampleRate: number,
    readonly maxBlock: number,
    readonly sounds = new Map<string, Sound>(),
    private readonly arena: Arena | null = null,
    private readonly live?: LivePorts,
  ) {
    this.fade = Math.round(sampleRate * 0.005);
  }

  /** which slot's input and output are copied for the spectrum */
  get scope(): Scope | null {
    return this.probe;
  }
  set scope(s: Scope | null) {
    this.probe = s;
    for (const slot of this.running?.slots.values() ?? []) slot.probe = s?.slot === slot.id ? s : null;
  }
  get schedule(): Schedule | null {
    return this.running?.schedule ?? null;
  }
  get nodes(): readonly NodeRun[] {
    return this.running?.nodes ?? [];
  }
  node(id: Id): NodeRun | undefined {
    return this.running?.byId.get(id);
  }
  slot(id: Id): SlotRun | undefined {
    return this.running?.slots.get(id);
  }

  /**
   * Takes a session; its rate is taken to be the engine's. Throws CompileError for a loop and then keeps
   * playing what it had.
   * @param immediate true for a render from a standing start: nothing fades
   */
  update(source: Session, immediate = false): void {
    const session = auditioned(
      source.sampleRate === this.sampleRate ? source : { ...source, sampleRate: this.sampleRate },
      this.audition,
    );
    const schedule = this.arrange(compile(session));
    this.session = source;
    const first = !this.running || immediate;
    const old = this.running;
    const next = within(this.arena, () => this.build(schedule, session, old, first));
    if (first || !old) {
      this.install(next, first);
      return;
    }
    const leaving = this.fadeOutLeaving(old, next);
    this.pending = next;
    this.pendingIn = leaving ? Math.round(this.sampleRate * 0.011) : 0;
    if (!leaving) this.install(next, false);
  }

  /** Listens to both sides as one (the mono check); the session and its renders are not touched. */
  monitorMono(on: boolean): void {
    this.mono.to(on ? 1 : 0, this.fade * 2);
  }

  /** Sets what is compared; takes effect over 10 ms. */
  setAudition(a: Audition): void {
    const before = this.audition;
    this.audition = a;
    try {
      if (this.session) this.update(this.session);
    } catch (e) {
      this.audition = before;
      throw e;
    }
  }

  private build(schedule: Schedule, session: Session, old: Running | null, immediate: boolean): Running {
    const nodes: NodeRun[] = [];
    const byId = new Map<Id, NodeRun>();
    const slots = new Map<Id, SlotRun>();
    const plans = new Map<Id, NodePlan>();
    const { sampleRate, maxBlock, live, sounds } = this;
    const ctx = { sampleRate, tempo: session.tempo, maxBlock, live, sounds };
    const buildNode = (plan: NodePlan, there: NodeRun | undefined) => {
      const node = there ?? new NodeRun(plan, this.sampleRate, this.maxBlock);
      node.offline = this.arena !== null;
      nodes.push(node);
      byId.set(node.id, node);
      plans.set(node.id, plan);
      for (const s of flatPlans(plan.slots)) {
        const known = old?.slots.get(s.slot.id);
        const isSame = known?.type === typeOf(s);
        slots.set(s.slot.id, isSame ? known : new SlotRun(s, ctx, immediate ? 1 : 0));
      }
    };
    for (const plan of schedule.nodes) {
      const there = old?.byId.get(plan.track.id);
      beside(there?.l ?? null, () => buildNode(plan, there));
    }
    const scores = scoresOf(session, old?.scores ?? []);
    const hearers = schedule.nodes.flatMap((plan) =>
      [...flatPlans(plan.slots)].flatMap((p) => {
        const run = slots.get(p.slot.id)!;
        return run.instrument
          ? [
              old?.hearers.find((h) => h.slot === run.id && h.proc === run.instrument) ??
                new Hearer(run.id, run.instrument),
            ]
          : [];
      }),
    );
    return {
      nodes,
      byId,
      slots,
      plans,
      schedule,
      master: byId.get(schedule.master)!,
      hearers,
      scores,
      lanes: [],
    };
  }

  /** Starts the fades of what the next structure lacks; true when anything is heard to leave. */
  private fadeOutLeaving(old: Running, next: Running): boolean {
    let leaving = false;
    for (const node of old.nodes) {
      const before = old.plans.get(node.id)!;
      const after = next.plans.get(node.id);
      for (const e of node.edges) {
        if (after?.inputs.some((x) => x.id === e.id && x.from === e.from.id)) continue;
        e.run.gl.to(0, this.fade * 2);
        e.run.gr.to(0, this.fade * 2);
        leaving = true;
      }
      if (this.fadeOutChain(before.slots, after?.slots ?? null, old, next)) leaving = true;
      const clipsGo =
        after && before.track.clips !== after.track.clips && node.clips.length > 0 && this.playing;
      if (clipsGo) {
        node.after.to(0, this.fade * 2);
        leaving = true;
      }
    }
    return leaving;
  }

  /** Fades out what leaves one chain or moves in it, strand by strand inside racks. */
  private fadeOutChain(before: SlotPlan[], after: SlotPlan[] | null, old: Running, next: Running): boolean {
    let leaving = false;
    const stay = after
      ? unmoved(
          before.map((s) => s.slot.id),
          after.map((s) => s.slot.id),
        )
      : null;
    for (const plan of before) {
      const id = plan.slot.id;
      const run = old.slots.get(id)!;
      if (!stay?.has(id) || next.slots.get(id) !== run) {
        run.engage(false, false);
        leaving = true;
        continue;
      }
      const now = after!.find((s) => s.slot.id === id)!;
      for (const strand of plan.strands ?? []) {
        const same = now.strands?.find((s) => s.id === strand.id);
        if (same) leaving = this.fadeOutChain(strand.slots, same.slots, old, next) || leaving;
        else {
          run.rack?.strands.find((s) => s.id === strand.id)?.silence();
          leaving = true;
        }
      }
    }
    return leaving;
  }

  private install(run: Running, immediate: boolean): void {
    within(this.arena, () => this.put(run, immediate));
  }

  /** Puts a structure in. Everything it needs was made before; only references move. */
  private put(run: Running, immediate: boolean): void {
    const session = this.session!;
    for (const node of run.nodes) {
      const plan = run.plans.get(node.id)!;
      node.adopt(plan, this.audition.gains[node.id] ?? 0, immediate);
      node.place(plan, this.sounds, plan.inputLatency);
      node.slots = plan.slots.map((s) => run.slots.get(s.slot.id)!);
      const had = node.edges;
      node.edges = plan.inputs.map((e) => {
        const known = had.find((x) => x.id === e.id && x.from.id === e.from);
        const from = run.byId.get(e.from)!;
        const [l, r] = soundOf(e, from, run);
        if (known) {
          known.l = l;
          known.r = r;
        }
        const edge = known ?? {
          id: e.id,
          from,
          l,
          r,
          run: new EdgeRun(this.sampleRate, this.maxBlock, immediate ? 1 : 0),
        };
        edge.run.set(e.gainL, e.gainR, e.delay, immediate);
        return edge;
      });
      for (const [s, home] of homePlans(plan.slots, node.id)) {
        const slot = run.slots.get(s.slot.id)!;
        slot.adopt(s, session.tempo, immediate);
        // what moved into or out of a rack was faded with its surroundings; it begins unheard at its new
        // place
        if (slot.home !== home && slot.home && !immediate) slot.wet.to(0, 0);
        slot.home = home;
        const hearer = slot.instrument && run.hearers.find((h) => h.slot === slot.id);
        if (hearer) {
          hearer.scores = run.scores;
          hearer.input = plan.track.input;
          hearer.late = s.at;
        }
        slot.rack?.adopt(s.strands!, (id) => run.slots.get(id)!, immediate);
        if (s.follows) slot.setKey(WHOLE, run.slots.get(s.follows)!.hear(), immediate);
        else slot.setKey(s.key, s.key ? run.byId.get(s.key.from)! : null, immediate);
        const auditioned = this.audition.bypass.includes(s.slot.id);
        slot.auditioned = auditioned;
        slot.engage(s.slot.state === 'on' && !auditioned, immediate);
        slot.probe = this.probe?.slot === slot.id ? this.probe : null;
      }
    }
    run.lanes = this.lanesOf(run, session.panLaw);
    this.lanesNew = true;
    if (immediate) this.lanesAt = -1;
    this.running = run;
    this.pending = null;
    if (immediate) {
      this.masterL = run.master.gl.value;
      this.masterR = run.master.gr.value;
    }
  }

  private lanesOf(run: Running, law: Session['panLaw']): TrackLanes[] {
    const plans = run.schedule.nodes;
    return plans
      .filter((p) => p.track.automation?.some((l) => l.on && l.points.length))
      .map((plan) => {
        const id = plan.track.id;
        return new TrackLanes(run.byId.get(id)!, plan, law, this.sampleRate, (slot) => run.slots.get(slot)!, {
          edges: plans.flatMap((to) =>
            to.inputs.flatMap((edge, i) =>
              edge.from === id
                ? [{ run: run.byId.get(to.track.id)!.edges[i].run, edge, late: to.inputLatency }]
                : [],
            ),
          ),
          keys: plans.flatMap((to) =>
            [...flatPlans(to.slots)].flatMap((s) =>
              s.key?.from === id ? [{ run: run.slots.get(s.slot.id)!.key!, tap: s.key.tap, late: s.at }] : [],
            ),
          ),
        });
      })
      .filter((l) => !l.idle);
  }

  /** Moves what lanes move: at once after a jump, then in straight lines from one setting to the next. */
  private automate(run: Running, n: number): void {
    const jumped = this.position !== this.lanesAt;
    const still = !this.playing;
    if (jumped || (still && this.lanesNew)) {
      for (const l of run.lanes) {
        if (jumped && !still) l.start(this.position);
        else l.set(this.position, jumped ? 0 : this.fade * 2, jumped);
      }
    }
    if (jumped || this.lanesNew) this.lanesLeft = 0;
    this.lanesNew = false;
    if (!still) {
      if (this.lanesLeft < n) {
        // the grid lies in the song, so that a render from its middle goes as one from its start
        const next = Math.ceil((this.position + n) / LANE_GRID) * LANE_GRID;
        this.lanesLeft = next - this.position;
        for (const l of run.lanes) l.set(next, this.lanesLeft, false);
      }
      this.lanesLeft -= n;
    }
    this.lanesAt = still ? this.position : this.position + n;
  }

  /** Does only a part of the work, for a render that is shared out (offline, after `update`). */
  take(part: Part): void {
    const run = this.running!;
    this.part = part;
    for (const node of run.nodes) {
      if (part.kind === 'helper' && part.collects.includes(node.id)) {
        node.collecting = true;
        node.edges = node.edges.filter((e) => part.tracks.has(e.from.id));
      }
      if (part.kind === 'main') node.edges = node.edges.filter((e) => !part.tracks.has(e.from.id));
    }
    run.lanes = run.lanes.filter((l) => part.tracks.has(l.node.id) === (part.kind === 'helper'));
    run.nodes = run.nodes.filter((n) =>
      part.kind === 'helper' ? part.tracks.has(n.id) || n.collecting : !part.tracks.has(n.id),
    );
  }

  play(): void {
    this.playing = true;
    this.transport.to(1, this.fade);
  }
  /** Fades out over 5 ms, then stands still; tails ring on. */
  stop(): void {
    this.transport.to(0, this.fade);
  }
  /** Goes to a place in frames, without a click while playing. */
  seek(frame: number): void {
    if (!this.playing || this.transport.value === 0) {
      this.position = frame;
      return;
    }
    this.seekTo = frame;
    this.transport.to(0, this.fade);
  }

  /** Strikes one part of an instrument, whether anything plays or not; velocity 1–127. */
  hit(slot: Id, part: number, velocity: number): void {
    this.running?.hearers.find((h) => h.slot === slot)?.hit(part, velocity);
  }

  /** Forgets all sound that is still on its way, as if nothing had been played; values stay. */
  reset(): void {
    for (const s of this.running?.slots.values() ?? []) s.reset();
    for (const node of this.running?.nodes ?? []) for (const e of node.edges) e.run.reset();
  }

  /** Starts sounding at full level from the first frame (offline). */
  startAt(frame: number): void {
    this.position = frame;
    this.playing = true;
    this.transport.to(1, 0);
    const run = this.running;
    if (!run?.lanes.length) return;
    for (const l of run.lanes) l.start(frame);
    this.lanesAt = frame;
    this.masterL = run.master.gl.value;
    this.masterR = run.master.gr.value;
  }

  /** Renders n frames (at most maxBlock) into the outputs. */
  process(outL: Float32Array | Float64Array, outR: Float32Array | Float64Array, n: number): void {
    const run = this.running;
    if (!run) {
      outL.fill(0, 0, n);
      outR.fill(0, 0, n);
      return;
    }
    if (
      this.loop &&
      this.playing &&
      this.seekTo === null &&
      this.position + this.fade + n >= this.loop.end &&
      this.position < this.loop.end
    ) {
      this.seek(this.loop.start);
    }
    if (run.lanes.length) this.automate(run, n);
    const g0 = this.playing ? this.transport.value : 0;
    this.transport.advance(n);
    const g1 = this.playing ? this.transport.value : 0;
    const jumped = this.expected !== (this.playing ? this.position : -1) && this.expected !== -1;
    for (let k = 0; k < run.hearers.length; k++) {
      if (jumped) run.hearers[k].silence();
      if (this.playing && this.expected !== this.position) run.hearers[k].resume();
      run.hearers[k].gather(this.position, n, this.playing);
    }
    this.expected = this.playing ? this.position + n : -1;
    for (let k = 0; k < run.nodes.length; k++) {
      const node = run.nodes[k];
      node.gather(this.position, n, 0, g0, g1);
      if (!node.collecting) node.process(n, this.metering);
    }
    if (this.part?.kind === 'helper') {
      this.position += n;
      return;
    }
    const m = run.master;
    // the master's fader glides from where this block began to where it ends
    const a = this.masterL;
    const b = this.masterR;
    const da = (m.gl.value - a) / n;
    const db = (m.gr.value - b) / n;
    for (let i = 0; i < n; i++) {
      outL[i] = m.l[i] * (a + da * (i + 1));
      outR[i] = m.r[i] * (b + db * (i + 1));
    }
    this.masterL = m.gl.value;
    this.masterR = m.gr.value;
    const w0 = this.mono.value;
    this.mono.advance(n);
    const w1 = this.mono.value;
    if (w0 !== 0 || w1 !== 0) {
      const dw = (w1 - w0) / n;
      for (let i = 0; i < n; i++) {
        const w = w0 + dw * (i + 1);
        const mid = 0.5 * (outL[i] + outR[i]);
        outL[i] += w * (mid - outL[i]);
        outR[i] += w * (mid - outR[i]);
      }
    }
    if (this.playing) {
      this.position += n;
      if (this.transport.left === 0 && this.transport.value === 0) {
        if (this.seekTo !== null) {
          this.position = this.seekTo;
          this.seekTo = null;
          this.transport.to(1, this.fade);
        } else this.playing = false;
      }
    }
    if (this.pending) {
      this.pendingIn -= n;
      if (this.pendingIn <= 0) this.install(this.pending, false);
    }
  }
}

/**
 * The buffers that a connection reads: a track's own sound, or one side or both of an instrument's output.
 */
function soundOf(e: Edge, from: NodeRun, run: Pick<Running, 'slots'>): [Float64Array, Float64Array] {
  const out = e.tap && run.slots.get(e.tap.slot)?.instrument?.outputs[e.tap.output - 1];
  if (!out) return [from.l, from.r];
  if (e.tap!.side === 'left') return [out.l, out.l];
  if (e.tap!.side === 'right') return [out.r, out.r];
  return [out.l, out.r];
}

/**
 * Ids that keep their order among those common to both lists (a longest common subsequence, quadratic, chains
 * are short).
 */
function unmoved(a: Id[], b: Id[]): Set<Id> {
  const L = Array.from({ length: a.length + 1 }, () => new Int32Array(b.length + 1));
  for (let i = a.length - 1; i >= 0; i--) {
    for (let j = b.length - 1; j >= 0; j--) {
      L[i][j] = a[i] === b[j] ? L[i + 1][j + 1] + 1 : Math.max(L[i + 1][j], L[i][j + 1]);
    }
  }
  const out = new Set<Id>();
  for (let i = 0, j = 0; i < a.length && j < b.length;) {
    if (a[i] === b[j]) {
      out.add(a[i]);
      i++;
      j++;
    } else if (L[i + 1][j] >= L[i][j + 1]) i++;
    else j++;
  }
  return out;
}
