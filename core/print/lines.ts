import { render } from '../engine/render.ts';
import { sessionLength, type RenderOptions } from '../engine/offline.ts';
import type { Id, Session, Track } from '../model/types.ts';
import type { PrintedLine } from '../session/print.ts';
import { upstream } from '../session/upstream.ts';

/** Seconds behind the end of the song for what rings on. */
export const RING = 2;

/** Whether a line can be printed by itself: something plays on it, and nothing is mixed into it. */
export const canPrint = (t: Track): boolean =>
  (t.role === 'audio' || t.role === 'instrument') &&
  t.state === 'on' &&
  !t.printed &&
  (t.clips.some((c) => !c.off) ||
    t.input.kind === 'track' ||
    t.input.kind === 'deviceOutput' ||
    t.role === 'instrument');

/**
 * Renders lines after their chains, before fader, pan and sends: printed, they sound as they did.
 * @returns one for each, from the song's start on, with two seconds for what rings on
 */
export async function printLines(
  session: Session,
  tracks: readonly Id[],
  options: Pick<RenderOptions, 'sounds' | 'onProgress' | 'signal'>,
): Promise<PrintedLine[]> {
  const taps = tracks.map((id) => `${id}:pre`);
  const parts = tracks.map((id) => upstream(session, id));
  const needed = new Set(parts.flatMap((p) => p.tracks.map((t) => t.id)));
  const part: Session = {
    ...session,
    tracks: session.tracks
      .filter((t) => needed.has(t.id))
      .map((t) => ({ ...t, solo: false, mute: tracks.includes(t.id) ? false : t.mute })),
  };
  const out = await render(part, { ...options, from: 0, to: sessionLength(session) + RING, taps });
  return tracks.map((id, k) => {
    const [l, r] = out[taps[k]];
    const name = session.tracks.find((t) => t.id === id)?.name ?? id;
    return { track: id, name: `${name}, printed`, l, r };
  });
}
