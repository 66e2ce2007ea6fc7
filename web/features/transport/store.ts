import { defineStore } from 'pinia';
import { computed, ref, shallowRef, watch, type Ref } from 'vue';
import type { Id, Session } from '../../../core/index.ts';
import type { FromEngine, ToEngine } from '../../audio/messages.ts';
import { useSession } from '../../document/doc.ts';
import { useUi } from '../../ui/window.ts';
import { makeComparing } from './comparing.ts';
import { makeEngine } from './engine.ts';
import { makeMeters } from './meters.ts';

export type { Comparison } from './comparing.ts';
export type { NodeMeter } from './meters.ts';

/** What plays: where the song is, and whether it moves. */
function makeTransport(heard: (message: FromEngine) => void, settings: () => ToEngine[]) {
  const ui = useUi();
  const playing = ref(false);
  const starting = ref(false);
  const seconds = ref(0);
  /** set while the engine has not yet answered to a press: what it says until then is of before */
  let moved = false;
  const engine = makeEngine(settings, (message, rate) => {
    if (message.type !== 'layout' && message.type !== 'refused') {
      seconds.value = message.position / rate;
      if (!moved) playing.value = message.playing;
      moved = false;
    }
    heard(message);
  });

  /** Starts the engine with a session, and does something with it. */
  async function withSound(s: Session, task: () => void | Promise<void>): Promise<void> {
    try {
      await engine.start(s);
      engine.sync(s);
      await task();
    } catch (e) {
      ui.say(`Sound cannot start: ${(e as Error).message}`, 'error');
    }
  }
  async function play(s: Session | null): Promise<void> {
    if (!s || starting.value) return;
    starting.value = true;
    await withSound(s, async () => {
      await engine.ready(s);
      engine.post({ type: 'play' });
      playing.value = moved = true;
    });
    starting.value = false;
  }
  function stop(): void {
    engine.post({ type: 'stop' });
    playing.value = false;
    moved = true;
  }
  function seek(to: number): void {
    seconds.value = Math.max(0, to);
    engine.post({ type: 'seek', frame: Math.round(seconds.value * (engine.rate() ?? 48000)) });
  }
  return { playing, starting, seconds, engine, withSound, play, stop, seek };
}

type Transport = ReturnType<typeof makeTransport>;

/** Keeps the engine with what is to play: edits, another session, another rate. */
function follow(
  source: Ref<Session | null>,
  listening: Ref<Listening | null>,
  { playing, play, stop, seek, engine }: Transport,
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
      const was = playing.value;
      stop();
      engine.remove();
      if (was && old) void play(s);
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
  const latency = ref(0);
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
  ]);
  const { playing, starting, seconds, stop, seek, engine } = transport;
  const { post, length } = engine;
  const comparing = makeComparing(source, post);
  const { holds: _holds, ...compared } = comparing;
  follow(source, listening, transport, comparing);

  function heard(message: FromEngine): void {
    if (message.type === 'refused') {
      ui.say(message.message, 'error');
    } else if (message.type === 'layout') {
      laidOut(message);
      latency.value = message.latency;
    } else {
      take(message);
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
    latency,
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
  };
});
