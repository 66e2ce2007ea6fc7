import { clone } from '../../model/json.ts';
import type { Device, Id, ParamValue, Slot, Track } from '../../model/types.ts';
import { mapSlots } from '../../session/slots.ts';
import type { Changed, DropPlan, Explanation } from '../types.ts';
import { adaptationAt, type AdaptationKind, type Adapted, type Adapting } from './adaptation.ts';
import { controllers } from './controller.ts';
import { fit } from './fit.ts';
import { hardware, inputHere } from './hardware.ts';
import { key } from './key.ts';
import { midi, movedAddress, movedNotes } from './midi.ts';
import { names } from './name.ts';
import { portHere, ports } from './port.ts';
import { rate } from './rate.ts';
import { silentSends } from './silent-sends.ts';
import { standIns } from './stand-in.ts';
import { tempo } from './tempo.ts';
import { explainAdapted, rememberAdapted, withAdapted } from './value.ts';
import { width } from './width.ts';

/** Every reason why something may be otherwise here than in the preset; a new one is one file and one line. */
const ADAPTATIONS: readonly AdaptationKind[] = [
  names,
  controllers,
  midi,
  tempo,
  key,
  width,
  rate,
  standIns,
  ports,
  hardware,
  silentSends,
  fit,
];

/** Works out everything that changes on arrival. */
export function planAdaptations(c: Omit<Adapting, 'out'>): Changed {
  const out: Changed = { renames: [], adaptations: [], standIns: [], ports: [], units: [], facts: [] };
  for (const a of ADAPTATIONS) a.plan({ ...c, out });
  return out;
}

const kindsFor = (spare: boolean) => ADAPTATIONS.filter((a) => !(spare && a.linesOnly));

/** What the parts ask while they put a line, or a spare, into the session. */
export const adaptedBy = (plan: Changed, spare = false): Adapted => ({
  slot: (slot, home) => mapSlots([clone(slot)], (s) => adaptedSlot(s, home, plan, spare))[0],
  address: (a) => movedAddress(plan, a),
  notes: (t) => movedNotes(plan, t),
  port: (side, port) => portHere(plan, side, port),
  input: (home, input) => inputHere(home, input, plan),
  sendLevel: (home, send) => {
    const level = adaptationAt(plan, `${home.id}/${send.id}/level`);
    return level ? (level.to as number) : send.level;
  },
  name: (local, name) => plan.renames.find((r) => r.local === local)?.to ?? name,
});

function adaptedSlot(slot: Slot, home: Track, plan: Changed, spare: boolean): Slot {
  const carried = kindsFor(spare).reduce((s, a) => a.slot?.(s, home, plan) ?? s, slot);
  return withAdapted(carried, home, plan);
}

/** What was adapted within a track, under the preset's ids, for its origin. */
export const rememberedOf = (
  t: Track,
  named: readonly Id[],
  plan: Changed,
  spare = false,
): Record<string, ParamValue> =>
  kindsFor(spare).reduce(
    (all, a) => ({ ...all, ...a.remember?.(t, named, plan) }),
    rememberAdapted(t, named, plan),
  );

/** Why a device's value is not the preset's. */
export function explainValue(
  t: Track,
  want: Device,
  param: string,
  found: ParamValue | undefined,
  plan: DropPlan,
): Explanation | null {
  for (const a of ADAPTATIONS) {
    const why = a.explain?.(t, want, param, found, plan);
    if (why) return why;
  }
  return explainAdapted(t, want, param, found, plan);
}

/** Another device that stands in the place of one that cannot run here. */
export function replacedBy(path: string, found: Device | undefined, plan: DropPlan) {
  for (const a of ADAPTATIONS) {
    const other = a.replaced?.(path, found, plan);
    if (other) return other;
  }
  return null;
}
