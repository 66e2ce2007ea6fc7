import { formatDb } from '../../model/units.ts';
import { active, onDevice, quoted, type Rule } from '../rule.ts';

/** dB; a fader under this is down */
const DOWN = -50;

export const keyAfterFader: Rule = {
  id: 'key-after-fader',
  severity: 'fault',
  title: 'Key after a fader that is down',
  why: 'The fader of the trigger also turns down what the detector hears.',
  safe: true,
  find: ({ session, byId }) =>
    [...active(session)].flatMap(({ t, x }) => {
      const far =
        x.kind === 'device' && x.key.kind === 'track' && x.key.tap === 'post'
          ? byId.get(x.key.track)
          : undefined;
      return far && far.level <= DOWN
        ? [
            {
              track: t.id,
              slot: x.id,
              message: `The key of ${quoted(x)} on ${quoted(t)} is taken after the fader of ${quoted(far)}, which is at ${formatDb(far.level)}.`,
              fix: 'Take the key before the fader',
            },
          ]
        : [];
    }),
  fix: (s, h) => onDevice(s, h, (d) => (d.key.kind === 'track' ? { key: { ...d.key, tap: 'pre' } } : {})),
};
