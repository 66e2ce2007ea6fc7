import { ref } from 'vue';
import {
  devicesIn,
  sessionLength,
  soundsIn,
  spaceOf,
  type Id,
  type Session,
  type Track,
} from '../../../core/index.ts';
import workletUrl from '../../audio/engine.worklet.ts?worker&url';
import { jobs } from '../../audio/jobs.ts';
import type { FromEngine, ToEngine } from '../../audio/messages.ts';
import { useUi } from '../../ui/window.ts';
import { usePorts, type Sink } from '../ports/index.ts';

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
/** Where a context plays (Web Audio API; the types that ship with TypeScript do not know it yet). */
type Placed = AudioContextOptions & { sinkId?: Sink };

/**
 * The engine in the browser's audio thread, and what it was sent.
 * @param settings what a fresh engine is told first
 * @param heard is told everything that the engine says
 * @param lost is told when the output went
 */
export function makeEngine(
  settings: () => ToEngine[],
  heard: (message: FromEngine, rate: number) => void,
  lost: () => void,
) {
  const ui = useUi();
  /** s of the session that plays */
  const length = ref(0);
  const output = makeOutput(lost);
  let node: AudioWorkletNode | null = null;
  let room: ReturnType<typeof roomFor> = 'interactive';
  let sent = new Map<Id, Track>();
  /** which interface it was made for */
  let portsKey = '';
  const ports = usePorts();

  const post = (message: ToEngine, transfer: Transferable[] = []) =>
    node?.port.postMessage(message, transfer);

  const channels = makeChannels((message) => node && post(message));
  const sounds = makeSounds(post, () => output.context?.sampleRate ?? null);

  /**
   * Starts the engine, or wakes it; another rate or size of session, or another interface, needs another one.
   * @returns whether it is a new one
   */
  async function start(s: Session): Promise<boolean> {
    const key = ports.keyOf(s);
    const isThere = output.context?.sampleRate === s.sampleRate && node;
    if (isThere && roomFor(s) === room && key === portsKey) {
      await output.begins();
      return false;
    }
    remove();
    output.close();
    room = roomFor(s);
    portsKey = key;
    channels.forget();
    const opened = await ports.openFor(s);
    const options: Placed = { sampleRate: s.sampleRate, latencyHint: room };
    const made = output.open(opened ? { ...options, sinkId: opened.sink } : options);
    await made.audioWorklet.addModule(workletUrl);
    node = makeNode(made, opened ? ports.attach(made) : { outs: 2, input: null });
    listenTo(node, (message, from) => from === node && heard(message, made.sampleRate));
    node.onprocessorerror = () => ui.fail('The audio engine stopped. Press play to start it again.', 'sound');
    await output.begins();
    sent = new Map();
    sounds.forget();
    settings().forEach((message) => post(message));
    return true;
  }
  function remove(): void {
    node?.disconnect();
    node = null;
  }
  /** Sends what changed of the session: tracks are compared by identity. */
  function sync(s: Session): void {
    length.value = sessionLength(s);
    if (!node) return;
    channels.tell(s);
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
    tellPorts: channels.tell,
    ready: sounds.ready,
    /** sends the sounds that tracks play with which are not of the session */
    bringFor: sounds.bringFor,
    /** what was sent counts no more: the next session goes out whole */
    forget: () => {
      sent = new Map();
    },
    /** Hz of the engine; null as long as there is none */
    rate: () => (node && output.context ? output.context.sampleRate : null),
    /** takes the engine away; the next start makes another */
    remove,
    /** the same with one that says nothing any more */
    letGo: () => {
      remove();
      output.close();
    },
    underruns: () => (output.context as Counting | null)?.playbackStats?.underrunEvents ?? null,
  };
}

/** Tells the engine which channels of the interface carry which ports, where that changed. */
function makeChannels(post: (message: ToEngine) => void) {
  const ports = usePorts();
  let told = '';
  function tell(s: Session): void {
    const map = ports.mapFor(s);
    const text = JSON.stringify(map);
    if (text === told) return;
    told = text;
    post({ type: 'ports', map });
  }
  const forget = () => {
    told = '';
  };
  return { tell, forget };
}

/** A start that another one takes the place of: nothing to be told. */
export class Replaced extends Error {}

/** ms after which an output that does not begin is taken for one that never will */
const TO_BEGIN = 15000;

/** The context that the engine plays in. @param lost is told when the one that is there loses its output */
function makeOutput(lost: () => void) {
  const its = {
    context: null as AudioContext | null,
    failed: new Promise<never>(() => {}),
    open(options: Placed): AudioContext {
      const made = new AudioContext(options);
      its.context = made;
      its.failed = failureOf(made);
      its.failed.catch(() => {
        if (its.context === made) lost();
      });
      return made;
    },
    /** What becomes of it afterwards concerns nobody. */
    close(): void {
      // one whose output was unplugged may take its time
      void its.context?.close().catch(() => undefined);
      its.context = null;
    },
    /** Waits until it runs. @throws when its output goes meanwhile, or does not begin: the next start makes another */
    async begins(): Promise<void> {
      let timer = 0;
      const late = new Promise<never>((_resolve, reject) => {
        timer = window.setTimeout(() => {
          its.close();
          reject(new Error('the output of this computer does not begin. Try it again.'));
        }, TO_BEGIN);
      });
      try {
        // where the output went meanwhile it would never begin
        await Promise.race([its.context?.resume(), its.failed, late]);
      } finally {
        window.clearTimeout(timer);
      }
    },
  };
  return its;
}

/** Fails as soon as the context loses its output. */
function failureOf(context: AudioContext): Promise<never> {
  const failed = new Promise<never>((_resolve, reject) => {
    context.addEventListener('error', () => reject(new Replaced()));
  });
  failed.catch(() => undefined);
  return failed;
}

/** The engine's node between what comes in and the output of a context. */
function makeNode(context: AudioContext, { outs, input }: { outs: number; input: AudioNode | null }) {
  const node = new AudioWorkletNode(context, 'rope-shelf-engine', {
    numberOfInputs: 1,
    numberOfOutputs: 1,
    outputChannelCount: [outs],
    channelInterpretation: 'discrete',
    processorOptions: { together: Math.ceil((context.baseLatency * context.sampleRate) / QUANTUM) },
  });
  input?.connect(node);
  node.connect(context.destination);
  return node;
}

/** @param heard is told who says it: one that another took the place of has nothing to say any more */
function listenTo(
  node: AudioWorkletNode,
  heard: (message: FromEngine, from: AudioWorkletNode) => void,
): void {
  node.port.onmessage = (m: MessageEvent<FromEngine>) => heard(m.data, node);
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
  function bringAll(ids: readonly string[], rate: number): void {
    for (const media of ids) if (!asked.has(media)) void fetchSound(media, rate);
  }
  function bringFor(tracks: readonly Pick<Track, 'clips' | 'chain'>[]): void {
    const rate = rateNow();
    if (rate !== null) bringAll([...soundsIn(tracks)], rate);
  }
  const bring = (s: Session): void => bringAll(mediaOf(s), s.sampleRate);
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
  return { bring, bringFor, ready, forget };
}

/** Sounds of the session, and of ours, that some line plays. */
function mediaOf(s: Session): string[] {
  const there = new Set(s.media.map((m) => m.id));
  return [...soundsIn(s.tracks)].filter((id) => there.has(id) || spaceOf(id));
}
