import { mkdirSync } from 'node:fs';
import { join } from 'node:path';
import {
  Resampler,
  WavFile,
  type Growing,
  type PrintStore,
  type Scratch,
  type Sound,
  type SoundWindow,
} from '../../core/index.ts';
import { OpenFile } from './open-file.ts';

/** The files of one song in a folder: numbered in the order in which they are begun, whatever they are called. */
export class DiskStore implements PrintStore {
  private scratches = 0;
  private readonly made: string[] = [];

  constructor(private readonly folder: string) {
    mkdirSync(folder, { recursive: true });
  }
  scratch(): Scratch {
    return new OpenFile(join(this.folder, `${this.scratches++}.part`), 'w+');
  }
  file(name: string): Growing {
    const file = new OpenFile(join(this.folder, fileName(this.made.length, name)), 'w+');
    this.made.push(name);
    return { write: (b) => file.write(b), patch: (at, b) => file.put(at, b), close: () => file.close() };
  }
}

/** Under which name a file of a print lies in its folder. */
export const fileName = (index: number, name: string): string => `${index}.${name.split('.').pop()}`;

/** frames of a long sound that are held at once, for each clip that plays it */
const WINDOW = 32768;
/** frames that are resampled together */
const PIECE = 65536;

/** Reads frames of a sound from a place on, one array a side; fewer at its end. */
type ReadFrames = (from: number, n: number) => Float32Array[];

/**
 * A sound of a WAV file, for the engine: read while it plays, at the engine's rate.
 * @param scratch where it is kept at that rate, if its own is another
 */
export function soundFrom(path: string, rate: number, scratch: string): Sound {
  const file = new OpenFile(path, 'r');
  const wav = new WavFile((at, n) => file.read(at, n), file.size, path);
  const isMono = wav.channels === 1;
  const sides = isMono ? 1 : 2;
  const own: ReadFrames = (from, n) => wav.read(from, n).slice(0, sides);
  const frames = Math.round((wav.frames * rate) / wav.sampleRate);
  const read = wav.sampleRate === rate ? own : resampled(own, wav, sides, rate, scratch);
  const empty = new Float32Array(0);
  return { l: empty, r: empty, open: () => windowOver(read, frames, isMono) };
}

/** The same sound at another rate, written beside first. */
function resampled(own: ReadFrames, wav: WavFile, sides: number, rate: number, path: string): ReadFrames {
  const out = new OpenFile(path, 'w+');
  const resamplers = Array.from({ length: sides }, () => new Resampler(wav.sampleRate, rate));
  const write = (parts: Float32Array[]) => {
    const together = new Float32Array(parts[0].length * sides);
    parts.forEach((x, c) => x.forEach((v, i) => (together[i * sides + c] = v)));
    out.write(new Uint8Array(together.buffer));
  };
  for (let at = 0; at < wav.frames; at += PIECE) {
    const parts = own(at, PIECE);
    write(resamplers.map((r, c) => r.add(parts[c])));
  }
  write(resamplers.map((r) => r.end()));
  return (from, n) => {
    const together = new Float32Array(out.read(from * 4 * sides, n * 4 * sides).buffer);
    if (sides === 1) return [together];
    const frames = together.length / 2;
    const [l, r] = [new Float32Array(frames), new Float32Array(frames)];
    for (let i = 0; i < frames; i++) {
      l[i] = together[2 * i];
      r[i] = together[2 * i + 1];
    }
    return [l, r];
  };
}

function windowOver(read: ReadFrames, frames: number, isMono: boolean): SoundWindow {
  const l = new Float32Array(WINDOW);
  const r = isMono ? l : new Float32Array(WINDOW);
  const window = { l, r, frames, at: -WINDOW, reach };
  function reach(from: number, n: number): void {
    if (from >= window.at && from + n <= window.at + WINDOW) return;
    window.at = from;
    const [left, right] = read(from, WINDOW);
    l.fill(0, left.length);
    l.set(left);
    if (isMono) return;
    r.fill(0, right.length);
    r.set(right);
  }
  return window;
}
