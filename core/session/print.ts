import { mapDevices } from './slots.ts';
import type { Id, Session } from '../model/types.ts';

/**
 * Takes prints back: the lines get the input that they had, the printed sound comes off, the instrument plays
 * again. Whatever else was changed since stays.
 * @param slot only those of this instrument; all when left out
 */
export function unprint(session: Session, slot?: Id): Session {
  const back = session.tracks.filter(
    (t) => t.printed && (slot === undefined || t.printed.instrument.slot === slot),
  );
  if (!back.length) return session;
  const awake = new Set(back.map((t) => t.printed!.instrument.slot));
  const clips = new Set(back.map((t) => t.printed!.clip));
  const tracks = session.tracks.map((t) => {
    const chain = mapDevices(t.chain, (d) =>
      awake.has(d.id) && d.state === 'inactive' ? { ...d, state: 'on' } : d,
    );
    if (!back.includes(t)) return chain === t.chain ? t : { ...t, chain };
    const { printed, ...rest } = t;
    return { ...rest, chain, input: printed!.input, clips: t.clips.filter((c) => !clips.has(c.id)) };
  });
  const used = new Set(tracks.flatMap((t) => t.clips.map((c) => c.media)));
  const gone = new Set(
    session.tracks.flatMap((t) => t.clips.filter((c) => clips.has(c.id)).map((c) => c.media)),
  );
  return { ...session, tracks, media: session.media.filter((m) => used.has(m.id) || !gone.has(m.id)) };
}
