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
import type { makeEngine } from './engine.ts';

/** how often a loop is measured: repeats that disagree are told */
const REPEATS = 3;
/** ms beside its own length after which a measurement that says nothing has failed */
const PATIENCE = 8000;

type Measured = Extract<FromEngine, { type: 'measured' }>;
type Recorded = Extract<FromEngine, { type: 'recorded' }>;

type Engine = ReturnType<typeof makeEngine>;
type WithSound = (s: Session, task: () => void | Promise<void>) => Promise<void>;
type Measure = Extract<ToEngine, { type: 'measure' }>;

/** Measuring a loop over real ports. */
function makeMeasuring(engine: Engine, withSound: WithSound, renew: () => void) {
  const ports = usePorts();
  let measured: ((m: Measured) => void) | null = null;

  /**
   * Plays the measuring signal out of a loop's send and keeps what comes back, several times.
   * @throws when the ports are not connected, or the engine stopped meanwhile
   */
  async function measure(s: Session, device: Device): Promise<Taken> {
    let taken: Taken | null = null;
    await withSound(s, async () => {
      taken = await takes(s, device);
    });
    if (!taken) throw new Error('The engine did not start, so that nothing could be measured.');
    return taken;
  }
  /** The same in a studio that no open session is in; null where its ports do not reach the loop. */
  async function measureApart(s: Session, device: Device): Promise<Taken | null> {
    let taken: Taken | null = null;
    engine.forget();
    await withSound(s, async () => {
      if (ports.isLive(s, device)) taken = await takes(s, device);
    });
    // the open session gets an engine of its own again
    engine.forget();
    renew();
    return taken;
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
      const fail = () =>
        reject(new Error('The interface stopped while the loop was measured. Measure it again.'));
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
function makeRecording(engine: Engine, withSound: WithSound) {
  let recorded: ((m: Recorded) => void) | null = null;
  let callOff: ((e: Error) => void) | null = null;

  /**
   * Plays the session from its start and keeps a line after its chain, as it is heard.
   * @param seconds how much of it
   * @throws when it was called off
   */
  async function record(
    s: Session,
    track: Id,
    seconds: number,
    onProgress: (share: number) => void,
  ): Promise<PrintedLine> {
    const frames = Math.round(seconds * s.sampleRate);
    const [l, r] = [new Float32Array(frames), new Float32Array(frames)];
    await withSound(s, () => engine.ready(s));
    await new Promise<void>((resolve, reject) => {
      callOff = reject;
      recorded = (m) => {
        l.set(m.l, m.at);
        r.set(m.r, m.at);
        onProgress((m.at + m.l.length) / frames);
        if (m.isLast) resolve();
      };
      engine.post({ type: 'record', node: track, frames });
    }).finally(() => {
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

/**
 * What happens in real time over real ports.
 * @param renew gives the open session another engine
 */
export function makeLive(engine: Engine, withSound: WithSound, renew: () => void) {
  const measuring = makeMeasuring(engine, withSound, renew);
  const recording = makeRecording(engine, withSound);

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
