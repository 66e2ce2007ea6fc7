import { active, onDevice, quoted, type Rule } from '../rule.ts';

export const keyListened: Rule = {
  id: 'key-listened',
  severity: 'fault',
  title: 'Listening to the key',
  why: 'While a device lets its key be heard, its line plays the detector instead of the sound.',
  safe: true,
  find: ({ session }) =>
    [...active(session)].flatMap(({ t, x }) =>
      x.kind === 'device' && x.state === 'on' && x.params.listen === true
        ? [
            {
              track: t.id,
              slot: x.id,
              message: `${quoted(x)} on ${quoted(t)} lets its key be heard instead of the sound.`,
              fix: 'Stop listening to the key',
            },
          ]
        : [],
    ),
  fix: (s, h) => onDevice(s, h, (d) => ({ params: { ...d.params, listen: false } })),
};
