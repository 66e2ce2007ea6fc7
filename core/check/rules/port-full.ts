import { MIDI_PORTS } from '../../session/midi.ts';
import { quoted, type Rule } from '../rule.ts';

export const portFull: Rule = {
  id: 'port-full',
  severity: 'warning',
  title: 'More parts than channels',
  why: 'A MIDI port has sixteen channels; what comes on top shares one.',
  find: ({ session, listeners }) =>
    MIDI_PORTS.flatMap((port) => {
      const here = listeners.filter(
        (l) =>
          l.port === port &&
          (l.part ||
            session.tracks.some((t) => t.id === l.track && t.input.kind === 'midi' && t.input.channel)),
      );
      const last = here.at(-1);
      if (here.length <= 16 || !last) return [];
      const full = `${here.length} parts listen on port ${port}, which has sixteen channels`;
      const line = session.tracks.find((t) => t.id === last.track)!;
      return [
        {
          track: last.track,
          slot: last.device.id,
          message: `${full}; the last is “${last.name}”. Put ${quoted(line)} onto another port.`,
        },
      ];
    }),
};
