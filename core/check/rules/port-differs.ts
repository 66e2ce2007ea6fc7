import { addressText, listenersIn, sameAddress, sentBy, type Listener } from '../../session/midi.ts';
import { mapDevices } from '../../session/slots.ts';
import { onTrack, quoted, type Checked, type Rule } from '../rule.ts';
import type { Session, Track } from '../../model/types.ts';

/** What instruments would listen to that sleep because they were printed: their notes wait for Restore. */
function printedListeners(session: Session): Listener[] {
  const slots = new Set(session.tracks.flatMap((t) => t.printed?.instrument?.slot ?? []));
  const awake = session.tracks.map((t) => ({
    ...t,
    input: t.printed?.input ?? t.input,
    chain: mapDevices(t.chain, (d) => (slots.has(d.id) ? { ...d, state: 'on' } : d)),
  }));
  return slots.size ? listenersIn(awake).filter((l) => slots.has(l.device.id)) : [];
}

/** Lines whose notes nobody hears, and somebody who listens to the same channels of another port. */
export const unheard = ({ session, listeners }: Checked): { t: Track; other: string | null }[] => {
  const printed = printedListeners(session);
  return session.tracks
    .filter((t) => t.role === 'midi' && t.state === 'on')
    .flatMap((t) => {
      const sent = sentBy(t);
      const hears = (l: Listener) => sent.some((a) => sameAddress(l, a));
      if (!sent.length || listeners.some(hears) || printed.some(hears)) return [];
      return [{ t, other: listeners.find((l) => sent.some((a) => a.channel === l.channel))?.port ?? null }];
    });
};

export const portDiffers: Rule = {
  id: 'port-differs',
  severity: 'fault',
  title: 'Port of source and part differ',
  why: 'Notes leave on one port and are awaited on another: nothing sounds.',
  find: (c) =>
    unheard(c)
      .filter((x) => x.other)
      .map(({ t, other }) => {
        const sent = sentBy(t);
        const listens = (l: Listener) => l.port === other && sent.some((at) => at.channel === l.channel);
        const listener = c.listeners.find(listens)!;
        const plays = `${quoted(t)} plays on ${addressText(sent[0])}`;
        return {
          track: t.id,
          message: `${plays}; ${quoted(listener)} listens to that channel on port ${other}.`,
          fix: `Send to port ${other}`,
        };
      }),
  fix: (s, h) =>
    onTrack(s, h.track, (t) =>
      t.output.kind === 'midi' && h.fix ? { output: { ...t.output, port: h.fix.slice(-1) as 'A' } } : {},
    ),
};
