import { devicesIn } from '../../session/slots.ts';
import { active, quoted, type Rule } from '../rule.ts';

/** Words by which people name a compressor that is to give way to something else. */
const DUCKS = /duck|give way|pump|side-?chain|\bkey(ed)?\b/i;

export const keyMissing: Rule = {
  id: 'key-missing',
  severity: 'fault',
  title: 'Ducking without a key',
  why: 'The detector listens to the line itself, so it compresses where it should give way.',
  find: ({ session }) =>
    [...active(session)].flatMap(({ t, x }) =>
      x.kind === 'device' &&
      ['compressor', 'gate'].includes(x.type) &&
      x.key.kind === 'own' &&
      DUCKS.test(x.name) &&
      devicesIn(t.chain).includes(x)
        ? [
            {
              track: t.id,
              slot: x.id,
              message: `${quoted(x)} on ${quoted(t)} is named for ducking but has no key: it listens to its own input.`,
            },
          ]
        : [],
    ),
};
