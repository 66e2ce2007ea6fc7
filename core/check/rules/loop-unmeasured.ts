import { measured } from './loop-wrong.ts';
import { active, onDevice, quoted, type Rule } from '../rule.ts';

export const loopUnmeasured: Rule = {
  id: 'loop-unmeasured',
  severity: 'warning',
  title: 'Round trip not measured',
  why: 'What comes back from hardware is late; unmeasured it combs with everything beside it.',
  safe: true,
  find: ({ session }) =>
    [...active(session)].flatMap(({ t, x }) =>
      x.kind === 'device' && x.type === 'outboard' && x.state === 'on' && x.params.roundTrip === 0
        ? [
            {
              track: t.id,
              slot: x.id,
              message: `The round trip of ${quoted(x)} on ${quoted(t)} was not measured. Open it and press “Measure the round trip”.`,
              fix: 'Measure it',
            },
          ]
        : [],
    ),
  fix: (s, h) =>
    onDevice(s, h, (d) => ({
      params: { ...d.params, roundTrip: measured(String(d.params.unit), s.sampleRate) },
    })),
};
