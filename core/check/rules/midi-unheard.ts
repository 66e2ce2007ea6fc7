import { addressText, sentBy } from '../../session/midi.ts';
import { quoted, type Rule } from '../rule.ts';
import { unheard } from './port-differs.ts';

export const midiUnheard: Rule = {
  id: 'midi-unheard',
  severity: 'warning',
  title: 'Notes that nobody hears',
  why: 'No instrument listens to this port and channel.',
  find: (c) =>
    unheard(c)
      .filter((x) => !x.other)
      .map(({ t }) => ({
        track: t.id,
        message: `${quoted(t)} plays on ${addressText(sentBy(t)[0])}, and no instrument listens there.`,
      })),
};
