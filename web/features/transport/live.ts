import {
  framesFor,
  signalFor,
  type Device,
  type Id,
  type PrintedLine,
  type Session,
  type Taken,
} from '../../../core/index.ts';
import type { FromEngine, ToEngine } from '../../audio/messages.ts';
import { usePorts } from '../ports/index.ts';
import { Replaced, type makeEngine } from './engine.ts';

/** how often a loop is measured: repeats that disagree are told */
const REPEATS = 3;
/** ms beside its own length after which a measurement, or a recording, that says nothing has failed */
const PATIENCE = 8000;

type Measured = Extract<FromEngine, { type: 'measured' }>;
type Recorded = Extract<FromEngine, { type: 'recorded' }>;

type Engine = ReturnType<typeof makeEngine>;
interface Ways {
  /** starts the engine with a session; throws when it does not start */
  start: (s: Session) => Promise<void>;
  /** gives the open session another engine */
  renew: () => void;
  /** lets go of an engine that says nothing any more: the next start makes another */
  letGo: () => void;
}
type Measure = Extract<ToEngine, { type: 'measure' }>;

/** Starts the engine for something in real time. @throws in words that say what to do */
async function startFor(s: Session, start: Ways['start']): Promise<void> {
  try {
    await start(s);
  } catch (e) {
    const isGone = e instanceof Replaced;
    const why = isGone ? 'the interface went while it was opened. Try it again.' : (e as Error).message;
    throw new Error(`Sound cannot start: ${why}`, { cause: e });
  }
}

/** Measuring a loop over real ports. */
function makeMeasuring(engine: Engine, { start, renew, letGo }: Ways) {
  const ports = usePorts();
  let measured: ((m: Measured) => void) | null = null;

  /**
   * Plays the measuring signal out of a loop's send and keeps what comes back, several times.
   * @returns null where the loop is not meant to go over real ports
   * @throws when it is and they are not there, or when the engine stopped meanwhile
   */
  async function measure(s: Session, device: Device): Promise<Taken | null> {
    if (!ports.isConnected(s) || device.params.through === 'simulated') return null;
    await startFor(s, start);
    if (ports.isLive(s, device)) return await takes(s, device);
    const missing = ports.missing();
    if (missing) throw new Error(`${missing} Connect it again, then measure.`);
    return null;
  }
  /** The same in a studio that no open session is in. */
  async function measureApart(s: Session, device: Device): Promise<Taken | null> {
    engine.forget();
    try {
      return await measure(s, device);
    } finally {
      // the open session gets an engine of its own again
      engine.forget();
      renew();
    }
  }
  async function takes(s: Session, device: Device): Promise<Taken> {
    const map = ports.mapFor(s);
    const { sendPort, returnPort } = device.params;
    const [out, back] = [map.outs[String(sendPort)], map.ins[String(returnPort)]];
    if (!out || !back) throw new Error(`“${device.name}” is not connected to real ports.`);
    const { sampleRate } = s;
    const played = signalFor(out.length > 1 && back.length > 1, sampleRate);
    const frames = framesFor(played, sampleRate);
    // one signal goes out of both sides of a pair
    const sides = out.map((_, k) => played[k] ?? played[0]);
    const message: Measure = { type: 'measure', out, back: back.slice(0, played.length), sides, frames };
    const found: Measured[] = [];
    for (let n = 0; n < REPEATS; n++) found.push(await once(message, (frames * 1000) / sampleRate));
    const [{ ahead }] = found;
    return { sampleRate, buffer: ports.buffer!, ahead, played, takes: found.map((m) => m.sides) };
  }
  /** @param ms how long the signal lasts */
  function once(message: Measure, ms: number): Promise<Measured> {
    return new Promise((resolve, reject) => {
      const fail = () => {
        letGo();
        reject(new Error('The interface stopped while the loop was measured. Measure it again.'));
      };
      const timer = setTimeout(fail, ms + PATIENCE);
      measured = (m) => {
        clearTimeout(timer);
        resolve(m);
      };
      engine.post(message);
    });
  }
  return { measure, measureApart, took: (m: Measured) => measured?.(m) };
}

/** Keeping what a line plays while it plays. */
function makeRecording(engine: Engine, { start, letGo }: Ways) {
  let recorded: ((m: Recorded) => void) | null = null;
  let callOff: ((e: Error) => void) | null = null;

  /**
   * Plays the session from its start and keeps a line after its chain, as it is heard.
   * @param seconds how much of it
   * @throws when it was called off, or when the engine stopped meanwhile
   */
  async function record(
    s: Session,
    track: Id,
    seconds: number,
    onProgress: (share: number) => void,
  ): Promise<PrintedLine> {
    const frames = Math.round(seconds * s.sampleRate);
    const [l, r] = [new Float32Array(frames), new Float32Array(frames)];
    await startFor(s, start);
    await engine.ready(s);
    let timer = 0;
    await new Promise<void>((resolve, reject) => {
      callOff = reject;
      const fail = () => {
        letGo();
        reject(new Error('The interface stopped while it was recorded; nothing was kept. Print it again.'));
      };
      const wait = () => {
        window.clearTimeout(timer);
        timer = window.setTimeout(fail, PATIENCE);
      };
      wait();
      recorded = (m) => {
        wait();
        l.set(m.l, m.at);
        r.set(m.r, m.at);
        onProgress((m.at + m.l.length) / frames);
        if (m.isLast) resolve();
      };
      engine.post({ type: 'record', node: track, frames });
    }).finally(() => {
      window.clearTimeout(timer);
      callOff = recorded = null;
    });
    const name = s.tracks.find((t) => t.id === track)?.name ?? track;
    return { track, name: `${name}, printed`, l, r };
  }
  /** Ends a recording that is going on; nothing of it is kept. */
  function stop(): void {
    if (!callOff) return;
    engine.post({ type: 'stop-recording' });
    callOff(Object.assign(new Error('The print was stopped; nothing was kept.'), { code: 'cancelled' }));
  }
  return { record, stop, took: (m: Recorded) => recorded?.(m), fail: (e: Error) => callOff?.(e) };
}

/** What happens in real time over real ports. */
export function makeLive(engine: Engine, ways: Ways) {
  const measuring = makeMeasuring(engine, ways);
  const recording = makeRecording(engine, ways);

  /** Takes what the engine says about both. */
  function take(message: FromEngine): void {
    if (message.type === 'measured') measuring.took(message);
    if (message.type === 'recorded') recording.took(message);
    if (message.type === 'refused') recording.fail(new Error(message.message));
  }
  return {
    take,
    measure: measuring.measure,
    measureApart: measuring.measureApart,
    record: recording.record,
    stopRecording: recording.stop,
  };
}
