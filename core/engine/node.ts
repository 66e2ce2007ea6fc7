import { Ramp, dbToGain } from '../devices/math.ts';
import type { Id } from '../model/types.ts';
import type { NodePlan } from './compile.ts';
import { type EdgeRun, scaleBoth } from './edge.ts';
import { MixList, clean, copy, doubles, mix, widen } from '../devices/kernels/index.ts';
import type { SlotRun } from './slot.ts';
import type { Sound, SoundWindow, Meter } from './sound.ts';

/** what flows into the node at hand; used within one call */
const list = new MixList();

interface ClipRun {
  sound: Sound;
  /** set where the sound is too long to be held: `sound` is this window then */
  window: SoundWindow | null;
  start: number;
  offset: number;
  length: number;
  gain: number;
}

/**
 * A track while it runs. `l` and `r` hold the chain's output of this block: fader, pan and sends are gains on
 * the edges that leave.
 */
export class NodeRun {
  readonly id: Id;
  readonly l: Float64Array;
  readonly r: Float64Array;
  /** the places of l and r as 32-bit numbers, which sounds consist of */
  private readonly floatsL: Float32Array;
  private readonly floatsR: Float32Array;
  readonly gl = new Ramp(1);
  readonly gr = new Ramp(1);
  /** polarity and the gain of a level-matched comparison */
  readonly after = new Ramp(1);
  /** the line's own trim before its chain */
  readonly trim = new Ramp(1);
  readonly meter: Meter = { before: 0, left: 0, right: 0, square: 0, frames: 0, broken: 0 };
  edges: { run: EdgeRun; from: NodeRun; id: string; l: Float64Array; r: Float64Array }[] = [];
  slots: SlotRun[] = [];
  clips: ClipRun[] = [];
  mono = false;
  /** every sound that it plays has sides that are one */
  private isMonoPlayed = true;
  /** what another worker has summed up for this node, and how far it is read (shared renders) */
  feed: { l: Float64Array; r: Float64Array; at: number } | null = null;
  /** a copy of what came in, before the chain, when somebody wants it */
  arriving: { l: Float64Array; r: Float64Array } | null = null;
  /** only adds up what comes in, for another worker */
  collecting = false;
  /** rendered, not played */
  offline = false;
  private readonly glide: number;

  constructor(
    plan: NodePlan,
    readonly sampleRate: number,
    maxBlock: number,
  ) {
    this.id = plan.track.id;
    this.l = doubles(maxBlock);
    this.r = doubles(maxBlock);
    this.floatsL = floatsOf(this.l);
    this.floatsR = floatsOf(this.r);
    this.glide = Math.round(sampleRate * 0.01);
    this.adopt(plan, 0, true);
  }

  adopt(plan: NodePlan, auditionDb: number, immediate: boolean): void {
    const samples = immediate ? 0 : this.glide;
    this.mono = plan.track.channels === 1;
    this.gl.to(plan.gainL, samples);
    this.gr.to(plan.gainR, samples);
    this.trim.to(dbToGain(plan.track.inputTrim ?? 0), samples);
    this.after.to((plan.track.polarity ? -1 : 1) * dbToGain(auditionDb), samples);
  }

  /** Clips as frames; a clip whose sound has not arrived is silent. */
  place(plan: NodePlan, sounds: Map<string, Sound>, inputLatency: number): void {
    this.isMonoPlayed = true;
    // a line goes along a sound with one window, however many clips play it
    const windows = new Map<string, SoundWindow | null>();
    this.clips = plan.track.clips.flatMap((c) => {
      const found = sounds.get(c.media);
      if (!found || c.off) return [];
      const window = windows.get(c.media) ?? found.open?.() ?? null;
      windows.set(c.media, window);
      const sound = window ?? found;
      if (sound.l !== sound.r) this.isMonoPlayed = false;
      const frames = window?.frames ?? sound.l.length;
      const offset = Math.round(c.offset * this.sampleRate);
      const length = Math.min(Math.round(c.length * this.sampleRate), frames - offset);
      return length > 0
        ? [
            {
              sound,
              window,
              start: Math.round(c.start * this.sampleRate) + inputLatency,
              offset,
              length,
              gain: dbToGain(c.gain),
            },
          ]
        : [];
    });
  }

  /** Clears the block, then adds clips from a position in frames and whatever the edges bring. */
  gather(position: number, n: number, skip: number, g0: number, g1: number): void {
    const l = this.l;
    const r = this.r;
    const whole = this.offline && this.clips.length === 1 && g0 === 1 && g1 === 1 ? this.clips[0] : null;
    const into = whole ? position - whole.start : -1;
    // what is no finite number is found while a sound is widened, or when all is there
    let isLooked = false;
    if (whole && skip === 0 && into >= 0 && into + n <= whole.length) {
      isLooked = this.playWhole(whole, into, n);
    } else {
      l.fill(0, 0, n);
      r.fill(0, 0, n);
      if (g0 > 0 || g1 > 0) {
        const step = (g1 - g0) / n;
        for (let k = 0; k < this.clips.length; k++) {
          const c = this.clips[k];
          // whole numbers for the machine, too: an index that might be a fraction is checked on every sample
          const from = Math.max(skip, c.start - position) | 0;
          const to = Math.min(n, c.start + c.length - position) | 0;
          if (from < to) {
            const at = c.offset + position - c.start;
            addClip(
              c.sound.l,
              c.sound.r,
              (placeIn(c, at + from, to - from) - from) | 0,
              l,
              r,
              from,
              to,
              c.gain,
              g0,
              step,
            );
          }
        }
      }
    }
    list.count = 0;
    for (let k = 0; k < this.edges.length; k++) {
      const e = this.edges[k];
      if (!e.run.steady) e.run.add(e.l, e.r, l, r, n);
      else if (e.run.gl.value !== 0 || e.run.gr.value !== 0) {
        list.push(e.l, e.r, e.run.gl.value, e.run.gr.value);
      }
    }
    mix(l, r, n, list);
    const f = this.feed;
    if (f) {
      for (let i = 0; i < n; i++) {
        l[i] += f.l[f.at + i];
        r[i] += f.r[f.at + i];
      }
      f.at += n;
    }
    const isClean = isLooked && this.edges.length === 0 && !f;
    if (!isClean && clean(l, r, n)) this.meter.broken += n;
    if (this.collecting) return;
    // sides that are the same already stay what they are
    const isOne = this.edges.length === 0 && !this.feed && this.isMonoPlayed;
    if (this.mono && !isOne) for (let i = 0; i < n; i++) l[i] = r[i] = 0.5 * (l[i] + r[i]);
  }

  /**
   * A clip that fills the block: copied by the machine's own means and widened where it lies. The views are made
   * offline only, since playing makes no garbage. True when all of it are finite numbers.
   */
  private playWhole(clip: ClipRun, into: number, n: number): boolean {
    const { sound, gain } = clip;
    const at = placeIn(clip, clip.offset + into, n);
    this.floatsL.set(sound.l.subarray(at, at + n), n);
    const isFiniteL = !widen(this.l, this.floatsL, n, gain);
    if (sound.r === sound.l) {
      copy(this.r, 0, this.l, 0, n);
      return isFiniteL;
    }
    this.floatsR.set(sound.r.subarray(at, at + n), n);
    return !widen(this.r, this.floatsR, n, gain) && isFiniteL;
  }

  process(n: number, metering: boolean): void {
    const l = this.l;
    const r = this.r;
    scaleBoth(l, r, n, this.trim);
    if (metering) {
      let p = this.meter.before;
      for (let i = 0; i < n; i++) {
        const a = Math.abs(l[i]);
        const b = Math.abs(r[i]);
        if (a > p) p = a;
        if (b > p) p = b;
      }
      this.meter.before = p;
    }
    if (this.arriving) {
      for (let i = 0; i < n; i++) {
        this.arriving.l[i] = l[i];
        this.arriving.r[i] = r[i];
      }
    }
    let one = this.mono;
    // the first device gets what was looked through when it came in
    let isClean = this.trim.left === 0 && this.trim.value === 1;
    for (let k = 0; k < this.slots.length; k++) {
      this.slots[k].process(l, r, n, one, isClean);
      one &&= this.slots[k].keepsMono;
      isClean = false;
    }
    scaleBoth(l, r, n, this.after);
    if (metering) this.measure(n);
    else {
      this.gl.advance(n);
      this.gr.advance(n);
    }
  }

  private measure(n: number): void {
    const l = this.l;
    const r = this.r;
    const m = this.meter;
    const a = this.gl.value;
    const b = this.gr.value;
    let pl = 0;
    let pr = 0;
    let sum = 0;
    for (let i = 0; i < n; i++) {
      const x = a * l[i];
      const y = b * r[i];
      const ax = Math.abs(x);
      const ay = Math.abs(y);
      if (ax > pl) pl = ax;
      if (ay > pr) pr = ay;
      sum += x * x + y * y;
    }
    if (pl > m.left) m.left = pl;
    if (pr > m.right) m.right = pr;
    m.square += sum / 2;
    m.frames += n;
    this.gl.advance(n);
    this.gr.advance(n);
  }
}

const floatsOf = (x: Float64Array) => new Float32Array(x.buffer, x.byteOffset, 2 * x.length);

/** Where frames of a clip's sound lie in its arrays. */
function placeIn({ window }: ClipRun, from: number, n: number): number {
  if (!window) return from;
  window.reach(from, n);
  return from - window.at;
}

function addClip(
  sl: Float32Array,
  sr: Float32Array,
  at: number,
  l: Float64Array,
  r: Float64Array,
  from: number,
  to: number,
  gain: number,
  g0: number,
  step: number,
): void {
  if (step === 0) {
    const g = gain * g0;
    for (let i = from; i < to; i++) {
      l[i] += g * sl[at + i];
      r[i] += g * sr[at + i];
    }
    return;
  }
  for (let i = from; i < to; i++) {
    const g = gain * (g0 + step * i);
    l[i] += g * sl[at + i];
    r[i] += g * sr[at + i];
  }
}
