import { DEVICE_TYPES } from '../../devices/index.ts';
import type { Device } from '../../model/types.ts';
import { active, onDevice, quoted, type Rule } from '../rule.ts';

/** How wet a device is, in %; null for one that needs not be wet on a return. */
function wetness(d: Device): number | null {
  const { wet } = DEVICE_TYPES[d.type];
  const v = wet && d.params[wet];
  return typeof v === 'number' ? v : null;
}

export const returnNotWet: Rule = {
  id: 'return-not-wet',
  severity: 'fault',
  title: 'Return with dry sound',
  why: 'A return adds to what is there; dry sound in it makes the line louder and changes with every send.',
  safe: true,
  find: ({ session }) =>
    [...active(session)].flatMap(({ t, x }) => {
      const candidate = t.role === 'return' && x.kind === 'device' && x.state === 'on' && t.chain.includes(x);
      const wet = candidate ? wetness(x) : null;
      if (wet === null || wet >= 100) return [];
      const message = `${quoted(x)} on the return ${quoted(t)} is ${Math.round(wet)} % wet.`;
      return [{ track: t.id, slot: x.id, message, fix: 'Make it fully wet' }];
    }),
  fix: (s, h) => onDevice(s, h, (d) => ({ params: { ...d.params, [DEVICE_TYPES[d.type].wet!]: 100 } })),
};
