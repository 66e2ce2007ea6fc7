import { LiveMeter } from '../../core/devices/live-meter.ts';
import { flatPlans } from '../../core/engine/compile.ts';
import { Renderer } from '../../core/engine/renderer.ts';
import type { Audition } from '../../core/engine/audition.ts';
import type { Sound } from '../../core/engine/sound.ts';
import type { Session, Track } from '../../core/model/types.ts';
import { PER_NODE, PER_SLOT, SCOPE, type FromEngine, type ToEngine } from './messages.ts';

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

  constructor(options?: { processorOptions?: { together?: number } }) {
    super();
    this.together = Math.max(1, options?.processorOptions?.together ?? 4);
    // never more than the browser asks for in one go, so that working ahead never makes one callback do the
    // work of two
    let block = 128;
    while (block < 512 && block * 2 <= this.together * 128) block *= 2;
    this.renderer = new Renderer(sampleRate, block, this.sounds);
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
      this.session = { ...m.base, tracks: m.order.map((id) => this.tracks.get(id)!) };
      this.update(m.fresh);
    } else if (m.type === 'sound') {
      this.sounds.set(m.id, { l: m.l, r: m.r });
      if (this.session) this.update(false);
    } else if (m.type === 'play') this.renderer.play();
    else if (m.type === 'stop') this.renderer.stop();
    else if (m.type === 'seek') this.renderer.seek(m.frame);
    else if (m.type === 'hit') this.renderer.hit(m.slot, m.part, m.velocity);
    else if (m.type === 'loop') this.renderer.loop = m.end > m.start ? { start: m.start, end: m.end } : null;
    else if (m.type === 'audition') this.audition(m.audition);
    else if (m.type === 'mono') this.renderer.monitorMono(m.on);
    else if (m.type === 'reset-meters') this.meter.reset();
    else if (m.type === 'scope') {
      this.renderer.scope = m.slot
        ? { slot: m.slot, before: new Float32Array(SCOPE), after: new Float32Array(SCOPE), at: 0 }
        : null;
    }
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
    });
  }

  process(_inputs: Float32Array[][], outputs: Float32Array[][]): boolean {
    const [l, r] = outputs[0];
    const began = Date.now();
    const [al, ar] = this.ahead;
    if (this.given >= al.length) {
      this.renderer.process(al, ar, al.length);
      for (let i = 0; i < al.length; i++) {
        this.l[i] = al[i];
        this.r[i] = ar[i];
      }
      this.meter.take(this.l, this.r, al.length);
      this.given = 0;
    }
    for (let i = 0, at = this.given; i < l.length; i++) {
      l[i] = al[at + i];
      (r ?? l)[i] = ar[at + i];
    }
    this.given += l.length;
    const ms = Date.now() - began;
    this.spent += ms;
    this.sum += ms;
    // a browser asks for several blocks at once, and only all of them together can come too late; the clock
    // may be one millisecond off
    if (++this.asked === this.together) {
      if (this.sum > ((this.together * l.length) / sampleRate) * 1000 + 1) this.late++;
      this.asked = this.sum = 0;
    }
    if (++this.counted * 128 >= sampleRate) {
      this.load = (this.spent / 1000) * (sampleRate / (this.counted * 128));
      this.spent = this.counted = 0;
    }
    if (++this.blocks * 128 >= sampleRate / 30) {
      this.blocks = 0;
      this.report();
    }
    return true;
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
    });
  }
}

registerProcessor('rope-shelf-engine', EngineProcessor);
