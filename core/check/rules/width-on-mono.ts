import { DEVICE_TYPES } from '../../devices/index.ts';
import type { Device, Slot, Track } from '../../model/types.ts';
import { onDevice, quoted, type Rule } from '../rule.ts';

/** A rack can hold anything, so it counts as making sides. */
const makesSides = (x: Slot) => x.kind === 'rack' || DEVICE_TYPES[x.type].makesSides === true;

/** Devices of a mono line's own chain that need two sides and come before anything that makes them. */
function idle(t: Track): Device[] {
  const first = t.chain.findIndex(makesSides);
  const before = first < 0 ? t.chain : t.chain.slice(0, first);
  return before.filter(
    (x): x is Device => x.kind === 'device' && x.state === 'on' && !!DEVICE_TYPES[x.type].needsSides,
  );
}

export const widthOnMono: Rule = {
  id: 'width-on-mono',
  severity: 'advice',
  title: 'Width on a mono line',
  why: 'Both sides are the same on a mono line, so there is no width to change.',
  safe: true,
  find: ({ session }) =>
    session.tracks
      .filter((t) => t.state === 'on' && t.channels === 1)
      .flatMap((t) =>
        idle(t).map((x) => ({
          track: t.id,
          slot: x.id,
          message: `${quoted(x)} sits on the mono line ${quoted(t)}, where nothing before it makes two sides.`,
          fix: 'Make the device inactive',
        })),
      ),
  fix: (s, h) => onDevice(s, h, () => ({ state: 'inactive' })),
};
