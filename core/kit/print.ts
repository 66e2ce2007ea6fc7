import { outPlace } from '../devices/instrument.ts';
import { render } from '../engine/render.ts';
import { sessionLength, type RenderOptions } from '../engine/offline.ts';
import { takersOf } from '../session/midi.ts';
import type { PrintedLine } from '../session/print.ts';
import { mapDevices } from '../session/slots.ts';
import { randomIds, type IdMaker } from '../model/ids.ts';
import type { Id, MediaRef, Session, Track } from '../model/types.ts';
import { instrumentAt } from './layout.ts';

/**
 * Lines that a print makes: those that take an output, and the instrument's own when something comes out of
 * its main output.
 */
export function linesToPrint(session: Session, slot: Id): Track[] {
  const i = instrumentAt(session, slot);
  return [
    ...(i.parts.some((p) => outPlace(p.out).pair === 0) ? [i.track] : []),
    ...takersOf(session, slot).filter((t) => t.state === 'on'),
  ];
}

/**
 * Renders all outputs of an instrument at once, before any device, fader or send of their lines: printed
 * lines sound as the instrument did. With two seconds for what rings on.
 * @throws when nothing plays it
 */
export async function printInstrument(
  session: Session,
  slot: Id,
  options: Pick<RenderOptions, 'sounds' | 'onProgress' | 'signal'>,
): Promise<PrintedLine[]> {
  const i = instrumentAt(session, slot);
  const lines = linesToPrint(session, slot);
  const length = sessionLength(session);
  if (!length) {
    throw new Error(
      `Nothing plays “${i.device.name}”: give its port and channel a MIDI line with notes or a pattern first.`,
    );
  }
  // only what plays it and what takes it: the rest of the session is not worked out
  const own = i.track.chain.findIndex((d) => d.id === slot);
  const chainFor = (t: Track) => {
    if (t.id === i.track.id) return own >= 0 ? t.chain.slice(0, own + 1) : t.chain;
    return t.role === 'midi' ? t.chain : [];
  };
  const bare = (t: Track): Track => ({
    ...t,
    chain: chainFor(t),
    sends: [],
    solo: false,
    clips: t.id === i.track.id ? [] : t.clips,
    output: t.role === 'midi' ? t.output : { kind: 'none' },
    state: 'on',
  });
  const wanted = new Set([i.track.id, ...lines.map((t) => t.id)]);
  const part: Session = {
    ...session,
    tracks: session.tracks
      .filter((t) => wanted.has(t.id) || (t.role === 'midi' && t.state === 'on') || t.role === 'master')
      .map((t) => (t.role === 'master' ? { ...t, chain: [] } : bare(t))),
  };
  const taps = lines.map((t) => (t.id === i.track.id ? `${t.id}:pre` : `${t.id}:in`));
  const out = await render(part, { ...options, from: 0, to: length + 2, taps });
  return lines.map((t, k) => ({
    track: t.id,
    name: `${t.name}, printed`,
    l: out[taps[k]][0],
    r: out[taps[k]][1],
  }));
}

/**
 * The session with the printed sound on its lines, the instrument inactive, and the way back kept with each
 * line.
 */
export function withPrint(
  session: Session,
  slot: Id,
  media: { track: Id; ref: MediaRef }[],
  ids: IdMaker = randomIds,
): Session {
  // with nothing printed there would be no way back
  if (!media.length) return session;
  const i = instrumentAt(session, slot);
  const tracks = session.tracks.map((t) => {
    const chain =
      t.id === i.track.id
        ? mapDevices(t.chain, (d) => (d.id === slot ? { ...d, state: 'inactive' } : d))
        : t.chain;
    const m = media.find((x) => x.track === t.id);
    if (!m) return chain === t.chain ? t : { ...t, chain };
    const clip = {
      id: ids('clp'),
      media: m.ref.id,
      start: 0,
      offset: 0,
      length: m.ref.frames / m.ref.sampleRate,
      gain: 0,
    };
    return {
      ...t,
      chain,
      input: { kind: 'none' as const },
      clips: [...t.clips, clip],
      printed: { input: t.input, clip: clip.id, instrument: { track: i.track.id, slot } },
    };
  });
  return {
    ...session,
    tracks,
    media: [
      ...session.media,
      ...media
        .map((m) => m.ref)
        .filter(
          (r, k, all) =>
            all.findIndex((x) => x.id === r.id) === k && !session.media.some((x) => x.id === r.id),
        ),
    ],
  };
}
