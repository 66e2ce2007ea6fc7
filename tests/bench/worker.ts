import { renderNow, type RenderOptions, type Session } from '../../core/index.ts';
import { renderOverTwo, serveHelp, type ToHelper } from '../../web/audio/shared.ts';

/**
 * The workers of the bench: one that renders, alone or shared, and the other, which helps, or renders
 * something of its own to see what two processors can do at all.
 */
export type Ask = { alone: Session; options: RenderOptions } | { shared: Session; options: RenderOptions };

self.onmessage = async (m: MessageEvent<ToHelper | Ask>) => {
  if ('help' in m.data) {
    serveHelp(m.data);
    return;
  }
  const t = performance.now();
  if ('alone' in m.data) renderNow(m.data.alone, m.data.options);
  else if ('shared' in m.data) {
    await renderOverTwo(
      m.data.shared,
      m.data.options,
      () => new Worker(self.location.href, { type: 'module' }),
    );
  }
  self.postMessage(performance.now() - t);
};
