import {
  playedAs,
  align,
  capture,
  createPreset,
  devicesIn,
  type Device,
  type Preset,
  type Track,
} from '../../../core/index.ts';
import { api } from '../../api/index.ts';
import { useSession } from '../../document/doc.ts';
import type { Side } from './side.ts';

/** The settings of one side: a version from the shelf, or a line of the open session as it is now. */
export async function readSide(side: Side | null): Promise<Preset | null> {
  if (!side) return null;
  if ('line' in side) {
    const session = useSession().doc;
    const track = session?.tracks.find((t) => t.id === side.line);
    if (!session || !track) return null;
    const captured = capture(session, [track.id]);
    return createPreset(captured, { id: `line ${track.id}`, name: `${track.name}, as it is here` });
  }
  const now = await api.preset(side.preset);
  const isOlder = side.version && side.version !== now.version;
  const preset = isOlder ? await api.presetVersion(side.preset, side.version!) : now.preset;
  return { ...preset, name: now.name };
}

/** A line as it is has no version. */
export const titleOf = (p: Preset): string =>
  p.id.startsWith('line ') ? p.name : `${p.name}, v${p.version}`;

/** dB in, from −60 to +6 */
const INPUT = Array.from({ length: 133 }, (_, i) => -60 + i * 0.5);
/** so many pictures fit beside each other */
const SHOWN = 6;

/** Devices with a transfer curve that belong together in both chains: dB out for −60 to +6 dB in. */
export function transferCurves(first: Track, second: Track) {
  const curve = (d: Device | null) => {
    const transfer = d?.state === 'on' ? playedAs(d).curve : undefined;
    return d && transfer ? INPUT.map((level) => transfer(level, d.params)) : null;
  };
  return align(devicesIn(first.chain), devicesIn(second.chain))
    .map(([a, b]) => ({ name: (b ?? a)!.name, a: curve(a as Device | null), b: curve(b as Device | null) }))
    .filter((pair) => pair.a || pair.b)
    .slice(0, SHOWN);
}
