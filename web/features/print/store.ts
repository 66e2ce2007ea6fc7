import { defineStore } from '../../ui/store.ts';
import { computed, ref, watch, type Ref } from 'vue';
import {
  RING,
  loopsOfSession,
  sessionLength,
  setHardware,
  setParams,
  unprint,
  upstream,
  withLinePrint,
  type Device,
  type Id,
  type PrintedLine,
  type Session,
  type Track,
} from '../../../core/index.ts';
import { isCancelled, jobs, plain, type Running } from '../../audio/jobs.ts';
import { keepPrinted } from '../../audio/keep.ts';
import { useSession } from '../../document/doc.ts';
import { useUi } from '../../ui/window.ts';
import { usePorts } from '../ports/index.ts';
import { useAudio } from '../transport/index.ts';

/** share of a print that rendering takes; the rest is keeping the sounds */
const RENDER = 0.8;

type Busy = { what: string; share: number } | null;

/**
 * Measures the real loops that a line's sound passes and counts on what was found: browsers take another time after
 * each opening of an interface.
 */
async function measureLoops(s: Session, track: Id): Promise<void> {
  const [session, audio, ports, ui] = [useSession(), useAudio(), usePorts(), useUi()];
  const loops = loopsOfSession(upstream(s, track)).filter((l) => ports.isLive(s, l.device));
  for (const { track: line, device } of loops) {
    const taken = await audio.measureLive(s, device);
    if (!taken) throw new Error(`“${device.name}” is not on the ports any more; nothing was printed.`);
    const { now } = await jobs.realLoop(device, taken).done;
    const roundTrip = Math.round((now.delay * 1e6) / s.sampleRate) / 1000;
    const use = device.hardware ?? { units: [], measured: null };
    session.edit('Round trip as measured', (x) =>
      setParams(line.id, device.id, { roundTrip })(
        setHardware(line.id, device.id, { ...use, measured: now })(x),
      ),
    );
    const unsteady = now.faults.find((fault) => fault.includes('disagree'));
    if (unsteady) {
      ui.say(`“${device.name}”: ${unsteady}. The computer is busy; the print may lie a little off.`);
    }
  }
}

/** Opens the interface that a session's loops are connected to; until then they would pass for simulated. */
async function openLoops(s: Session): Promise<void> {
  const ports = usePorts();
  const isWanted = ports.isConnected(s) && loopsOfSession(s).length > 0;
  if (isWanted && !ports.isOpen) await useAudio().wake();
}
/** What passes a loop over real ports is not printed simulated without a word. @throws when they are not there */
function holdLoops(s: Session, tracks: readonly Id[] = s.tracks.map((t) => t.id)): void {
  const ports = usePorts();
  const isMeant = ({ device }: { device: Device }) => device.params.through !== 'simulated';
  const missing = ports.isConnected(s) ? ports.missing() : '';
  if (!missing || !tracks.some((id) => loopsOfSession(upstream(s, id)).some(isMeant))) return;
  throw new Error(
    `${missing} Connect it again, or let the loops be always simulated, then print; nothing was printed.`,
  );
}

/** Renders lines: faster than they sound, or in real time where a real loop is on the way. */
function makeRendering(busy: Ref<Busy>) {
  const ui = useUi();
  const session = useSession();
  const audio = useAudio();
  const ports = usePorts();
  let job: Running<PrintedLine[]> | null = null;
  let isStopped = false;

  /** The lines whose sound passes a loop over real ports: they can only be printed as long as they sound. */
  const inRealTime = (s: Session, tracks: readonly Id[]): Id[] =>
    ports.isOpen
      ? tracks.filter((id) => loopsOfSession(upstream(s, id)).some((l) => ports.isLive(s, l.device)))
      : [];

  /** @throws when the print was stopped, or the session left */
  function goOn(): void {
    if (isStopped) throw stopped();
  }
  async function render(s: Session, tracks: readonly Id[], what: string): Promise<PrintedLine[]> {
    goOn();
    holdLoops(s, tracks);
    const live = inRealTime(s, tracks);
    const rest = tracks.filter((id) => !live.includes(id));
    const parts = live.length + (rest.length ? 1 : 0);
    const tell = (done: number, share: number) => {
      busy.value = { what, share: (RENDER * (done + share)) / parts };
    };
    const out: PrintedLine[] = [];
    if (rest.length) {
      job = jobs.printLines(plain(s), [...rest], (share) => tell(0, share));
      out.push(...(await job.done));
      job = null;
    }
    for (const id of live) {
      const done = parts - live.length + live.indexOf(id);
      await measureLoops(s, id);
      goOn();
      const gaps = audio.dropouts;
      out.push(
        await audio.recordLine(session.doc!, id, sessionLength(s) + RING, (share) => tell(done, share)),
      );
      tellGaps(audio.dropouts - gaps);
    }
    goOn();
    return out;
  }
  function tellGaps(gaps: number): void {
    if (gaps <= 0) return;
    const times = gaps === 1 ? 'once' : `${gaps} times`;
    ui.say(
      `The computer came too late ${times} while this was printed in real time: listen to it, or print it again.`,
    );
  }
  function begin(): void {
    isStopped = false;
  }
  function stop(): void {
    isStopped = true;
    job?.cancel();
    audio.stopRecording();
  }
  // what is printed belongs to the session that was open when it began
  watch(() => session.id, stop);
  return { inRealTime, render, begin, goOn, stop };
}

const stopped = () => Object.assign(new Error('The print was stopped.'), { code: 'cancelled' });

/** Printing lines with their chains to audio, and the way back. */
export const usePrint = defineStore('print', () => {
  const session = useSession();
  const ui = useUi();
  const busy = ref<Busy>(null);
  const isBusy = computed(() => busy.value !== null);
  const rendering = makeRendering(busy);

  /** Prints lines, keeps the sounds in the database and puts them on the lines. @returns whether it was done */
  async function print(tracks: readonly Id[]): Promise<boolean> {
    const s = session.doc;
    if (!s || isBusy.value) return false;
    const what = `Printing ${tracks.length === 1 ? session.nameOf(tracks[0]) : `${tracks.length} lines`}`;
    busy.value = { what, share: 0 };
    rendering.begin();
    try {
      await openLoops(s);
      const lines = await rendering.render(s, tracks, what);
      return await put(s, lines, what);
    } catch (e) {
      if (isCancelled(e)) ui.say('The print was stopped; nothing was changed.');
      else ui.fail(e);
      return false;
    } finally {
      busy.value = null;
    }
  }
  /**
   * A session as it is printed on the server: lines whose loops are real were played through them first.
   * @returns null when that was stopped
   */
  async function playedThrough(s: Session, tracks: readonly Id[]): Promise<Session | null> {
    busy.value = { what: 'Playing through the real loops', share: 0 };
    rendering.begin();
    try {
      const lines = await rendering.render(s, tracks, busy.value.what);
      let out = plain(session.doc ?? s);
      for (const line of lines) out = withLinePrint(out, line.track, await keepPrinted(line, s));
      rendering.goOn();
      return out;
    } catch (e) {
      if (!isCancelled(e)) throw e;
      return null;
    } finally {
      busy.value = null;
    }
  }
  async function put(s: Session, lines: readonly PrintedLine[], what: string): Promise<boolean> {
    const kept: { track: Id; ref: Awaited<ReturnType<typeof keepPrinted>> }[] = [];
    for (const [k, line] of lines.entries()) {
      busy.value = { what, share: RENDER + ((1 - RENDER) * k) / lines.length };
      kept.push({ track: line.track, ref: await keepPrinted(line, s) });
    }
    rendering.goOn();
    // the session may have changed while it was rendered: what is printed is put where it belongs now
    const isDone = session.edit(what.replace('Printing', 'Print'), (now) =>
      kept.reduce((x, { track, ref: sound }) => withLinePrint(x, track, sound), now),
    );
    const undo = session.undoing();
    const said = kept.length === 1 ? 'The line is' : `${kept.length} lines are`;
    if (isDone) ui.say(`${said} printed; the chain sleeps until it is restored.`, 'done', [undo]);
    return isDone;
  }
  function restore(lines: readonly Track[]): void {
    const names = lines.length === 1 ? lines[0].name : `${lines.length} lines`;
    session.edit(`Restore ${names}`, (s) => lines.reduce((x, { id }) => unprint(x, { track: id }), s));
  }
  const { inRealTime, stop } = rendering;
  return { busy, isBusy, inRealTime, openLoops, holdLoops, print, playedThrough, stop, restore };
});
