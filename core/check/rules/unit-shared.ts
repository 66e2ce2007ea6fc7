import { unitsUsed } from '../../hardware/studio.ts';
import { onDevice, quoted, type Rule } from '../rule.ts';

export const unitShared: Rule = {
  id: 'unit-shared',
  severity: 'fault',
  title: 'One unit, two loops',
  why: 'A unit is there once: what is sent into it twice comes back mixed on both lines.',
  find({ session }) {
    const uses = unitsUsed(session).filter(({ track }) => track.state === 'on');
    return uses.flatMap(({ use, track, device }, i) => {
      const first = uses.slice(0, i).find((u) => u.use.unit.id === use.unit.id);
      if (!first || !device) return [];
      const where = first.device
        ? `${quoted(first.device)} on ${quoted(first.track)}`
        : `the input of ${quoted(first.track)}`;
      return [
        {
          track: track.id,
          slot: device.id,
          message: `${quoted(device)} on ${quoted(track)} goes through ${quoted(use.unit)}, and so does ${where}.`,
          fix: `Bypass ${quoted(device)}`,
        },
      ];
    });
  },
  fix: (s, h) => onDevice(s, h, () => ({ state: 'bypassed' })),
};
