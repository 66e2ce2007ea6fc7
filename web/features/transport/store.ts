import { defineStore } from 'pinia';
import { computed, ref, shallowRef, watch } from 'vue';
import {
  NO_AUDITION,
  devicesIn,
  findSlot,
  sessionLength,
  type Id,
  type Session,
  type Slot,
  type Track,
} from '../../../core/index.ts';
import workletUrl from '../../audio/engine.worklet.ts?worker&url';
import { jobs, type Running } from '../../audio/jobs.ts';
import {
  PER_NODE,
  PER_SLOT,
  type FromEngine,
  type Hearing,
  type Match,
  type ToEngine,
} from '../../audio/messages.ts';
import { useSession } from '../../document/doc.ts';
import { useUi } from '../../ui/window.ts';

export interface NodeMeter {
  before: number;
  left: number;
  right: number;
  rms: number;
}
/** What is compared: several hearings of one line, the first being all as it is; `now` is heard. */
export interface Comparison {
  id: string;
  track: Id;
  slot: Id | null;
  label: string;
  hearings: Hearing[];
  now: number;
  last: number;
  match: Match | null;
  busy: number | null;
}
/**
 * A small session answers at once; a large one gets a longer buffer (seconds), so that what else the machine
 * does makes no gap.
 */
const roomFor = (s: Session): 'interactive' | number => {
  const devices = s.tracks.reduce((n, t) => n + devicesIn(t.chain).length, 0);
  if (devices > 120) return 0.08;
  if (devices > 60) return 0.04;
  return 'interactive';
};
const AS_IS: Hearing = { id: 'as-is', label: 'As it is', at: 'line', audition: { bypass: [] } };

/**
 * The live engine as the page sees it: transport, meters and comparisons. It plays the open session, or for a
 * moment a preset on chosen material. Meter figures are plain objects that
 * pictures read on every frame; only the transport is reactive.
 */
export const useAudio = defineStore('audio', () => {
  const session = useSession();
  const ui = useUi();
  const playing = ref(false);
  const starting = ref(false);
  const seconds = ref(0);
  const length = ref(0);
  const latency = ref(0);
  const compare = shallowRef<Comparison | null>(null);
  const mono = ref(false);
  /** share of the time there is for each block that the engine needs, and callbacks that came late */
  const load = ref(0);
  const late = ref(0);
  /** gaps in what was heard, as the browser counts them; where it does not count, callbacks that came late */
  const dropouts = ref(0);
  /** set while a preset is listened to instead of the session */
  const listening = shallowRef<{ preset: string; session: Session; track: Id } | null>(null);

  const nodes = new Map<Id, NodeMeter>();
  const slots = new Map<Id, { reduction: number; level: number }>();
  const scope: { before: Float32Array | null; after: Float32Array | null; readings: number[] | null } = {
    before: null,
    after: null,
    readings: null,
  };
  /** the master's figures in the order of METER_READINGS; plain, read on every frame */
  const master: { readings: number[] } = { readings: [] };

  let context: AudioContext | null = null;
  let room: ReturnType<typeof roomFor> = 'interactive';
  let node: AudioWorkletNode | null = null;
  let sent = new Map<Id, Track>();
  let sentMedia = new Set<string>();
  let loadedMedia = new Set<string>();
  let layout: { nodes: Id[]; slots: Id[] } = { nodes: [], slots: [] };
  let scoped: Id | null = null;
  let matching: Running<Match> | null = null;
  let moved = false;

  const source = computed(() => listening.value?.session ?? session.doc);
  const post = (m: ToEngine, transfer: Transferable[] = []) => node?.port.postMessage(m, transfer);

  async function start(s: Session): Promise<void> {
    if (context?.sampleRate === s.sampleRate && node && roomFor(s) === room) {
      await context.resume();
      return;
    }
    node?.disconnect();
    await context?.close();
    context = new AudioContext({ sampleRate: s.sampleRate, latencyHint: (room = roomFor(s)) });
    await context.audioWorklet.addModule(workletUrl);
    node = new AudioWorkletNode(context, 'rope-shelf-engine', {
      numberOfInputs: 0,
      numberOfOutputs: 1,
      outputChannelCount: [2],
      processorOptions: { together: Math.ceil((context.baseLatency * s.sampleRate) / 128) },
    });
    node.port.onmessage = (m: MessageEvent<FromEngine>) => heard(m.data);
    node.onprocessorerror = () => ui.say('The audio engine stopped. Press play to start it again.', 'error');
    node.connect(context.destination);
    await context.resume();
    sent = new Map();
    sentMedia = new Set();
    loadedMedia = new Set();
    if (scoped) post({ type: 'scope', slot: scoped });
    if (mono.value) post({ type: 'mono', on: true });
  }

  function heard(m: FromEngine) {
    if (m.type === 'layout') {
      layout = m;
      latency.value = m.latency;
      for (const id of nodes.keys()) if (!m.nodes.includes(id)) nodes.delete(id);
    } else if (m.type === 'refused') ui.say(m.message, 'error');
    else {
      seconds.value = m.position / context!.sampleRate;
      if (!moved) playing.value = m.playing;
      moved = false;
      const figures = (id: Id, k: number) => {
        const v = m.values;
        const x = nodes.get(id) ?? { before: 0, left: 0, right: 0, rms: 0 };
        x.before = v[k];
        x.left = v[k + 1];
        x.right = v[k + 2];
        x.rms = v[k + 3];
        nodes.set(id, x);
      };
      layout.nodes.forEach((id, i) => figures(id, i * PER_NODE));
      const at = layout.nodes.length * PER_NODE;
      layout.slots.forEach((id, i) =>
        slots.set(id, { reduction: m.values[at + i * PER_SLOT], level: m.values[at + i * PER_SLOT + 1] }),
      );
      scope.before = m.before;
      scope.after = m.after;
      scope.readings = m.readings;
      master.readings = m.master;
      load.value = m.load;
      late.value = m.late;
      dropouts.value =
        (context as AudioContext & { playbackStats?: { underrunEvents: number } }).playbackStats
          ?.underrunEvents ?? m.late;
    }
  }

  /**
   * Sends what changed of the session: tracks are compared by identity, so an edit of one track sends that
   * one.
   */
  function sync(s: Session): void {
    if (!node) return;
    const { tracks, ...base } = s;
    const fresh = sent.size === 0;
    const changed = tracks.filter((t) => sent.get(t.id) !== t);
    sent = new Map(tracks.map((t) => [t.id, t]));
    post({
      type: 'session',
      base,
      order: tracks.map((t) => t.id),
      changed: JSON.parse(JSON.stringify(changed)) as Track[],
      fresh,
    });
    length.value = sessionLength(s);
    post({ type: 'loop', start: 0, end: Math.round(length.value * s.sampleRate) });
    for (const m of s.media) {
      if (!sentMedia.has(m.id) && tracks.some((t) => t.clips.some((c) => c.media === m.id))) {
        void bring(m.id, s.sampleRate);
      }
    }
  }

  async function bring(media: string, rate: number): Promise<void> {
    sentMedia.add(media);
    try {
      const s = await jobs.sound(media, rate);
      if (context?.sampleRate === rate) {
        post({ type: 'sound', id: media, l: s.l, r: s.r }, [...new Set([s.l.buffer, s.r.buffer])]);
      }
      loadedMedia.add(media);
    } catch (e) {
      sentMedia.delete(media);
      ui.fail(e);
    }
  }

  watch(source, (s, old) => {
    if (!s) {
      stop();
      return;
    }
    if (!node || !context) {
      length.value = sessionLength(s);
      return;
    }
    if (context.sampleRate !== s.sampleRate) {
      const was = playing.value;
      stop();
      node.disconnect();
      node = null;
      if (was && old) void play();
      return;
    }
    sync(s);
    if (compare.value && !compareHolds(s)) endCompare();
  });
  watch(
    () => session.id,
    () => {
      sent = new Map();
      stop();
      post({ type: 'seek', frame: 0 });
      seconds.value = 0;
      listening.value = null;
      endCompare();
    },
  );

  async function play(): Promise<void> {
    const s = source.value;
    if (!s || starting.value) return;
    starting.value = true;
    try {
      await start(s);
      sync(s);
      const need = new Set(s.tracks.flatMap((t) => t.clips.map((c) => c.media)));
      // the first note is not played before its sound is there
      for (let i = 0; i < 1000 && ![...need].every((m) => loadedMedia.has(m) || !sentMedia.has(m)); i++) {
        await new Promise((r) => setTimeout(r, 10));
      }
      post({ type: 'play' });
      playing.value = moved = true;
    } catch (e) {
      ui.say(`Sound cannot start: ${(e as Error).message}`, 'error');
    } finally {
      starting.value = false;
    }
  }

  function stop(): void {
    post({ type: 'stop' });
    playing.value = false;
    moved = true;
  }
  const toggle = () => {
    if (playing.value) stop();
    else void play();
  };
  function seek(s: number): void {
    seconds.value = Math.max(0, s);
    post({ type: 'seek', frame: Math.round(seconds.value * (context?.sampleRate ?? 48000)) });
  }

  /** Strikes one part of an instrument; starts the engine for it when it stands. */
  async function hit(slot: Id, part: number, velocity = 110): Promise<void> {
    const s = source.value;
    if (!s) return;
    try {
      await start(s);
      sync(s);
      post({ type: 'hit', slot, part, velocity });
    } catch (e) {
      ui.say(`Sound cannot start: ${(e as Error).message}`, 'error');
    }
  }

  /** Follows one device's input and output for the spectrum. */
  function watchSlot(slot: Id | null): void {
    scoped = slot;
    scope.before = scope.after = scope.readings = null;
    post({ type: 'scope', slot });
  }

  watch(mono, (on) => post({ type: 'mono', on }));
  const resetMeters = () => post({ type: 'reset-meters' });

  const compareHolds = (s: Session) => {
    const t = s.tracks.find((x) => x.id === compare.value!.track);
    return !!t && (!compare.value!.slot || !!findSlot(t.chain, compare.value!.slot));
  };

  /**
   * Begins a comparison: measures all hearings once, then switches to the second. Asked again with the same
   * ones, it switches between the first and the one heard last.
   */
  async function compareHearings(
    id: string,
    track: Track,
    slot: Id | null,
    label: string,
    others: Hearing[],
  ): Promise<void> {
    const s = source.value;
    if (!s) return;
    const hearings = [AS_IS, ...others];
    if (compare.value?.id === id && compare.value.match) {
      hear(compare.value.now === 0 ? compare.value.last : 0);
      return;
    }
    endCompare();
    const c: Comparison = {
      id,
      track: track.id,
      slot,
      label,
      hearings,
      now: 0,
      last: 1,
      match: null,
      busy: 0,
    };
    compare.value = c;
    const same = () => compare.value?.hearings === hearings;
    matching = jobs.match({ session: s, track: track.id, hearings }, (p) => {
      if (same() && compare.value!.busy !== null) compare.value = { ...compare.value!, busy: p };
    });
    try {
      const match = await matching.done;
      if (!same()) return;
      compare.value = { ...c, match, busy: null };
      hear(1);
    } catch (e) {
      if (same()) {
        endCompare();
        ui.fail(e);
      }
    }
  }

  /** With and without one device or rack, or a whole line. */
  async function toggleCompare(track: Track, slot: Id | null): Promise<void> {
    const bypass = slot ? [slot] : track.chain.map((d) => d.id);
    if (bypass.length === 0) {
      ui.say(`“${track.name}” has no devices to compare.`);
      return;
    }
    const label = slot ? (findSlot(track.chain, slot)?.name ?? track.name) : track.name;
    await compareHearings(`bypass ${bypass.join()}`, track, slot, label, [
      { id: 'without', label: slot ? 'Without it' : 'Chain bypassed', at: 'line', audition: { bypass } },
    ]);
  }

  /** The comparisons of a device that takes its key from a track. */
  function keyHearings(track: Track, device: Slot): Hearing[] {
    const trigger = device.kind === 'device' && device.key.kind === 'track' ? device.key.track : null;
    if (!trigger) return [];
    return [
      { id: 'key-off', label: 'Key off', at: 'line', audition: { bypass: [], keyOff: [device.id] } },
      {
        id: 'trigger-muted',
        label: 'Trigger muted',
        at: 'master',
        audition: { bypass: [], mute: [trigger] },
      },
      {
        id: 'trigger-alone',
        label: 'Trigger alone',
        at: 'master',
        audition: { bypass: [], solo: [trigger] },
      },
      {
        id: 'bypassed',
        label: 'Chain bypassed',
        at: 'line',
        audition: { bypass: track.chain.map((x) => x.id) },
      },
    ];
  }

  /** Hears one of the hearings, by its number from 0. */
  function hear(n: number): void {
    const c = compare.value;
    if (!c?.match || !c.hearings[n]) return;
    compare.value = { ...c, now: n, last: n === 0 ? c.last : n };
    const h = c.hearings[n];
    const at = h.at === 'master' ? source.value!.tracks.find((t) => t.role === 'master')!.id : c.track;
    post({
      type: 'audition',
      audition:
        n === 0
          ? NO_AUDITION
          : (JSON.parse(
              JSON.stringify({ ...h.audition, gains: { [at]: c.match.gains[n] } }),
            ) as typeof NO_AUDITION),
    });
  }

  function endCompare(): void {
    matching?.cancel();
    matching = null;
    if (compare.value) post({ type: 'audition', audition: NO_AUDITION });
    compare.value = null;
  }

  /** Plays a preset on material instead of the session. */
  async function listen(preset: string, s: Session, track: Id): Promise<void> {
    endCompare();
    sent = new Map();
    listening.value = { preset, session: s, track };
    seek(0);
    await play();
  }
  function endListening(): void {
    if (!listening.value) return;
    stop();
    endCompare();
    sent = new Map();
    listening.value = null;
  }

  return {
    playing,
    starting,
    seconds,
    length,
    latency,
    compare,
    listening,
    nodes,
    slots,
    scope,
    play,
    stop,
    hit,
    toggle,
    seek,
    mono,
    load,
    late,
    dropouts,
    master,
    resetMeters,
    watchSlot,
    compareHearings,
    toggleCompare,
    keyHearings,
    hear,
    endCompare,
    listen,
    endListening,
  };
});
