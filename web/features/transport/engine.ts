import { ref } from 'vue';
import { devicesIn, sessionLength, type Id, type Session, type Track } from '../../../core/index.ts';
import workletUrl from '../../audio/engine.worklet.ts?worker&url';
import { jobs } from '../../audio/jobs.ts';
import type { FromEngine, ToEngine } from '../../audio/messages.ts';
import { useUi } from '../../ui/window.ts';

/**
 * A small session answers at once; a large one gets a longer buffer (seconds), so that what else the machine
 * does makes no gap.
 */
function roomFor(s: Session): 'interactive' | number {
  const devices = s.tracks.reduce((n, t) => n + devicesIn(t.chain).length, 0);
  if (devices > 120) return 0.08;
  return devices > 60 ? 0.04 : 'interactive';
}

/** frames of a block of the browser's audio thread (Web Audio API) */
const QUANTUM = 128;
/** ms between two looks whether the sounds are there, and how often is looked */
const LOOK_EVERY = 10;
const LOOKS = 1000;

/** Chromium counts the gaps in what was heard. */
type Counting = AudioContext & { playbackStats?: { underrunEvents: number } };

/**
 * The engine in the browser's audio thread, and what it was sent.
 * @param settings what a fresh engine is told first
 * @param heard is told everything that the engine says
 */
export function makeEngine(settings: () => ToEngine[], heard: (message: FromEngine, rate: number) => void) {
  const ui = useUi();
  /** s of the session that plays */
  const length = ref(0);
  let context: AudioContext | null = null;
  let node: AudioWorkletNode | null = null;
  let room: ReturnType<typeof roomFor> = 'interactive';
  let sent = new Map<Id, Track>();

  const post = (message: ToEngine, transfer: Transferable[] = []) =>
    node?.port.postMessage(message, transfer);

  const sounds = makeSounds(post, () => context?.sampleRate ?? null);

  /** Starts the engine, or wakes it; another rate or size of session needs another one. */
  async function start(s: Session): Promise<void> {
    if (context?.sampleRate === s.sampleRate && node && roomFor(s) === room) {
      await context.resume();
      return;
    }
    node?.disconnect();
    await context?.close();
    room = roomFor(s);
    context = new AudioContext({ sampleRate: s.sampleRate, latencyHint: room });
    await context.audioWorklet.addModule(workletUrl);
    node = new AudioWorkletNode(context, 'rope-shelf-engine', {
      numberOfInputs: 0,
      numberOfOutputs: 1,
      outputChannelCount: [2],
      processorOptions: { together: Math.ceil((context.baseLatency * s.sampleRate) / QUANTUM) },
    });
    node.port.onmessage = (m: MessageEvent<FromEngine>) => heard(m.data, context!.sampleRate);
    node.onprocessorerror = () => ui.say('The audio engine stopped. Press play to start it again.', 'error');
    node.connect(context.destination);
    await context.resume();
    sent = new Map();
    sounds.forget();
    settings().forEach((message) => post(message));
  }

  /** Sends what changed of the session: tracks are compared by identity. */
  function sync(s: Session): void {
    length.value = sessionLength(s);
    if (!node) return;
    const { tracks, ...base } = s;
    const fresh = sent.size === 0;
    const changed = tracks.filter((t) => sent.get(t.id) !== t);
    sent = new Map(tracks.map((t) => [t.id, t]));
    const order = tracks.map((t) => t.id);
    // what the stores hold are proxies, which cannot be posted
    const plain = JSON.parse(JSON.stringify(changed)) as Track[];
    post({ type: 'session', base, order, changed: plain, fresh });
    post({ type: 'loop', start: 0, end: Math.round(length.value * s.sampleRate) });
    sounds.bring(s);
  }

  return {
    length,
    post,
    start,
    sync,
    ready: sounds.ready,
    /** what was sent counts no more: the next session goes out whole */
    forget: () => {
      sent = new Map();
    },
    /** Hz of the engine; null as long as there is none */
    rate: () => (node && context ? context.sampleRate : null),
    /** takes the engine away; the next start makes another */
    remove: () => {
      node?.disconnect();
      node = null;
    },
    underruns: () => (context as Counting | null)?.playbackStats?.underrunEvents ?? null,
  };
}

/** The sounds that the engine was sent: each once, at the engine's own rate. */
function makeSounds(
  post: (message: ToEngine, transfer: Transferable[]) => void,
  rateNow: () => number | null,
) {
  const ui = useUi();
  let asked = new Set<string>();
  let there = new Set<string>();

  async function fetchSound(media: string, rate: number): Promise<void> {
    asked.add(media);
    try {
      const { l, r } = await jobs.sound(media, rate);
      if (rateNow() === rate) {
        post({ type: 'sound', id: media, l, r }, [...new Set([l.buffer, r.buffer])]);
      }
      there.add(media);
    } catch (e) {
      asked.delete(media);
      ui.fail(e);
    }
  }
  function bring(s: Session): void {
    for (const media of mediaOf(s)) if (!asked.has(media)) void fetchSound(media, s.sampleRate);
  }
  /** The first note is not played before its sound is there. */
  async function ready(s: Session): Promise<void> {
    const needed = mediaOf(s);
    const isMissing = () => needed.some((media) => asked.has(media) && !there.has(media));
    for (let look = 0; look < LOOKS && isMissing(); look++) {
      await new Promise((resolve) => setTimeout(resolve, LOOK_EVERY));
    }
  }
  function forget(): void {
    asked = new Set();
    there = new Set();
  }
  return { bring, ready, forget };
}

/** Sounds of the session that some line plays. */
function mediaOf(s: Session): string[] {
  const played = new Set(s.tracks.flatMap((t) => t.clips.map((clip) => clip.media)));
  return s.media.map((m) => m.id).filter((id) => played.has(id));
}
