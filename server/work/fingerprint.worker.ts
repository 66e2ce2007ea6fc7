import { parentPort } from 'node:worker_threads';
import {
  beExact,
  makeFingerprint,
  readWav,
  resample,
  type Fingerprint,
  type Preset,
  type Sound,
  type WavData,
} from '../../core/index.ts';
import { stepBack } from './step-back.ts';

export interface FingerprintTask {
  key: number;
  preset: Preset;
  /** WAV files that its devices play with, by media id */
  media: ReadonlyMap<string, Uint8Array>;
}
export type FingerprintAnswer = { key: number } & ({ print: Fingerprint } | { failed: string });

/** behind everything else that a person waits for */
const PATIENT = 19;

function soundsAt(media: FingerprintTask['media'], rate: number): Map<string, Sound> {
  const at = ({ channels, sampleRate }: WavData): Sound => {
    const [l, r] = channels.slice(0, 2).map((c) => resample(c, sampleRate, rate));
    return { l, r: r ?? l };
  };
  return new Map([...media].map(([id, file]) => [id, at(readWav(file))]));
}

stepBack(PATIENT);
// every sum rounded as on every other machine
beExact();
parentPort!.on('message', ({ key, preset, media }: FingerprintTask) => {
  makeFingerprint(preset, { sounds: (rate) => soundsAt(media, rate) }).then(
    (print) => parentPort!.postMessage({ key, print } satisfies FingerprintAnswer),
    (e: unknown) =>
      parentPort!.postMessage({ key, failed: (e as Error).message } satisfies FingerprintAnswer),
  );
});
