import type { Id, Track } from '../../model/types.ts';
import { devicesIn } from '../../session/slots.ts';
import { chainShape } from './chain.ts';
import type { PresetShape } from './index.ts';

/** What a line's chain does by itself, whatever the line is otherwise. */
export interface LineChain {
  track: Id;
  name: string;
  /** what its devices that are on are called, in order */
  devices: string[];
  shape: PresetShape;
}

/** The chains of lines that have one, each for itself: to find the same one on another line, or on the shelf. */
export const chainShapes = (tracks: readonly Track[]): LineChain[] =>
  tracks.flatMap((t): LineChain[] => {
    const chain = chainShape(t.chain, () => 'out');
    if (!chain.length) return [];
    const line = { place: 'chain', chain, sends: [], numbers: [], words: [] };
    return [
      {
        track: t.id,
        name: t.name,
        devices: devicesIn(t.chain)
          .filter((d) => d.state === 'on')
          .map((d) => d.name),
        shape: { kind: 'chain', lines: [line], around: '' },
      },
    ];
  });
