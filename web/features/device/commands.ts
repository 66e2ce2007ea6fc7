import { ADDABLE, chainAt, placeOf, setState, type SlotState, type Track } from '../../../core/index.ts';
import { useSession } from '../../document/doc.ts';
import type { Command, FeatureCommands, Place } from '../../ui/commands.ts';
import { fitsOn, putDevice } from './menus.ts';
import { group, takeApart } from './slots.ts';

const adding = (t: Track): Command[] =>
  ADDABLE.filter((d) => fitsOn(d, t.role)).map((d) => ({
    group: `On ${t.name}`,
    label: `Add ${d.label}`,
    run: () => putDevice({ track: t.id }, d.type),
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

/** Puts a device into a state, or back on when it is in it. */
function flipState(to: SlotState): void {
  const session = useSession();
  const [t, d] = [session.track, session.slot];
  if (!t || !d) return;
  const state = d.state === to ? 'on' : to;
  session.edit(`${d.name}: ${state}`, setState(t.id, d.id, state));
}

function key(e: KeyboardEvent, place: Place): boolean {
  const session = useSession();
  const t = session.track;
  if (place !== 'session' || !t) return false;
  const pressed = e.key.toLowerCase();
  if ((pressed === '[' || pressed === ']') && t.chain.length) {
    walkChain(t, pressed === ']' ? 1 : -1);
    return true;
  }
  if ((pressed === 'b' || pressed === 'i') && session.slot) {
    flipState(pressed === 'b' ? 'bypassed' : 'inactive');
    return true;
  }
  return false;
}

export const deviceCommands: FeatureCommands = {
  commands: (place) => {
    const t = place === 'session' ? useSession().track : null;
    return t ? [...adding(t), ...grouping(t)] : [];
  },
  key,
  shortcuts: [
    ['[ ]', 'Choose the device before or after'],
    ['B', 'Device: on or bypassed'],
    ['I', 'Device: active or inactive'],
    ['G', 'Put the device into a rack'],
    ['Shift G', 'Take a rack apart'],
  ],
};
