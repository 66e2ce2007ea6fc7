import { mediaIn } from './media.ts';
import { mapSlots } from './slots.ts';
import { randomIds, type IdMaker } from '../model/ids.ts';
import type { Id, MediaRef, Session, Slot, SlotState, Track } from '../model/types.ts';

/** The sound of one line, as it comes out of the instrument or behind the line's chain. */
export interface PrintedLine {
  track: Id;
  name: string;
  l: Float32Array;
  r: Float32Array;
}

/**
 * Takes prints back: the lines get the input, clips and chain that they had, the printed sound comes off, instruments
 * play again. Whatever else was changed since stays.
 * @param only prints of this instrument, or of this line's own chain; all when left out
 */
export function unprint(session: Session, only: { slot?: Id; track?: Id } = {}): Session {
  const isMeant = ({ id, printed }: Track) =>
    (only.slot === undefined || printed!.instrument?.slot === only.slot) &&
    (only.track === undefined || (id === only.track && !!printed!.chain));
  const back = session.tracks.filter((t) => t.printed && isMeant(t));
  if (!back.length) return session;
  const was = new Map<Id, SlotState>(
    back.flatMap(({ printed }): [Id, SlotState][] => [
      ...(printed!.instrument ? [[printed!.instrument.slot, 'on'] as [Id, SlotState]] : []),
      ...(printed!.chain?.asleep.map((x): [Id, SlotState] => [x.id, x.was]) ?? []),
    ]),
  );
  const clips = new Set(back.map((t) => t.printed!.clip));
  const awake = <T extends Slot>(d: T): T =>
    was.has(d.id) && d.state === 'inactive' ? { ...d, state: was.get(d.id)! } : d;
  const tracks = session.tracks.map((t) => {
    const chain = mapSlots(t.chain, awake);
    if (!back.includes(t)) return chain === t.chain ? t : { ...t, chain };
    const { printed, ...rest } = t;
    const others = t.clips.filter((c) => !clips.has(c.id));
    return { ...rest, chain, input: printed!.input, clips: [...(printed!.chain?.clips ?? []), ...others] };
  });
  const used = mediaIn(tracks);
  const gone = new Set(
    session.tracks.flatMap((t) => t.clips.filter((c) => clips.has(c.id)).map((c) => c.media)),
  );
  return { ...session, tracks, media: session.media.filter((m) => used.has(m.id) || !gone.has(m.id)) };
}

/**
 * The session with a line's sound printed after its chain: one clip in place of its own, its devices asleep, its input
 * off, the way back kept with it. Fader, pan and sends go on as they are.
 * @param ref the printed sound, from the song's start on
 * @throws when there is no such line, or it is printed already
 */
export function withLinePrint(session: Session, track: Id, ref: MediaRef, ids: IdMaker = randomIds): Session {
  const line = session.tracks.find((t) => t.id === track);
  if (!line) throw new Error('The line that was printed is not in the session any more.');
  if (line.printed) throw new Error(`“${line.name}” is printed already: restore it first.`);
  const length = ref.frames / ref.sampleRate;
  const clip = { id: ids('clp'), media: ref.id, start: 0, offset: 0, length, gain: 0 };
  const awake = line.chain.filter((d) => d.state !== 'inactive');
  const printed: Track = {
    ...line,
    chain: line.chain.map((d) => ({ ...d, state: 'inactive' as const })),
    input: { kind: 'none' },
    clips: [clip],
    printed: {
      input: line.input,
      clip: clip.id,
      chain: { clips: line.clips, asleep: awake.map(({ id, state }) => ({ id, was: state })) },
    },
  };
  return {
    ...session,
    tracks: session.tracks.map((t) => (t === line ? printed : t)),
    media: session.media.some((m) => m.id === ref.id) ? session.media : [...session.media, ref],
  };
}
