import { renderNow, type RenderOptions, type Session } from '../../core/index.ts';
import { serveHelp, type ToHelper } from '../../web/audio/shared.ts';

/** The helper of the bench; it also renders a session by itself, to see what two processors can do at all. */
self.onmessage = (m: MessageEvent<ToHelper | { alone: Session; options: RenderOptions }>) => {
  if ('alone' in m.data) { renderNow(m.data.alone, m.data.options); self.postMessage('done'); } else serveHelp(m.data, (x, transfer = []) => self.postMessage(x, { transfer }));
};
