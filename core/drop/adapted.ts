import { DEVICE_TYPES, valueIn } from '../devices/index.ts';
import type { ParamSpec } from '../model/param.ts';
import type { Device, Id, Origin, Preset, Session, Slot, Track } from '../model/types.ts';
import { formatValue } from '../model/units.ts';
import { devicesIn, mapSlots } from '../session/slots.ts';
import { sideOf, type Root } from './roots.ts';

/** A value that was made otherwise on purpose: adapted by the drop, or fitted to the sound. */
export interface AdaptedHere {
  /** under the preset's id: "dev4/time" */
  path: string;
  label: string;
  /** as the preset has it, and as it is here, in words */
  saved: string;
  here: string;
}

/** A device here, the one of the preset that it came from, and the value that was adapted. */
interface Found {
  path: string;
  own: Device;
  saved: Device;
  spec: ParamSpec;
}

function foundIn({ track, slot, origin }: Root, preset: Preset): Found[] {
  const side = sideOf(preset, origin, !!slot);
  const chain: readonly Slot[] = slot ? [slot] : track.chain;
  const localOf = (id: Id): Id | undefined => (id === slot?.id ? origin.local : origin.ids?.[id]);
  return Object.keys(origin.adapted ?? {}).flatMap((path) => {
    const [local, param] = path.split('/');
    const own = devicesIn(chain).find((d) => localOf(d.id) === local);
    const saved = side && devicesIn(side.chain).find((d) => d.id === local);
    const spec = own && DEVICE_TYPES[own.type].byId[param];
    return own && saved?.type === own.type && spec ? [{ path, own, saved, spec }] : [];
  });
}

/** The values of a line or piece that were adapted or fitted, and still differ from the preset's. */
export const adaptedHere = (root: Root, preset: Preset): AdaptedHere[] =>
  foundIn(root, preset)
    .filter(({ own, saved, spec }) => valueIn(own, spec) !== valueIn(saved, spec))
    .map(({ path, own, saved, spec }) => ({
      path,
      label: `${own.name} · ${spec.label}`,
      saved: formatValue(spec, valueIn(saved, spec)),
      here: formatValue(spec, valueIn(own, spec)),
    }));

/** Takes adaptations back: the values are the preset's again, and count as its own from then on. */
export function takeBackAdapted(
  session: Session,
  root: Root,
  preset: Preset,
  paths: readonly string[],
): Session {
  const back = foundIn(root, preset).filter((f) => paths.includes(f.path));
  const values = (d: Device) =>
    back.filter((f) => f.own.id === d.id).map((f) => [f.spec.id, valueIn(f.saved, f.spec)]);
  const forgotten = (origin: Origin): Origin => {
    const left = Object.entries(origin.adapted ?? {}).filter(([path]) => !back.some((f) => f.path === path));
    return { ...origin, adapted: Object.fromEntries(left) };
  };
  const slotBack = (s: Slot): Slot => {
    const own = s.kind === 'device' ? { ...s, params: { ...s.params, ...Object.fromEntries(values(s)) } } : s;
    return s.id === root.slot?.id ? { ...own, origin: forgotten(root.origin) } : own;
  };
  const lineBack = (t: Track): Track => ({
    ...t,
    chain: mapSlots(t.chain, slotBack),
    ...(root.slot ? {} : { origin: forgotten(root.origin) }),
  });
  return { ...session, tracks: session.tracks.map((t) => (t.id === root.track.id ? lineBack(t) : t)) };
}
