import { AHEAD, helperSums, renderShared, shareOut, type Sums } from '../../core/engine/share.ts';
import { render, sessionLength, type RenderOptions, type Rendered } from '../../core/engine/render.ts';
import type { Sound } from '../../core/engine/node.ts';
import type { Session } from '../../core/model/types.ts';

/** What a helper is asked: its part of a render, then for one chunk more each time one was used. */
export type ToHelper = { help: { session: Session; options: Pick<RenderOptions, 'from' | 'to' | 'blockSize'>; tracks: string[]; collects: string[]; sounds: Map<string, Sound> } } | { more: number; used?: Sums } | { enough: true };
export type FromHelper = { sums: Sums } | { failed: string };

/** Renders shorter than this are done before a helper has begun. */
const WORTH_SECONDS = 2;
let helper: Worker | null = null;
let busy = false;

/**
 * An offline render over two workers where that is worth it and a second processor is there, otherwise in this one. The helper is kept for the next time; when it fails, the render is done here.
 * @param make starts a helper: a worker that answers with `serveHelp`
 */
export async function renderOverTwo(session: Session, options: RenderOptions, make: () => Worker): Promise<Rendered> {
  const seconds = (options.to ?? sessionLength(session)) - (options.from ?? 0);
  const share = !busy && navigator.hardwareConcurrency > 1 && seconds >= WORTH_SECONDS ? shareOut(session, options.taps) : null;
  if (!share) return render(session, options);
  busy = true;
  const w = (helper ??= make());
  const ready: Sums[] = [];
  let last: Sums | null = null;
  let wake: (() => void) | null = null, failed = '';
  w.onmessage = (m: MessageEvent<FromHelper>) => { if ('sums' in m.data) ready.push(m.data.sums); else failed = m.data.failed || 'stopped'; wake?.(); };
  w.onerror = () => { failed = 'stopped'; wake?.(); };
  const say = (m: ToHelper) => w.postMessage(m);
  try {
    const { from, to, blockSize } = options;
    say({ help: { session, options: { from, to, blockSize }, ...share, sounds: options.sounds } });
    say({ more: AHEAD });
    return await renderShared(session, options, share.tracks, share.collects, async () => {
      while (!ready.length && !failed && !options.signal?.aborted) await new Promise<void>((r) => { wake = r; setTimeout(r, 500); });
      if (failed) throw new HelperFailed();
      const used = last;
      last = ready.shift()!;
      if (used) w.postMessage({ more: 1, used } satisfies ToHelper, [used.buffer]); else say({ more: 1 });
      return last;
    });
  } catch (e) {
    if (!(e instanceof HelperFailed)) throw e;
    helper = null;
    return await render(session, options);
  } finally { say({ enough: true }); busy = false; }
}

class HelperFailed extends Error {}

/** The helper's side, inside a worker: true when the message was meant for it. */
export function serveHelp(m: ToHelper, post: (m: FromHelper, transfer?: Transferable[]) => void): boolean {
  if ('help' in m) {
    const h = m.help;
    spare = [];
    sums = helperSums(h.session, { ...h.options, sounds: h.sounds }, h.tracks, h.collects, spare);
    return true;
  }
  if ('more' in m) {
    if (m.used) spare.push(m.used);
    for (let i = 0; i < m.more && sums; i++) {
      try {
        const next = sums.next();
        if (next.done) { sums = null; break; }
        post({ sums: next.value }, [next.value.buffer]);
      } catch (e) { sums = null; post({ failed: (e as Error).message }); }
    }
    return true;
  }
  if ('enough' in m) { sums?.return(); sums = null; return true; }
  return false;
}
let sums: ReturnType<typeof helperSums> | null = null;
/** buffers that came back: making new ones all the time costs more than the sums */
let spare: Sums[] = [];
