import type { Device, Id, Send, Session, Slot, Track } from '../model/types.ts';
import { mapSlots, walkSlots } from '../session/slots.ts';
import {
  instrumentsIn,
  listenersIn,
  outOf,
  takeOf,
  takersOf,
  type Instrument,
  type Listener,
} from '../session/midi.ts';
import { outPlace } from '../devices/instrument.ts';
import type { InstrumentPart } from '../devices/instrument-type.ts';
import { lazily } from '../model/lazily.ts';
import { signalGraph, type SignalGraph } from '../session/graph.ts';
import { Ways } from '../session/reach.ts';

export type Severity = 'fault' | 'warning' | 'advice';

/** What a rule says about one object. */
export interface Hit {
  track: Id;
  /** a device or rack on it */
  slot?: Id;
  /** one of its sends */
  send?: Id;
  /** a part of the instrument that `slot` names */
  part?: string;
  message: string;
  /** what a fix would do, in words; left out when only a person can decide */
  fix?: string;
}

export interface Rule {
  id: string;
  severity: Severity;
  title: string;
  /** why it matters */
  why: string;
  /** whether a fix cannot take away anything that was meant */
  safe?: boolean;
  find: (c: Checked) => Hit[];
  /** an ordinary edit that removes the cause */
  fix?: (s: Session, hit: Hit) => Session;
  /**
   * in place of `fix`, where it takes a look to know what was meant: ways out, the likeliest first. The one that
   * is offered ends its finding, makes no other and leaves the fewest.
   */
  remedies?: (s: Session, hit: Hit) => Remedy[];
}

/** One way out: what it does, in words, and the session afterwards. */
export interface Remedy {
  label: string;
  next(): Session;
}

/** Levels of one pass through the session, in dBFS; measured by a render. */
export interface Levels {
  /** sample peak of each track before and after its fader, and whether
   * samples that are no numbers came into it */
  tracks: Record<Id, { before: number; after: number; broken?: boolean }>;
  /** true peak of the master */
  master: number;
  /** of each clip: its level and its noise between the phrases */
  takes?: Record<Id, { level: number; floor: number | null }>;
}

/** A session with what several rules need to know of it. */
export interface Checked {
  session: Session;
  byId: Map<Id, Track>;
  graph: SignalGraph;
  levels: Levels | null;
  /** frames of the interface's buffer; null where the session does not play on one */
  buffer: number | null;
  /** instruments that play, with the lines on their outputs */
  instruments: InstrumentView[];
  listeners: Listener[];
  /** tracks that something plays on or leads into */
  fed: Set<Id>;
  /** tracks whose sound comes to the master or another hardware output */
  heard: Set<Id>;
}

/** An instrument with the active lines that take its outputs. */
export interface InstrumentView extends Instrument {
  takers: Track[];
}
export const instruments = (s: Session): InstrumentView[] =>
  instrumentsIn(s).map((i) => ({ ...i, takers: takersOf(s, i.device.id).filter((t) => t.state === 'on') }));
/** Whether some of its parts have lines of their own. */
export const separated = (i: InstrumentView): boolean =>
  i.takers.length > 0 && i.parts.some((p) => p.out !== 'main');

/** Each part is worked out when a rule first asks for it: one rule by itself seldom needs them all. */
export function prepare(session: Session, levels: Levels | null, buffer: number | null = null): Checked {
  const byId = lazily(() => new Map(session.tracks.map((t) => [t.id, t])));
  const graph = lazily(() => signalGraph(session));
  const sound = lazily(() => new Ways(graph().flows.filter((f) => f.kind === 'output' || f.kind === 'send')));
  const fed = lazily(() => {
    const begin = session.tracks.filter((t) => t.clips.length || t.input.kind !== 'none');
    return sound().behind(begin.map((t) => t.id));
  });
  const heard = lazily(() => {
    const ends = graph().nodes.filter((n) => n.kind !== 'track' && !n.id.startsWith('in:'));
    return sound().leadingTo(ends.map((n) => n.id));
  });
  const played = lazily(() => instruments(session));
  const listeners = lazily(() => listenersIn(session.tracks));
  return {
    session,
    levels,
    buffer,
    get byId() {
      return byId();
    },
    get graph() {
      return graph();
    },
    get fed() {
      return fed();
    },
    get heard() {
      return heard();
    },
    get instruments() {
      return played();
    },
    get listeners() {
      return listeners();
    },
  };
}

/** Every device and rack that is not inactive, on lines that are not. */
export function* active(s: Session): Generator<{ t: Track; x: Slot }> {
  for (const t of s.tracks) {
    if (t.state === 'on') for (const x of walkSlots(t.chain)) if (x.state !== 'inactive') yield { t, x };
  }
}

export const quoted = (x: { name: string }) => `“${x.name}”`;
export const onTrack = (s: Session, id: Id, change: (t: Track) => Partial<Track>): Session => ({
  ...s,
  tracks: s.tracks.map((t) => (t.id === id ? { ...t, ...change(t) } : t)),
});
/** The device that a hit speaks of, changed. */
export const onDevice = (s: Session, h: Hit, change: (d: Device) => Partial<Device>): Session =>
  onTrack(s, h.track, (t) => ({
    chain: mapSlots(t.chain, (d) => (d.kind === 'device' && d.id === h.slot ? { ...d, ...change(d) } : d)),
  }));
/** The send that a hit speaks of, changed. */
export const onSend = (s: Session, h: Hit, change: Partial<Send>): Session =>
  onTrack(s, h.track, (t) => ({ sends: t.sends.map((x) => (x.id === h.send ? { ...x, ...change } : x)) }));
/** A part of an instrument on another output. */
export const setPartOut = (s: Session, slot: Id, part: string, out: string): Session => {
  const i = instruments(s).find((x) => x.device.id === slot);
  const p = i?.parts.find((x) => x.id === part);
  return i && p
    ? onDevice(s, { track: i.track.id, slot, message: '' }, (d) => ({
        params: { ...d.params, [p.outParam]: out },
      }))
    : s;
};
/** A line on the output and the side where a part is. */
export const takePart = (s: Session, line: Track, part: InstrumentPart): Session => {
  const o = outPlace(part.out);
  return onTrack(s, line.id, (t) => ({
    input: { ...outOf(t), output: o.pair, take: takeOf(o.side, t.channels) },
  }));
};
