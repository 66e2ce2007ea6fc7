import { sameAddress, sentBy } from '../../session/midi.ts';
import { quoted, type Rule } from '../rule.ts';

export const unplayed: Rule = {
  id: 'unplayed',
  severity: 'advice',
  title: 'Nothing plays it',
  why: 'An instrument without notes costs time and stays silent.',
  find: ({ session, instruments, listeners }) => {
    const sent = session.tracks.filter((t) => t.state === 'on').flatMap(sentBy);
    return instruments
      .filter(
        (i) =>
          i.device.state === 'on' &&
          !listeners.some((l) => l.device.id === i.device.id && sent.some((a) => sameAddress(a, l))),
      )
      .map((i) => ({
        track: i.track.id,
        slot: i.device.id,
        message: `No MIDI line plays ${quoted(i.device)} on ${quoted(i.track)}.`,
      }));
  },
};
