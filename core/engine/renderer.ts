import { Ramp } from '../devices/math.ts';
import type { Id, Session } from '../model/types.ts';
import { compile, type NodePlan, type Schedule } from './compile.ts';
import { EdgeRun } from './edge.ts';
import { NodeRun, type Scope, type Sound } from './node.ts';
import { SlotRun } from './slot.ts';

/** What is only for listening, never part of the session: devices left out for a comparison, and gains (dB) that match loudness. */
export interface Audition {
  bypass: Id[];
  gains: Record<Id, number>;
}

const NO_AUDITION: Audition = { bypass: [], gains: {} };

interface Running { nodes: NodeRun[]; byId: Map<Id, NodeRun>; slots: Map<Id, SlotRun>; plans: Map<Id, NodePlan>; schedule: Schedule; master: NodeRun }

/**
 * The running engine: the same code in the AudioWorklet, a worker and Node. `update` takes a new session at any time: what both have in common goes on by id; what leaves is
 * faded out for 10 ms before the new structure is put in, and what arrives is faded in, so that an edit while playing gives no gap and no click.
 * `process` allocates nothing.
 */
export class Renderer {
  position = 0;
  playing = false;
  loop: { start: number; end: number } | null = null;
  metering = true;
  /** which device's input and output are copied for the spectrum */
  scope: Scope | null = null;
  private running: Running | null = null;
  private pending: Running | null = null;
  private pendingIn = 0;
  private audition: Audition = NO_AUDITION;
  private readonly transport = new Ramp(0);
  private seekTo: number | null = null;
  private masterL = 1;
  private masterR = 1;
  private readonly fade: number;
  private session: Session | null = null;

  constructor(readonly sampleRate: number, readonly maxBlock: number, readonly sounds = new Map<string, Sound>()) {
    this.fade = Math.round(sampleRate * 0.005);
  }

  get schedule(): Schedule | null { return this.running?.schedule ?? null; }
  get nodes(): readonly NodeRun[] { return this.running?.nodes ?? []; }
  node(id: Id): NodeRun | undefined { return this.running?.byId.get(id); }
  slot(id: Id): SlotRun | undefined { return this.running?.slots.get(id); }

  /**
   * Takes a session; its rate is taken to be the engine's. Throws CompileError for a loop and then keeps playing what it had.
   * @param immediate true for a render from a standing start: nothing fades
   */
  update(session: Session, immediate = false): void {
    const schedule = compile(session.sampleRate === this.sampleRate ? session : { ...session, sampleRate: this.sampleRate });
    this.session = session;
    const first = !this.running || immediate;
    const old = this.running;
    const next = this.build(schedule, session, old, first);
    if (first || !old) { this.install(next, first); return; }
    const leaving = this.fadeOutLeaving(old, next);
    this.pending = next;
    this.pendingIn = leaving ? Math.round(this.sampleRate * 0.011) : 0;
    if (!leaving) this.install(next, false);
  }

  /** Sets what is compared; takes effect over 10 ms. */
  setAudition(a: Audition): void {
    this.audition = a;
    if (this.session) this.update(this.session);
  }

  private build(schedule: Schedule, session: Session, old: Running | null, immediate: boolean): Running {
    const nodes: NodeRun[] = [];
    const byId = new Map<Id, NodeRun>();
    const slots = new Map<Id, SlotRun>();
    const plans = new Map<Id, NodePlan>();
    for (const plan of schedule.nodes) {
      const node = old?.byId.get(plan.track.id) ?? new NodeRun(plan, this.sampleRate, this.maxBlock);
      nodes.push(node);
      byId.set(node.id, node);
      plans.set(node.id, plan);
      for (const s of plan.slots) {
        const known = old?.slots.get(s.device.id);
        slots.set(s.device.id, known?.type === s.device.type ? known : new SlotRun(s, { sampleRate: this.sampleRate, tempo: session.tempo, maxBlock: this.maxBlock }, immediate ? 1 : 0));
      }
    }
    return { nodes, byId, slots, plans, schedule, master: byId.get(schedule.master)! };
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
      const stay = after ? unmoved(before.slots.map((s) => s.device.id), after.slots.map((s) => s.device.id)) : null;
      for (const s of node.slots) {
        if (!stay || (stay.has(s.id) && next.slots.get(s.id) === s)) continue;
        s.engage(false, false);
        leaving = true;
      }
      const clipsGo = after && before.track.clips !== after.track.clips && node.clips.length > 0 && this.playing;
      if (clipsGo) { node.after.to(0, this.fade * 2); leaving = true; }
    }
    return leaving;
  }

  /** Puts a structure in. Everything it needs was made before; only references move. */
  private install(run: Running, immediate: boolean): void {
    const session = this.session!;
    for (const node of run.nodes) {
      const plan = run.plans.get(node.id)!;
      node.adopt(plan, this.audition.gains[node.id] ?? 0, immediate);
      node.place(plan, this.sounds, plan.inputLatency);
      node.slots = plan.slots.map((s) => run.slots.get(s.device.id)!);
      const had = node.edges;
      node.edges = plan.inputs.map((e) => {
        const known = had.find((x) => x.id === e.id && x.from.id === e.from);
        const edge = known ?? { id: e.id, from: run.byId.get(e.from)!, run: new EdgeRun(this.sampleRate, this.maxBlock, immediate ? 1 : 0) };
        edge.run.set(e.gainL, e.gainR, e.delay, immediate);
        return edge;
      });
      for (const s of plan.slots) {
        const slot = run.slots.get(s.device.id)!;
        slot.adopt(s, session.tempo, immediate);
        slot.setKey(s.key, s.key ? run.byId.get(s.key.from)! : null, immediate);
        const auditioned = this.audition.bypass.includes(s.device.id);
        slot.auditioned = auditioned;
        slot.engage(s.device.state === 'on' && !auditioned, immediate);
      }
    }
    this.running = run;
    this.pending = null;
    if (immediate) { this.masterL = run.master.gl.value; this.masterR = run.master.gr.value; }
  }

  play(): void { this.playing = true; this.transport.to(1, this.fade); }
  /** Fades out over 5 ms, then stands still; tails ring on. */
  stop(): void { this.transport.to(0, this.fade); }
  /** Goes to a place in frames, without a click while playing. */
  seek(frame: number): void {
    if (!this.playing || this.transport.value === 0) { this.position = frame; return; }
    this.seekTo = frame;
    this.transport.to(0, this.fade);
  }

  /** Starts sounding at full level from the first frame (offline). */
  startAt(frame: number): void {
    this.position = frame;
    this.playing = true;
    this.transport.to(1, 0);
  }

  /** Renders n frames (at most maxBlock) into the outputs. */
  process(outL: Float32Array | Float64Array, outR: Float32Array | Float64Array, n: number): void {
    const run = this.running;
    if (!run) { outL.fill(0, 0, n); outR.fill(0, 0, n); return; }
    if (this.loop && this.playing && this.seekTo === null && this.position + this.fade + n >= this.loop.end && this.position < this.loop.end) this.seek(this.loop.start);
    const g0 = this.playing ? this.transport.value : 0;
    this.transport.advance(n);
    const g1 = this.playing ? this.transport.value : 0;
    for (let k = 0; k < run.nodes.length; k++) {
      const node = run.nodes[k];
      node.gather(this.position, n, 0, g0, g1);
      node.process(n, this.metering, this.scope);
    }
    const m = run.master;
    // the master's fader glides from where this block began to where it ends
    const a = this.masterL, b = this.masterR;
    const da = (m.gl.value - a) / n, db = (m.gr.value - b) / n;
    for (let i = 0; i < n; i++) { outL[i] = m.l[i] * (a + da * (i + 1)); outR[i] = m.r[i] * (b + db * (i + 1)); }
    this.masterL = m.gl.value;
    this.masterR = m.gr.value;
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

/** Ids that keep their order among those common to both lists (a longest common subsequence, quadratic, chains are short). */
function unmoved(a: Id[], b: Id[]): Set<Id> {
  const L = Array.from({ length: a.length + 1 }, () => new Int32Array(b.length + 1));
  for (let i = a.length - 1; i >= 0; i--) for (let j = b.length - 1; j >= 0; j--) L[i][j] = a[i] === b[j] ? L[i + 1][j + 1] + 1 : Math.max(L[i + 1][j], L[i][j + 1]);
  const out = new Set<Id>();
  for (let i = 0, j = 0; i < a.length && j < b.length;) {
    if (a[i] === b[j]) { out.add(a[i]); i++; j++; } else if (L[i + 1][j] >= L[i][j + 1]) i++; else j++;
  }
  return out;
}
