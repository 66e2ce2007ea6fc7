import { Renderer } from '../engine/renderer.ts';
import { drive, sessionLength } from '../engine/offline.ts';
import type { Sound } from '../engine/sound.ts';
import type { Session } from '../model/types.ts';
import { measureTake, type TakeLevel } from './takes.ts';
import { truePeak } from './truepeak.ts';

interface Peaks {
  tracks: Record<string, { before: number; after: number; broken: boolean }>;
  master: number;
  takes: Record<string, TakeLevel>;
}

const db = (x: number) => (x > 0 ? 20 * Math.log10(x) : -200);

/**
 * Plays a session once through the engine and keeps the peaks: of every track before its fader (after its
 * chain) and after it, in dBFS, the master's true peak in dBTP, and of every take its level and its noise
 * floor.
 * @param options.seconds at most this much from the start; 60 when left out
 */
export const measureLevels = (
  session: Session,
  sounds: Map<string, Sound>,
  options: { seconds?: number; onProgress?: (share: number) => void; signal?: AbortSignal } = {},
): Promise<Peaks> => drive(steps(session, sounds, options.seconds ?? 60), options);

function* steps(session: Session, sounds: Map<string, Sound>, seconds: number): Generator<number, Peaks> {
  const BLOCK = 512;
  const fs = session.sampleRate;
  const renderer = new Renderer(fs, BLOCK, sounds);
  renderer.update(session, true);
  renderer.play();
  const frames = Math.ceil(Math.min(seconds, sessionLength(session) + 1) * fs);
  const [l, r] = [new Float32Array(BLOCK), new Float32Array(BLOCK)];
  const master = [new Float32Array(frames), new Float32Array(frames)];
  const before = new Map<string, number>();
  const after = new Map<string, number>();
  const broken = new Set<string>();
  for (let at = 0; at < frames; at += BLOCK) {
    const n = Math.min(BLOCK, frames - at);
    renderer.process(l, r, n);
    master[0].set(l.subarray(0, n), at);
    master[1].set(r.subarray(0, n), at);
    for (const node of renderer.nodes) {
      let p = before.get(node.id) ?? 0;
      for (let i = 0; i < n; i++) {
        const a = Math.abs(node.l[i]);
        const b = Math.abs(node.r[i]);
        if (a > p) p = a;
        if (b > p) p = b;
      }
      if (node.meter.broken > 0) broken.add(node.id);
      before.set(node.id, p);
      after.set(node.id, Math.max(after.get(node.id) ?? 0, node.meter.left, node.meter.right));
    }
    yield at / frames;
  }
  const takes = Object.fromEntries(
    session.tracks.flatMap((t) =>
      t.clips.flatMap((k) => {
        const x = sounds.get(k.media);
        return x
          ? [[k.id, measureTake(x.l, x.r, Math.round(k.offset * fs), Math.round(k.length * fs), fs)]]
          : [];
      }),
    ),
  );
  return {
    takes,
    tracks: Object.fromEntries(
      session.tracks.map((t) => [
        t.id,
        {
          before: db(before.get(t.id) ?? 0),
          after: db(after.get(t.id) ?? 0),
          broken: broken.has(t.id),
        },
      ]),
    ),
    master: truePeak(master, fs),
  };
}
