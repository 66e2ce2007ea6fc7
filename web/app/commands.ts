import type { Router } from 'vue-router';
import { useSession } from '../document/doc.ts';
import { deviceCommands } from '../features/device/index.ts';
import { kitCommands } from '../features/kit/index.ts';
import { lineCommands } from '../features/lines/index.ts';
import { originCommands } from '../features/origin/index.ts';
import { choosePack } from '../features/packs/index.ts';
import { rackCommands } from '../features/rack/index.ts';
import { sessionCommands } from '../features/session/index.ts';
import { sessionsCommands } from '../features/sessions/index.ts';
import { shelfCommands } from '../features/shelf/index.ts';
import { transportCommands } from '../features/transport/index.ts';
import type { Command, FeatureCommands, Place, Shortcut } from '../ui/commands.ts';
import { useSheets } from '../ui/sheets.ts';
import { useTour } from '../ui/tour.ts';
import { useUi } from '../ui/window.ts';

/** The features in the order in which the palette and the keyboard sheet list what they lend. */
const FEATURES: FeatureCommands[] = [
  transportCommands,
  sessionCommands,
  lineCommands,
  rackCommands,
  kitCommands,
  deviceCommands,
  originCommands,
  shelfCommands,
  sessionsCommands,
];

/** opens the palette, from anywhere */
export const PALETTE_KEY = 'Ctrl K';

export const SHORTCUTS: Shortcut[] = [
  [PALETTE_KEY, 'Find or do anything'],
  ...FEATURES.flatMap((f) => f.shortcuts ?? []),
  ['?', 'Keyboard shortcuts'],
  ['F6 and Shift F6', 'To the next or previous part of the screen'],
  ['Arrow keys in a list', 'From one to the next; Home and End to its ends'],
  ['Arrow keys on a value', 'Step; with Shift fine'],
  ['Backspace on a value', 'Its default'],
  ['Enter or a digit on a value', 'Type it, with units'],
];

/** Commands of the shell itself: where to go, and how the window looks. */
function shellCommands(router: Router): Command[] {
  const ui = useUi();
  const session = useSession();
  const go = (label: string, to: string): Command => ({
    group: 'Go',
    label,
    run: () => void router.push(to),
  });
  const home = `/session/${session.id}`;
  return [
    go('Shelf', '/shelf'),
    go('Sessions', '/sessions'),
    go('Hardware', '/hardware'),
    go('Prints', '/prints'),
    go('Program settings', '/settings'),
    go('Trash', '/trash'),
    go('Welcome', '/welcome'),
    { group: 'Go', label: 'Guide', run: () => useSheets().open('guide', {}) },
    { group: 'Go', label: 'First steps', run: () => useTour().begin() },
    { group: 'Shelf', label: 'Take in a pack or backup …', run: choosePack },
    {
      group: 'View',
      label: ui.theme === 'day' ? 'Night theme' : 'Day theme',
      run: () => ui.turnTheme(),
    },
    {
      group: 'View',
      label: 'Keyboard shortcuts',
      keys: '?',
      run: () => useSheets().open('shortcuts', {}),
    },
    ...(session.doc && session.id
      ? [
          go('Signal map', `${home}/map`),
          go('Line check', `${home}/check`),
          go('Patch list', `${home}/patch`),
          go('Print', `${home}/print`),
          go('Lines', home),
        ]
      : []),
  ];
}

const placeOf = (router: Router) => router.currentRoute.value.name as Place;

/** Everything that can be done now. */
export const commandsNow = (router: Router): Command[] => [
  ...shellCommands(router),
  ...FEATURES.flatMap((f) => f.commands?.(placeOf(router)) ?? []),
];

/** Lets the features fetch what may be meant by what is typed in the palette. */
export async function prepareCommands(text: string): Promise<void> {
  await Promise.all(FEATURES.map((f) => f.prepare?.(text)));
}

/** Lets the features hear a key; true when one of them took it. */
export const featureTakes = (e: KeyboardEvent, router: Router): boolean =>
  FEATURES.some((f) => f.key?.(e, placeOf(router)));
