import { makeReady } from '../../core/devices/kernels/index.ts';
import { LiveMeter } from '../../core/devices/live-meter.ts';
import { flatPlans } from '../../core/engine/compile.ts';
import { PortBuffers } from '../../core/engine/ports.ts';
import { Renderer } from '../../core/engine/renderer.ts';
import type { Audition } from '../../core/engine/audition.ts';
import type { Sound } from '../../core/engine/sound.ts';
import type { Session, Track } from '../../core/model/types.ts';
import { PER_NODE, PER_SLOT, SCOPE, type FromEngine, type ToEngine } from './messages.ts';
import { Recording, Sounding } from './sounding.ts';

const QUANTUM = 128;

// before anything sounds
makeReady();

/** The live engine: the core's renderer in the audio thread. */
class EngineProcessor extends AudioWorkletProcessor {
  private readonly sounds = new Map<string, Sound>();
  private readonly renderer: Renderer;
  private tracks = new Map<string, Track>();
  private session: Session | null = null;
  private slots: string[] = [];
  private blocks = 0;
  private readonly meter: LiveMeter;
  /**
   * what was worked out ahead, and how much of it has been handed over: longer blocks than the browser's 128
   * frames cost little more than half as much
   */
  private readonly ahead: [Float32Array, Float32Array];
  private given: number;
  private readonly l: Float64Array;
  private readonly r: Float64Array;
  /**
   * milliseconds of work and the blocks they were for, over about a second: the clock here counts whole
   * milliseconds, so only sums say something
   */
  private spent = 0;
  private counted = 0;
  private load = 0;
  private late = 0;
  /** blocks that the browser asks for at once, and the work for those so far */
  private readonly together: number;
  private sum = 0;
  private asked = 0;
  /** the interface that loops go out to */
  private readonly ports: PortBuffers;
  private sounding: Sounding | null = null;
  private recording: Recording | null = null;
  /** what the song goes round in */
  private round: { start: number; end: number } | null = null;

  constructor(options?: { processorOptions?: { together?: number } }) {
    super();
    this.together = Math.max(1, options?.processorOptions?.together ?? 4);
    // never more than the browser asks for in one go, so that working ahead never makes one callback do the
    // work of two
    let block = QUANTUM;
    while (block < 512 && block * 2 <= this.together * QUANTUM) block *= 2;
    this.ports = new PortBuffers(block);
    this.renderer = new Renderer(sampleRate, block, this.sounds, null, this.ports);
    this.meter = new LiveMeter(sampleRate, block);
    this.ahead = [new Float32Array(block), new Float32Array(block)];
    this.given = block;
    this.l = new Float64Array(block);
    this.r = new Float64Array(block);
    this.port.onmessage = (m: MessageEvent<ToEngine>) => this.take(m.data);
  }

  private say(m: FromEngine) {
    this.port.postMessage(m);
  }

  private take(m: ToEngine): void {
    if (m.type === 'session') {
      if (m.fresh) this.tracks.clear();
      for (const t of m.changed) this.tracks.set(t.id, t);
      // what is not in the session any more is not kept
      this.tracks = new Map(m.order.map((id) => [id, this.tracks.get(id)!]));
      this.session = { ...m.base, tracks: [...this.tracks.values()] };
      this.update(m.fresh);
    } else if (m.type === 'sound') {
      this.sounds.set(m.id, { l: m.l, r: m.r });
      if (this.session) this.update(false);
    } else if (m.type === 'play') this.renderer.play();
    else if (m.type === 'ports') this.ports.set(m.map);
    else if (m.type === 'measure') this.sounding = new Sounding(m);
    else if (m.type === 'record') this.record(m.node, m.frames);
    else if (m.type === 'stop-recording') this.endRecording();
    else if (m.type === 'stop') this.renderer.stop();
    else if (m.type === 'seek') this.renderer.seek(m.frame);
    else if (m.type === 'hit') this.renderer.hit(m.slot, m.part, m.velocity);
    else if (m.type === 'loop') this.round = m.end > m.start ? { start: m.start, end: m.end } : null;
    else if (m.type === 'audition') this.audition(m.audition);
    else if (m.type === 'mono') this.renderer.monitorMono(m.on);
    else if (m.type === 'reset-meters') this.meter.reset();
    else if (m.type === 'scope') {
      this.renderer.scope = m.slot
        ? { slot: m.slot, before: new Float32Array(SCOPE), after: new Float32Array(SCOPE), at: 0 }
        : null;
    }
    this.renderer.loop = this.recording ? null : this.round;
  }

  /** Plays from the start, all that still rings forgotten, and keeps a line. */
  private record(node: string, frames: number): void {
    this.recording = new Recording(node, frames, (at, l, r, isLast) =>
      this.say({ type: 'recorded', at, l, r, isLast }),
    );
    this.renderer.loop = null;
    this.renderer.reset();
    this.renderer.startAt(0);
  }
  private endRecording(): void {
    this.recording = null;
    this.renderer.loop = this.round;
    this.renderer.stop();
  }
  /** Keeps what the line played in the block before the renderer's place. */
  private keepRecording(recording: Recording, from: number, n: number): void {
    const node = this.renderer.node(recording.node);
    const plan = this.renderer.schedule?.nodes.find((x) => x.track.id === recording.node);
    if (!node || !plan) {
      this.say({ type: 'refused', message: 'The line that was being printed is gone; nothing was kept.' });
      this.endRecording();
    } else if (recording.take(node.l, node.r, from - plan.latency, n)) this.endRecording();
  }

  private update(fresh: boolean): void {
    try {
      this.renderer.update(this.session!, fresh);
      this.layout();
    } catch (e) {
      this.say({ type: 'refused', message: (e as Error).message });
    }
  }

  private audition(a: Audition): void {
    try {
      this.renderer.setAudition(a);
      if (this.renderer.schedule) this.layout();
    } catch (e) {
      this.say({ type: 'refused', message: (e as Error).message });
    }
  }

  private layout(): void {
    const s = this.renderer.schedule!;
    this.slots = s.nodes.flatMap((n) => [...flatPlans(n.slots)].map((x) => x.slot.id));
    this.say({
      type: 'layout',
      nodes: s.nodes.map((n) => n.track.id),
      slots: this.slots,
      latency: s.latency,
      position: this.renderer.position,
    });
  }

  process([ins]: Float32Array[][], [outs]: Float32Array[][]): boolean {
    const n = outs[0].length;
    const began = Date.now();
    this.ports.arrive(ins ?? [], n);
    if (this.sounding) {
      this.sound(this.sounding, ins ?? [], outs, n);
      return true;
    }
    const [al, ar] = this.ahead;
    if (this.given >= al.length) this.work();
    this.ports.give(outs, this.given, n, al, ar);
    this.given += n;
    this.count(Date.now() - began, n);
    if (++this.blocks * QUANTUM >= sampleRate / 30) {
      this.blocks = 0;
      this.report();
    }
    return true;
  }
  /** The engine's next block. */
  private work(): void {
    const [al, ar] = this.ahead;
    const from = this.renderer.position;
    this.ports.begin();
    this.renderer.process(al, ar, al.length);
    if (this.recording) this.keepRecording(this.recording, from, al.length);
    for (let i = 0; i < al.length; i++) {
      this.l[i] = al[i];
      this.r[i] = ar[i];
    }
    this.meter.take(this.l, this.r, al.length);
    this.given = 0;
  }
  private sound(sounding: Sounding, ins: Float32Array[], outs: Float32Array[], n: number): void {
    sounding.step(ins, outs, n);
    if (!sounding.isOver) return;
    this.sounding = null;
    this.say({ type: 'measured', sides: sounding.sides, ahead: this.ahead[0].length - QUANTUM });
  }
  /** How much of the time there is was needed for a browser's block. */
  private count(ms: number, n: number): void {
    this.spent += ms;
    this.sum += ms;
    // a browser asks for several blocks at once, and only all of them together can come too late; the clock
    // may be one millisecond off
    if (++this.asked === this.together) {
      if (this.sum > ((this.together * n) / sampleRate) * 1000 + 1) this.late++;
      this.asked = this.sum = 0;
    }
    if (++this.counted * QUANTUM >= sampleRate) {
      this.load = (this.spent / 1000) * (sampleRate / (this.counted * QUANTUM));
      this.spent = this.counted = 0;
    }
  }

  private report(): void {
    const nodes = this.renderer.nodes;
    const values = new Float32Array(nodes.length * PER_NODE + this.slots.length * PER_SLOT);
    for (let k = 0; k < nodes.length; k++) {
      const m = nodes[k].meter;
      const rms = m.frames ? Math.sqrt(m.square / m.frames) : 0;
      values.set([m.before, m.left, m.right, rms, m.broken], k * PER_NODE);
      m.before = m.left = m.right = m.square = m.frames = m.broken = 0;
    }
    for (let k = 0; k < this.slots.length; k++) {
      const p = this.renderer.slot(this.slots[k])?.proc;
      values.set([p?.reduction ?? 0, p?.level ?? -160], nodes.length * PER_NODE + k * PER_SLOT);
    }
    const s = this.renderer.scope;
    const watched = s ? this.renderer.slot(s.slot)?.proc.readings : undefined;
    // rings are sent straightened out, oldest sample first
    const straight = (ring: Float32Array, at: number) => {
      const out = new Float32Array(SCOPE);
      out.set(ring.subarray(at));
      out.set(ring.subarray(0, at), SCOPE - at);
      return out;
    };
    this.say({
      type: 'meters',
      position: this.renderer.position,
      playing: this.renderer.playing,
      values,
      before: s ? straight(s.before, s.at) : null,
      after: s ? straight(s.after, s.at) : null,
      readings: watched ? Array.from(watched) : null,
      master: Array.from(this.meter.readings),
      load: this.load,
      late: this.late,
      ports: this.ports.takePeaks(),
    });
  }
}

registerProcessor('rope-shelf-engine', EngineProcessor);
