import { defineStore } from '../../ui/store.ts';
import { computed, ref, shallowRef, watch, type Ref } from 'vue';
import type { Id, Session } from '../../../core/index.ts';
import type { FromEngine, ToEngine } from '../../audio/messages.ts';
import { useSession } from '../../document/doc.ts';
import { useUi } from '../../ui/window.ts';
import { makeComparing } from './comparing.ts';
import { usePorts } from '../ports/index.ts';
import { Replaced, makeEngine } from './engine.ts';
import { makeLive } from './live.ts';
import { makeMeters } from './meters.ts';

export type { Comparison } from './comparing.ts';
export type { NodeMeter } from './meters.ts';

/** Starts an engine with a session. @param seconds where the song is @throws when it does not start */
async function startAt(engine: ReturnType<typeof makeEngine>, s: Session, seconds: number): Promise<void> {
  const isNew = await engine.start(s);
  engine.sync(s);
  // a new engine stands at the beginning
  if (isNew && seconds > 0) engine.post({ type: 'seek', frame: Math.round(seconds * s.sampleRate) });
}

/** What plays: where the song is, and whether it moves. */
function makeTransport(heard: (message: FromEngine) => void, settings: () => ToEngine[]) {
  const ui = useUi();
  const ports = usePorts();
  const playing = ref(false);
  const starting = ref(false);
  const seconds = ref(0);
  /** what was asked for last: whatever happens to the engine, it goes on with that */
  let isMeant = false;
  let begun = Promise.resolve();
  /** set while the engine has not yet answered to a press: what it says until then is of before */
  let moved = false;
  const engine = makeEngine(
    settings,
    (message, rate) => {
      if (message.type === 'meters') {
        seconds.value = message.position / rate;
        // until the engine was told to play it says that it stands, which nobody asked for
        if (!moved && !starting.value) playing.value = isMeant = message.playing;
        moved = false;
      }
      heard(message);
    },
    lost,
  );

  const start = (s: Session) => startAt(engine, s, seconds.value);
  /** Starts the engine with a session, and does something with it; what goes wrong is told. */
  async function withSound(s: Session, task: () => void | Promise<void>): Promise<void> {
    try {
      await start(s);
      await task();
      ui.settle('sound');
    } catch (e) {
      if (!(e instanceof Replaced)) ui.fail(`Sound cannot start: ${(e as Error).message}`, 'sound');
    }
  }
  async function play(s: Session | null): Promise<void> {
    isMeant = s !== null;
    if (!s || starting.value) return;
    starting.value = true;
    begun = withSound(s, async () => {
      await engine.ready(s);
      engine.post({ type: 'play' });
      playing.value = moved = true;
    });
    await begun;
    starting.value = false;
  }
  function stop(): void {
    isMeant = false;
    engine.post({ type: 'stop' });
    playing.value = false;
    moved = true;
  }
  function seek(to: number): void {
    seconds.value = Math.max(0, to);
    engine.post({ type: 'seek', frame: Math.round(seconds.value * (engine.rate() ?? 48000)) });
  }
  /** Another engine in the place of this one, which goes on where this one was. */
  function renew(s: Session | null): void {
    const goesOn = isMeant;
    engine.remove();
    // a start that is under way ends first
    void begun.then(() => {
      playing.value = starting.value = false;
      if (goesOn) void play(s);
    });
  }
  /** The output went: another one is tried as long as there is one. */
  function lost(): void {
    if (ports.contextFailed()) {
      ports.renew();
      return;
    }
    letGo();
    ui.fail(
      'Nothing can be heard: this computer has no output any more. Plug one in and press play.',
      'sound',
    );
  }
  function letGo(): void {
    stop();
    engine.letGo();
  }
  return { playing, starting, seconds, engine, start, withSound, play, stop, seek, renew, letGo };
}

type Transport = ReturnType<typeof makeTransport>;

/** Keeps the engine with what is to play: edits, another session, another rate. */
function follow(
  source: Ref<Session | null>,
  listening: Ref<Listening | null>,
  { stop, seek, renew, engine }: Transport,
  { compare, holds, endCompare }: ReturnType<typeof makeComparing>,
): void {
  const session = useSession();
  watch(source, (s, old) => {
    if (!s) {
      stop();
      return;
    }
    const rate = engine.rate();
    if (rate !== null && rate !== s.sampleRate) {
      if (!old) stop();
      renew(s);
      return;
    }
    engine.sync(s);
    if (compare.value && !holds(s)) endCompare();
  });
  watch(
    () => session.id,
    () => {
      engine.forget();
      stop();
      seek(0);
      listening.value = null;
      endCompare();
    },
  );
}

/** Leads loops to the interface that is connected, and tells the engine when that changes. */
function followPorts(source: Ref<Session | null>, { engine, renew }: Transport): void {
  const ports = usePorts();
  ports.onChange(() => renew(source.value));
  watch(
    () => [ports.open, ports.isOutputLost],
    () => {
      if (source.value) engine.tellPorts(source.value);
    },
  );
}

/** A preset that is listened to on chosen material, instead of the session. */
interface Listening {
  preset: string;
  session: Session;
  track: Id;
}

/** Begins and ends to play something else than the session. */
function makeListening(listening: Ref<Listening | null>, transport: Transport, endCompare: () => void) {
  async function listen(preset: string, session: Session, track: Id): Promise<void> {
    endCompare();
    transport.engine.forget();
    listening.value = { preset, session, track };
    transport.seek(0);
    await transport.play(session);
  }
  function endListening(): void {
    if (!listening.value) return;
    transport.stop();
    endCompare();
    transport.engine.forget();
    listening.value = null;
  }
  return { listen, endListening };
}

/**
 * The live engine as the page sees it: transport, meters and comparisons. It plays the open session, or for a
 * moment a preset on chosen material.
 */
export const useAudio = defineStore('audio', () => {
  const session = useSession();
  const ui = useUi();
  const mono = ref(false);
  /** gaps in what was heard, as the browser counts them; where it does not count, callbacks that came late */
  const dropouts = ref(0);
  /** set while a preset is listened to instead of the session */
  const listening = shallowRef<Listening | null>(null);
  const source = computed(() => listening.value?.session ?? session.doc);
  const { laidOut, take, clearScope, ...meters } = makeMeters();
  let scoped: Id | null = null;

  const transport = makeTransport(heard, () => [
    ...(scoped ? [{ type: 'scope' as const, slot: scoped }] : []),
    ...(mono.value ? [{ type: 'mono' as const, on: true }] : []),
    { type: 'audition' as const, audition: comparing.auditionNow() },
  ]);
  const { playing, starting, seconds, stop, seek, engine } = transport;
  const { post, length } = engine;
  const comparing = makeComparing(source, { post, bring: engine.bringFor, now: () => seconds.value });
  const { holds: _holds, auditionNow: _now, ...compared } = comparing;
  follow(source, listening, transport, comparing);
  followPorts(source, transport);
  const live = makeLive(engine, {
    start: transport.start,
    renew: () => transport.renew(source.value),
    letGo: transport.letGo,
  });
  const ports = usePorts();

  function heard(message: FromEngine): void {
    live.take(message);
    if (message.type === 'refused') {
      ui.say(message.message, 'error');
    } else if (message.type === 'layout') {
      laidOut(message);
    } else if (message.type === 'meters') {
      take(message);
      if (source.value) ports.take(source.value, message.ports);
      dropouts.value = engine.underruns() ?? message.late;
    }
  }

  const play = () => transport.play(source.value);
  const toggle = () => {
    if (playing.value) stop();
    else void play();
  };
  /** Strikes one part of an instrument; starts the engine for it when it stands. */
  async function hit(slot: Id, part: number, velocity = 110): Promise<void> {
    if (source.value) {
      await transport.withSound(source.value, () => post({ type: 'hit', slot, part, velocity }));
    }
  }
  /** Follows one device's input and output for the spectrum. */
  function watchSlot(slot: Id | null): void {
    scoped = slot;
    clearScope();
    post({ type: 'scope', slot });
  }
  watch(mono, (on) => post({ type: 'mono', on }));
  const resetMeters = () => post({ type: 'reset-meters' });

  return {
    ...meters,
    ...compared,
    ...makeListening(listening, transport, comparing.endCompare),
    playing,
    starting,
    seconds,
    length,
    mono,
    dropouts,
    listening,
    play,
    stop,
    toggle,
    seek,
    hit,
    watchSlot,
    resetMeters,
    /** the engine, started without playing: what is connected is open then */
    wake: () => (source.value ? transport.withSound(source.value, () => {}) : Promise.resolve()),
    measureLive: live.measure,
    measureApart: live.measureApart,
    recordLine: live.record,
    stopRecording: live.stopRecording,
  };
});
