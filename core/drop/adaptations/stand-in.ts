import { DEVICE_TYPES } from '../../devices/index.ts';
import type { Device, Track } from '../../model/types.ts';
import { createDevice } from '../../session/create.ts';
import { devicesIn } from '../../session/slots.ts';
import type { Changed, StandIn } from '../types.ts';
import type { AdaptationKind } from './adaptation.ts';

/** Takes the place of what nothing is known of: it changes nothing. */
const KEEPS_PLACE = 'trim';

/** The built-in device that does what a third-party one says by its name that it does; a Trim keeps the place. */
function likelyType(d: Device, name: string): string {
  const types = Object.values(DEVICE_TYPES).filter((t) => t.alike);
  const hits = types.filter((t) => t.alike!.words.test(`${d.name} ${name}`));
  return hits.sort((a, b) => a.alike!.rank - b.alike!.rank)[0]?.type ?? KEEPS_PLACE;
}

function standInFor(t: Track, d: Device, wanted: Record<string, boolean>): StandIn {
  const name = d.foreign!.name || d.name;
  const type = likelyType(d, name);
  const typeLabel = DEVICE_TYPES[type].label;
  const path = `${t.id}/${d.id}`;
  const reason =
    type === KEEPS_PLACE
      ? 'its name does not say what it does; a Trim keeps its place'
      : `by its name the nearest built-in device is ${typeLabel}, with its factory values`;
  return { path, label: `${t.name} · ${d.name}`, name, type, typeLabel, reason, on: wanted[path] ?? false };
}

const chosenAt = (plan: Changed, path: string): StandIn | undefined =>
  plan.standIns.find((x) => x.on && x.path === path);

/** Devices of others that cannot run here: a built-in one may take their place, when a person says so. */
export const standIns: AdaptationKind = {
  id: 'stand-in',

  plan(c) {
    for (const t of c.sounding) {
      for (const d of devicesIn(t.chain)) {
        if (d.foreign) c.out.standIns.push(standInFor(t, d, c.options.standIns ?? {}));
      }
    }
  },

  slot(slot, home, plan) {
    const instead = slot.kind === 'device' && chosenAt(plan, `${home.id}/${slot.id}`);
    if (!instead) return slot;
    return createDevice(instead.type, {}, { id: slot.id, name: slot.name, state: slot.state, key: slot.key });
  },

  remember: (t, named, plan) =>
    Object.fromEntries(
      plan.standIns
        .filter((x) => x.on && x.path.startsWith(`${t.id}/`) && named.includes(x.path.split('/')[1]))
        .map((x) => [`${x.path.split('/')[1]}/type`, x.type]),
    ),

  replaced(path, found, plan) {
    const instead = chosenAt(plan, path);
    if (!instead || found?.type !== instead.type) return null;
    return {
      wanted: instead.name,
      found: instead.typeLabel,
      reason: 'a built-in device takes its place, as chosen',
    };
  },
};
