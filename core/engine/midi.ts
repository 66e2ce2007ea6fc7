import { DEVICE_TYPES } from '../devices/index.ts';
import {
  ALL_OFF,
  CONTROL,
  HIT,
  NOTE_OFF,
  NOTE_ON,
  type EventBuffer,
  type InstrumentProcessor,
} from '../devices/instrument.ts';
import type { PatternLayer } from '../devices/instrument-type.ts';
import { devicesIn } from '../session/slots.ts';
import { MIDI_PORTS } from '../session/midi.ts';
import type { Id, Input, Session, Track } from '../model/types.ts';

/** One list of events of a clip, in order of time, as columns of numbers. */
interface Column {
  frame: Float64Array;
  type: Uint8Array;
  channel: Uint8Array;
  a: Uint8Array;
  b: Uint8Array;
}
interface Steps {
  layer: PatternLayer;
  hits: number[];
}

/**
 * What one MIDI track plays, in frames from the session's start: events of any stretch can be asked for, in
 * any order, so that a seek needs nothing.
 */
export class Score {
  readonly port: number;
  /** 0: each event keeps its own channel */
  private readonly channel: number;
  private readonly columns: Column[];
  private readonly layers: { steps: Steps; swing: number }[] = [];
  private readonly step: number;

  constructor(
    readonly track: Track,
    readonly tempo: number,
    sampleRate: number,
  ) {
    const out = track.output;
    this.port = out.kind === 'midi' ? MIDI_PORTS.indexOf(out.port) : 0;
    this.channel = out.kind === 'midi' ? out.channel : 0;
    const quarter = (60 / tempo) * sampleRate;
    this.step = quarter / 4;
    this.columns = (track.notes ?? []).map((c) => {
      const all = [
        ...c.notes
          .filter((n) => n.at < c.length)
          .flatMap((n) => [
            { at: c.start + n.at, type: NOTE_ON, channel: n.channel, a: n.key, b: n.velocity },
            {
              at: c.start + Math.min(c.length, n.at + Math.max(n.length, 1 / 64)),
              type: NOTE_OFF,
              channel: n.channel,
              a: n.key,
              b: 0,
            },
          ]),
        ...c.controllers
          .filter((x) => x.at < c.length)
          .map((x) => ({ at: c.start + x.at, type: CONTROL, channel: x.channel, a: x.number, b: x.value })),
      ].sort((x, y) => x.at - y.at || x.type - y.type);
      return {
        frame: Float64Array.from(all, (e) => Math.round(e.at * quarter)),
        type: Uint8Array.from(all, (e) => e.type),
        channel: Uint8Array.from(all, (e) => e.channel),
        a: Uint8Array.from(all, (e) => e.a),
        b: Uint8Array.from(all, (e) => e.b),
      };
    });
    for (const d of devicesIn(track.chain)) {
      const made = d.state === 'on' ? DEVICE_TYPES[d.type].pattern?.(d.params) : undefined;
      for (const layer of made ?? []) {
        let n = 0;
        // which of its hits each step is, so that the row of semitones goes on over the bar line
        this.layers.push({
          steps: { layer, hits: layer.steps.map((v) => (v > 0 ? n++ : -1)) },
          swing: (Number(d.params.swing) - 50) / 50,
        });
      }
    }
  }

  /**
   * Puts the last value of every controller before a frame into the buffer, so that playing from the middle
   * sounds as it would from the start.
   */
  chase(frame: number, into: EventBuffer): void {
    last.fill(-1);
    for (let k = 0; k < this.columns.length; k++) {
      const c = this.columns[k];
      for (let i = 0; i < c.frame.length && c.frame[i] < frame; i++) {
        if (c.type[i] === CONTROL) last[((this.channel || c.channel[i]) - 1) * 128 + c.a[i]] = c.b[i];
      }
    }
    for (let k = 0; k < last.length; k++) {
      if (last[k] >= 0) into.push(0, CONTROL, this.port, (k >> 7) + 1, k & 127, last[k]);
    }
  }

  /** Puts every event from frame `from` up to `to` into the buffer, counted from `from`. */
  collect(from: number, to: number, into: EventBuffer): void {
    for (let k = 0; k < this.columns.length; k++) {
      const c = this.columns[k];
      let lo = 0;
      let hi = c.frame.length;
      while (lo < hi) {
        const m = (lo + hi) >> 1;
        if (c.frame[m] < from) lo = m + 1;
        else hi = m;
      }
      for (; lo < c.frame.length && c.frame[lo] < to; lo++) {
        into.push(c.frame[lo] - from, c.type[lo], this.port, this.channel || c.channel[lo], c.a[lo], c.b[lo]);
      }
    }
    for (let k = 0; k < this.layers.length; k++) {
      const {
        steps: { layer, hits },
        swing,
      } = this.layers[k];
      const length = layer.steps.length;
      if (length === 0 || this.step <= 0) continue;
      const count = hits.reduce(countHits, 0);
      const late = swing * this.step;
      // a step is at most one late, and a note lasts at most eight
      const first = Math.max(0, Math.floor(from / this.step) - Math.ceil(layer.gate) - 2);
      const last = Math.ceil(to / this.step);
      for (let s = first; s <= last; s++) {
        const i = s % length;
        const velocity = layer.steps[i];
        if (velocity === 0) continue;
        const on = Math.round(s * this.step + (s % 2 ? late : 0));
        const off = Math.round(on + layer.gate * this.step);
        const key = layer.keys[(hits[i] + Math.floor(s / length) * count) % layer.keys.length];
        const channel = this.channel || layer.channel;
        if (on >= from && on < to) into.push(on - from, NOTE_ON, this.port, channel, key, velocity);
        if (off >= from && off < to) into.push(off - from, NOTE_OFF, this.port, channel, key, 0);
      }
    }
  }
}
/** last value of each controller of each channel; used within one call */
const last = new Int16Array(16 * 128);
const countHits = (n: number, h: number): number => (h >= 0 ? n + 1 : n);

/** What one instrument hears, and where it stands in time. */
export class Hearer {
  scores: Score[] = [];
  /** part to be struck next, −1 for none, and how hard */
  private hitPart = -1;
  private hitVelocity = 0;
  private quiet = false;
  private fresh = false;
  input: Input = { kind: 'none' };
  /** samples from a clip to the instrument's place in the chain */
  late = 0;
  constructor(
    readonly slot: Id,
    readonly proc: InstrumentProcessor,
  ) {}

  hit(part: number, velocity: number): void {
    this.hitPart = part;
    this.hitVelocity = velocity;
  }
  silence(): void {
    this.quiet = true;
  }
  /** Playing begins somewhere: what the controllers stood at comes first. */
  resume(): void {
    this.fresh = true;
  }

  /** Fills the instrument's events for one block. */
  gather(position: number, n: number, playing: boolean): void {
    const e = this.proc.events;
    e.count = 0;
    if (this.quiet) {
      this.quiet = false;
      e.push(0, ALL_OFF, 0, 0, 0, 0);
    }
    if (this.hitPart >= 0) {
      e.push(0, HIT, 0, 0, this.hitPart, this.hitVelocity);
      this.hitPart = -1;
    }
    if (!playing || this.input.kind !== 'midi') return;
    const port = MIDI_PORTS.indexOf(this.input.port);
    const channel = this.input.channel;
    const f = this.input.filter;
    const from = position - this.late;
    if (this.fresh) {
      this.fresh = false;
      for (let k = 0; k < this.scores.length; k++) {
        if (this.scores[k].port === port) this.scores[k].chase(from, e);
      }
    }
    for (let k = 0; k < this.scores.length; k++) {
      if (this.scores[k].port === port) this.scores[k].collect(from, from + n, e);
    }
    let kept = 0;
    for (let i = 0; i < e.count; i++) {
      const inside =
        e.type[i] >= ALL_OFF ||
        ((channel === 0 || e.channel[i] === channel) &&
          (!f || (e.type[i] === CONTROL ? f.controllers : e.a[i] >= f.low && e.a[i] <= f.high)));
      if (!inside) continue;
      if (kept !== i) {
        e.frame[kept] = e.frame[i];
        e.type[kept] = e.type[i];
        e.port[kept] = e.port[i];
        e.channel[kept] = e.channel[i];
        e.a[kept] = e.a[i];
        e.b[kept] = e.b[i];
      }
      kept++;
    }
    e.count = kept;
  }
}

/**
 * The scores of a session's MIDI tracks that play; those whose track and tempo are the same objects as before
 * are kept.
 */
export function scoresOf(session: Session, before: readonly Score[]): Score[] {
  return session.tracks
    .filter((t) => t.role === 'midi' && t.state === 'on' && !t.mute && t.output.kind === 'midi')
    .map(
      (t) =>
        before.find((s) => s.track === t && s.tempo === session.tempo) ??
        new Score(t, session.tempo, session.sampleRate),
    );
}

/** Quarter notes until the last note ends; 0 when nothing is written down. */
export const scoreLength = (s: Session): number =>
  Math.max(0, ...s.tracks.flatMap((t) => (t.notes ?? []).map((c) => c.start + c.length)));
