import { active, onDevice, quoted, type Rule } from '../rule.ts';

const WET = new Set(['reverb', 'delay', 'doubler', 'chorus']);

export const returnNotWet: Rule = {
  id: 'return-not-wet',
  severity: 'fault',
  title: 'Return with dry sound',
  why: 'A return adds to what is there; dry sound in it makes the line louder and changes with every send.',
  safe: true,
  find: ({ session }) =>
    [...active(session)].flatMap(({ t, x }) =>
      t.role === 'return' &&
      x.kind === 'device' &&
      x.state === 'on' &&
      WET.has(x.type) &&
      typeof x.params.mix === 'number' &&
      x.params.mix < 100 &&
      t.chain.includes(x)
        ? [
            {
              track: t.id,
              slot: x.id,
              message: `${quoted(x)} on the return ${quoted(t)} is ${Math.round(x.params.mix)} % wet.`,
              fix: 'Make it fully wet',
            },
          ]
        : [],
    ),
  fix: (s, h) => onDevice(s, h, (d) => ({ params: { ...d.params, mix: 100 } })),
};
