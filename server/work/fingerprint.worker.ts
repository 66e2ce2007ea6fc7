import { parentPort } from 'node:worker_threads';
import { beExact, makeFingerprint, type Fingerprint, type Preset } from '../../core/index.ts';
import { stepBack } from './step-back.ts';

export interface FingerprintTask {
  key: number;
  preset: Preset;
}
export type FingerprintAnswer = { key: number } & ({ print: Fingerprint } | { failed: string });

/** behind everything else that a person waits for */
const PATIENT = 19;

stepBack(PATIENT);
// every sum rounded as on every other machine
beExact();
parentPort!.on('message', ({ key, preset }: FingerprintTask) => {
  makeFingerprint(preset).then(
    (print) => parentPort!.postMessage({ key, print } satisfies FingerprintAnswer),
    (e: unknown) =>
      parentPort!.postMessage({ key, failed: (e as Error).message } satisfies FingerprintAnswer),
  );
});
