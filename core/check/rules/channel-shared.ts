import {
  addressText,
  freeAddresses,
  listenersIn,
  sameAddress,
  sentBy,
  type Listener,
} from '../../session/midi.ts';
import { onDevice, onTrack, type Rule } from '../rule.ts';
import type { Session } from '../../model/types.ts';

const doubles = (all: Listener[]) =>
  all.flatMap((l, k) => {
    const first =
      all.slice(0, k).find((x) => sameAddress(x, l) && x.device.id !== l.device.id) ??
      all.slice(0, k).find((x) => sameAddress(x, l) && x.part && l.part);
    return first ? [{ l, first }] : [];
  });
/**
 * Where the second of two may go: a channel of its port that something plays and nobody hears, or else a free
 * one.
 */
function free(s: Session, l: Listener) {
  const there = listenersIn(s.tracks);
  const played = s.tracks.flatMap(sentBy);
  return (
    played.find((a) => a.port === l.port && !there.some((x) => sameAddress(x, a))) ??
    freeAddresses([...there, ...played]).find((a) => a.port === l.port)
  );
}

export const channelShared: Rule = {
  id: 'channel-shared',
  severity: 'fault',
  title: 'Two parts on one MIDI channel',
  why: 'Whatever plays one of them plays the other too.',
  find: ({ session, listeners }) =>
    doubles(listeners)
      .filter(
        ({ l }, k, all) =>
          all.findIndex((x) => x.l.device.id === l.device.id && x.l.part?.id === l.part?.id) === k,
      )
      .map(({ l, first }) => {
        const to =
          (l.part ||
            session.tracks.some((t) => t.id === l.track && t.input.kind === 'midi' && t.input.channel)) &&
          free(session, l);
        return {
          track: l.track,
          slot: l.device.id,
          ...(l.part ? { part: l.part.id } : {}),
          message: `“${l.name}” and “${first.name}” both listen to ${addressText(l)}.`,
          ...(to ? { fix: `Move “${l.part?.name ?? l.device.name}” to ${addressText(to)}` } : {}),
        };
      }),
  fix: (s, h) => {
    const l = listenersIn(s.tracks).find((x) => x.device.id === h.slot && x.part?.id === h.part);
    const to = l && free(s, l);
    if (!l || !to) return s;
    return l.part
      ? onDevice(s, h, (d) => ({ params: { ...d.params, [`${h.part}.channel`]: to.channel } }))
      : onTrack(s, h.track, (t) =>
          t.input.kind === 'midi' ? { input: { ...t.input, channel: to.channel } } : {},
        );
  },
};
