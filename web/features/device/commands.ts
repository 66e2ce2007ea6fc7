import {
  ADDABLE,
  chainAt,
  placeOf,
  stateOfChains,
  walkSlots,
  type SlotState,
  type Track,
} from '../../../core/index.ts';
import { useSession } from '../../document/doc.ts';
import type { Command, FeatureCommands } from '../../ui/commands.ts';
import { fitsOn, putDevice } from './menus.ts';
import { group, takeApart } from './slots.ts';

const adding = (t: Track): Command[] =>
  ADDABLE.filter((d) => fitsOn(d, t.role)).map((d) => ({
    group: `On ${t.name}`,
    label: `Add ${d.label}`,
    run: () => void putDevice({ track: t.id }, d.type),
  }));

function grouping(t: Track): Command[] {
  const session = useSession();
  const x = session.slot;
  if (!x) return [];
  const ids = session.picked.length > 1 ? [...session.picked] : [x.id];
  const out: Command[] = [
    {
      group: `On ${t.name}`,
      label: ids.length > 1 ? `Put ${ids.length} devices into a rack` : `Put ${x.name} into a rack`,
      keys: 'G',
      run: () => group(t, ids, x),
    },
  ];
  if (x.kind === 'rack') {
    out.push({
      group: `On ${t.name}`,
      label: `Ungroup ${x.name}`,
      keys: 'Shift G',
      run: () => takeApart(t, x),
    });
  }
  return out;
}

/** [ and ] go along the chain that the selected device stands in, around its ends. */
function walkChain(t: Track, step: 1 | -1): void {
  const session = useSession();
  const now = session.slot;
  const chain = (now && chainAt(t, placeOf(t, now.id)!.container)) ?? t.chain;
  const i = chain.findIndex((x) => x.id === session.selectedDevice);
  const first = step === 1 ? 0 : chain.length - 1;
  const next = i < 0 ? first : (i + step + chain.length) % chain.length;
  session.select(t.id, chain[next].id);
}

/**
 * Puts what is chosen into a state, or back on when all of it is in it: the chosen devices, or where none is chosen all
 * that stand on the chosen lines.
 */
function flipState(to: SlotState): void {
  const session = useSession();
  const lines = session.many.length > 1 ? session.many : [session.track!];
  const picked = session.slot ? [session.slot.id] : null;
  const only = session.picked.length > 1 ? [...session.picked] : picked;
  const slots = lines.flatMap((t) => (only ? [...walkSlots(t.chain)] : t.chain));
  const meant = slots.filter((x) => !only || only.includes(x.id));
  if (!meant.length) return;
  const state = meant.every((x) => x.state === to) ? 'on' : to;
  const words = meant.length === 1 ? meant[0].name : `${meant.length} devices`;
  const ids = lines.map((t) => t.id);
  session.edit(`${words}: ${state}`, stateOfChains(ids, state, only ?? undefined));
}

/** What the keyboard does with devices of the chosen lines. */
const handling = (t: Track): Command[] => [
  ...(t.chain.length
    ? [
        { group: 'Devices', label: 'Choose the device before', keys: '[', run: () => walkChain(t, -1) },
        { group: 'Devices', label: 'Choose the device after', keys: ']', run: () => walkChain(t, 1) },
      ]
    : []),
  { group: 'Devices', label: 'Devices on or bypassed', keys: 'B', run: () => flipState('bypassed') },
  { group: 'Devices', label: 'Devices active or inactive', keys: 'I', run: () => flipState('inactive') },
];

export const deviceCommands: FeatureCommands = {
  commands: (place) => {
    const t = place === 'session' ? useSession().track : null;
    return t ? [...adding(t), ...grouping(t), ...handling(t)] : [];
  },
  shortcuts: [
    ['[', 'Choose the device before'],
    [']', 'Choose the device after'],
    ['B', 'Chosen devices, or all of the chosen lines: on or bypassed'],
    ['I', 'Chosen devices, or all of the chosen lines: active or inactive'],
    ['G', 'Put the device into a rack'],
    ['Shift G', 'Take a rack apart'],
  ],
};
