import { serveHelp, type ToHelper } from '../../web/audio/shared.ts';

/** The helper of the bench. */
self.onmessage = (m: MessageEvent<ToHelper>) => { serveHelp(m.data, (x, transfer = []) => self.postMessage(x, { transfer })); };
