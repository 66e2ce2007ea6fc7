import { DEVICE_TYPES } from '../../devices/index.ts';
import { active, quoted, type Rule } from '../rule.ts';

export const cannotRun: Rule = {
  id: 'cannot-run',
  severity: 'warning',
  title: 'Device that cannot run here',
  why: 'Its sound is passed through unchanged; what it did is missing in the mix.',
  find: ({ session }) =>
    [...active(session)].flatMap(({ t, x }) =>
      x.kind === 'device' && DEVICE_TYPES[x.type].foreign && x.state === 'on'
        ? [
            {
              track: t.id,
              slot: x.id,
              message: `${quoted(x)} on ${quoted(t)} is a third-party device that this program cannot run.`,
            },
          ]
        : [],
    ),
};
