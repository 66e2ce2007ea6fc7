import { defineStore } from 'pinia';
import { computed, ref, shallowRef, watch } from 'vue';
import { sessionLength, type Id, type Session, type Track } from '../../core/index.ts';
import workletUrl from '../audio/engine.worklet.ts?worker&url';
import { jobs, type Running } from '../audio/jobs.ts';
import { PER_NODE, PER_SLOT, type FromEngine, type Match, type ToEngine } from '../audio/messages.ts';
import { useSession } from './session.ts';
import { useUi } from './ui.ts';

export interface NodeMeter { before: number; left: number; right: number; rms: number }
interface Comparison { scope: 'device' | 'line'; track: Id; bypass: Id[]; label: string; match: Match | null; without: boolean; busy: number | null }

/**
 * The live engine as the page sees it: transport, meters and comparisons. It plays the open session, or for a moment a preset on chosen material. Meter figures are plain objects that
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
  /** set while a preset is listened to instead of the session */
  const listening = shallowRef<{ preset: string; session: Session; track: Id } | null>(null);

  const nodes = new Map<Id, NodeMeter>();
  const slots = new Map<Id, { reduction: number; level: number }>();
  const scope: { before: Float32Array | null; after: Float32Array | null } = { before: null, after: null };

  let context: AudioContext | null = null;
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
    if (context?.sampleRate === s.sampleRate && node) { await context.resume(); return; }
    node?.disconnect();
    await context?.close();
    context = new AudioContext({ sampleRate: s.sampleRate, latencyHint: 'interactive' });
    await context.audioWorklet.addModule(workletUrl);
    node = new AudioWorkletNode(context, 'rope-shelf-engine', { numberOfInputs: 0, numberOfOutputs: 1, outputChannelCount: [2] });
    node.port.onmessage = (m: MessageEvent<FromEngine>) => heard(m.data);
    node.onprocessorerror = () => ui.say('The audio engine stopped. Press play to start it again.', 'error');
    node.connect(context.destination);
    await context.resume();
    sent = new Map();
    sentMedia = new Set();
    loadedMedia = new Set();
    if (scoped) post({ type: 'scope', slot: scoped });
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
      const figures = (id: Id, k: number) => { const v = m.values; const x = nodes.get(id) ?? { before: 0, left: 0, right: 0, rms: 0 }; x.before = v[k]; x.left = v[k + 1]; x.right = v[k + 2]; x.rms = v[k + 3]; nodes.set(id, x); };
      layout.nodes.forEach((id, i) => figures(id, i * PER_NODE));
      const at = layout.nodes.length * PER_NODE;
      layout.slots.forEach((id, i) => slots.set(id, { reduction: m.values[at + i * PER_SLOT], level: m.values[at + i * PER_SLOT + 1] }));
      scope.before = m.before;
      scope.after = m.after;
    }
  }

  /** Sends what changed of the session: tracks are compared by identity, so an edit of one track sends that one. */
  function sync(s: Session): void {
    if (!node) return;
    const { tracks, ...base } = s;
    const fresh = sent.size === 0;
    const changed = tracks.filter((t) => sent.get(t.id) !== t);
    sent = new Map(tracks.map((t) => [t.id, t]));
    post({ type: 'session', base, order: tracks.map((t) => t.id), changed: JSON.parse(JSON.stringify(changed)) as Track[], fresh });
    length.value = sessionLength(s);
    post({ type: 'loop', start: 0, end: Math.round(length.value * s.sampleRate) });
    for (const m of s.media) if (!sentMedia.has(m.id) && tracks.some((t) => t.clips.some((c) => c.media === m.id))) void bring(m.id, s.sampleRate);
  }

  async function bring(media: string, rate: number): Promise<void> {
    sentMedia.add(media);
    try {
      const s = await jobs.sound(media, rate);
      if (context?.sampleRate === rate) post({ type: 'sound', id: media, l: s.l, r: s.r }, [...new Set([s.l.buffer, s.r.buffer])]);
      loadedMedia.add(media);
    } catch (e) {
      sentMedia.delete(media);
      ui.fail(e);
    }
  }

  watch(source, (s, old) => {
    if (!s) { stop(); return; }
    if (!node || !context) { length.value = sessionLength(s); return; }
    if (context.sampleRate !== s.sampleRate) { const was = playing.value; stop(); node.disconnect(); node = null; if (was && old) void play(); return; }
    sync(s);
    if (compare.value && !compareHolds(s)) endCompare();
  });
  watch(() => session.id, () => { sent = new Map(); stop(); post({ type: 'seek', frame: 0 }); seconds.value = 0; listening.value = null; endCompare(); });

  async function play(): Promise<void> {
    const s = source.value;
    if (!s || starting.value) return;
    starting.value = true;
    try {
      await start(s);
      sync(s);
      const need = new Set(s.tracks.flatMap((t) => t.clips.map((c) => c.media)));
      // the first note is not played before its sound is there
      for (let i = 0; i < 1000 && ![...need].every((m) => loadedMedia.has(m) || !sentMedia.has(m)); i++) await new Promise((r) => setTimeout(r, 10));
      post({ type: 'play' });
      playing.value = moved = true;
    } catch (e) { ui.say(`Sound cannot start: ${(e as Error).message}`, 'error'); } finally { starting.value = false; }
  }

  function stop(): void {
    post({ type: 'stop' });
    playing.value = false;
    moved = true;
  }
  const toggle = () => { if (playing.value) stop(); else void play(); };
  function seek(s: number): void {
    seconds.value = Math.max(0, s);
    post({ type: 'seek', frame: Math.round(seconds.value * (context?.sampleRate ?? 48000)) });
  }

  /** Follows one device's input and output for the spectrum. */
  function watchSlot(slot: Id | null): void {
    scoped = slot;
    scope.before = scope.after = null;
    post({ type: 'scope', slot });
  }

  const compareHolds = (s: Session) => s.tracks.some((t) => t.id === compare.value!.track);

  /** Turns the comparison with/without on for a device or a whole line; measures both once, then each call switches between the two. */
  async function toggleCompare(track: Track, device: Id | null): Promise<void> {
    const s = source.value;
    if (!s) return;
    const bypass = device ? [device] : track.chain.map((d) => d.id);
    const same = compare.value && compare.value.track === track.id && compare.value.bypass.join() === bypass.join();
    if (same && compare.value!.match) { hear(!compare.value!.without); return; }
    if (bypass.length === 0) { ui.say(`“${track.name}” has no devices to compare.`); return; }
    endCompare();
    const c: Comparison = { scope: device ? 'device' : 'line', track: track.id, bypass, label: device ? track.chain.find((d) => d.id === device)!.name : track.name, match: null, without: false, busy: 0 };
    compare.value = c;
    matching = jobs.match({ session: s, track: track.id, bypass }, (p) => { if (compare.value?.busy !== null && compare.value?.bypass === bypass) compare.value = { ...compare.value, busy: p }; });
    try {
      const match = await matching.done;
      if (compare.value?.bypass !== bypass) return;
      compare.value = { ...c, match, busy: null };
      hear(true);
    } catch (e) { if (compare.value?.bypass === bypass) { endCompare(); ui.fail(e); } }
  }

  function hear(without: boolean): void {
    const c = compare.value;
    if (!c?.match) return;
    compare.value = { ...c, without };
    post({ type: 'audition', audition: without ? { bypass: [...c.bypass], gains: { [c.track]: c.match.gain } } : { bypass: [], gains: {} } });
  }

  function endCompare(): void {
    matching?.cancel();
    matching = null;
    if (compare.value) post({ type: 'audition', audition: { bypass: [], gains: {} } });
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

  return { playing, starting, seconds, length, latency, compare, listening, nodes, slots, scope, play, stop, toggle, seek, watchSlot, toggleCompare, hear, endCompare, listen, endListening };
});
