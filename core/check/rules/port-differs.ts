import { addressText, sameAddress, sentBy } from '../../session/midi.ts';
import { onTrack, quoted, type Checked, type Rule } from '../rule.ts';
import type { Track } from '../../model/types.ts';

/** Lines whose notes nobody hears, and somebody who listens to the same channels of another port. */
export const unheard = ({ session, listeners }: Checked): { t: Track; other: string | null }[] =>
  session.tracks
    .filter((t) => t.role === 'midi' && t.state === 'on')
    .flatMap((t) => {
      const sent = sentBy(t);
      if (!sent.length || sent.some((a) => listeners.some((l) => sameAddress(l, a)))) return [];
      return [{ t, other: listeners.find((l) => sent.some((a) => a.channel === l.channel))?.port ?? null }];
    });

export const portDiffers: Rule = {
  id: 'port-differs',
  severity: 'fault',
  title: 'Port of source and part differ',
  why: 'Notes leave on one port and are awaited on another: nothing sounds.',
  find: (c) =>
    unheard(c)
      .filter((x) => x.other)
      .map(({ t, other }) => ({
        track: t.id,
        message: `${quoted(t)} plays on ${addressText(sentBy(t)[0])}; “${c.listeners.find((l) => l.port === other && sentBy(t).some((a) => a.channel === l.channel))!.name}” listens to that channel on port ${other}.`,
        fix: `Send to port ${other}`,
      })),
  fix: (s, h) =>
    onTrack(s, h.track, (t) =>
      t.output.kind === 'midi' && h.fix ? { output: { ...t.output, port: h.fix.slice(-1) as 'A' } } : {},
    ),
};
