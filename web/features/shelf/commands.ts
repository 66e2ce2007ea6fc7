import { isPiece } from '../../../core/index.ts';
import type { PresetEntry } from '../../../contract/index.ts';
import { useSession } from '../../document/doc.ts';
import type { Command, FeatureCommands } from '../../ui/commands.ts';
import { useUi } from '../../ui/window.ts';
import { useDrop } from '../drop/index.ts';
import { useShelf } from './store.ts';

function dropping(p: PresetEntry): Command[] {
  const drop = useDrop();
  const t = useSession().track;
  const piece = isPiece(p.kind);
  const out: Command[] = [
    {
      group: 'Drop',
      label: `Drop “${p.name}” as ${p.summary.tracks > 1 ? 'new lines' : 'a new line'}`,
      run: () => void drop.begin(p.id, { kind: 'new' }, true),
    },
  ];
  if (!t || p.summary.tracks !== 1) return out;
  const chain = piece ? 'append' : 'replace';
  return [
    ...out,
    {
      group: 'Drop',
      label: `Drop “${p.name}” onto ${t.name}`,
      run: () => void drop.begin(p.id, { kind: 'onto', track: t.id, chain }, piece),
    },
  ];
}

/** the words of the commands themselves, which are no part of a preset's name */
const COMMAND_WORDS = new Set(['drop', 'look', 'at', 'as', 'a', 'new', 'line', 'lines', 'onto', 'shelf']);
const presetWords = (text: string): string =>
  text
    .toLowerCase()
    .split(/\s+/)
    .filter((word) => !COMMAND_WORDS.has(word))
    .join(' ');

const searching: Command = {
  group: 'View',
  label: 'Search the shelf',
  keys: '/',
  run: () => {
    useUi().shelfOpen = true;
    setTimeout(() => document.getElementById('shelf-search')?.focus());
  },
};

export const shelfCommands: FeatureCommands = {
  commands: (place) => [
    searching,
    ...(place === 'session' && useSession().doc ? useShelf().known.flatMap((p) => dropping(p)) : []),
    ...useShelf().known.map((p) => ({
      group: 'Shelf',
      label: `Look at “${p.name}”`,
      run: () => useShelf().lookAt(p.id),
    })),
  ],
  prepare: (text) => useShelf().learn(presetWords(text)),
  shortcuts: [['/', 'Search the shelf']],
};
