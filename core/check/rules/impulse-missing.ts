import { DEVICE_TYPES } from '../../devices/index.ts';
import { spaceOf } from '../../devices/convolution/spaces.ts';
import { playedWith } from '../../session/media.ts';
import { active, onDevice, quoted, type Rule } from '../rule.ts';

export const impulseMissing: Rule = {
  id: 'impulse-missing',
  severity: 'fault',
  title: 'The impulse response is not in the session',
  why: 'A space without its impulse response is silent. Choose another one, or give it the file again on its panel.',
  find: ({ session }) => {
    const there = new Set(session.media.map((m) => m.id));
    return [...active(session)].flatMap(({ t, x }) => {
      const plays = x.kind === 'device' ? playedWith(x) : null;
      if (plays === null || there.has(plays) || spaceOf(plays)) return [];
      return [
        {
          track: t.id,
          slot: x.id,
          message: `${quoted(x)} on ${quoted(t)} plays an impulse response (${plays.slice(0, 8)}…) that the session does not have.`,
          fix: 'Take a space that ships',
        },
      ];
    });
  },
  fix: (s, h) =>
    onDevice(s, h, (d) => {
      const { plays, defaults } = DEVICE_TYPES[d.type];
      return plays ? { params: { ...d.params, [plays]: defaults[plays] } } : {};
    }),
};
