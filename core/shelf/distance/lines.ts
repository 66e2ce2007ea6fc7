import type { Id, Track } from '../../model/types.ts';
import { devicesIn } from '../../session/slots.ts';
import { chainShape, type ChainShape } from './chain.ts';
import type { PresetShape } from './index.ts';

/** What a line's chain does by itself, whatever the line is otherwise. */
export interface LineChain {
  track: Id;
  name: string;
  /** what its devices that are on are called, in order */
  devices: string[];
  shape: PresetShape;
}

/** What is outside of a line, wherever it is. */
const OUT = 'out';

const shapeOf = (chain: ChainShape): PresetShape => {
  const line = { place: 'chain', chain, sends: [], numbers: [], words: [] };
  return { kind: 'chain', lines: [line], around: '' };
};

/** The chains of lines that have one, each for itself: to find the same one on another line, or on the shelf. */
export const chainShapes = (tracks: readonly Track[]): LineChain[] =>
  tracks.flatMap((t): LineChain[] => {
    const chain = chainShape(t.chain, () => OUT);
    if (!chain.length) return [];
    const on = devicesIn(t.chain).filter((d) => d.state === 'on');
    return [{ track: t.id, name: t.name, devices: on.map((d) => d.name), shape: shapeOf(chain) }];
  });

/** A chain by itself: a key comes from outside of it, whichever line that is. */
const byItself = (chain: ChainShape): ChainShape =>
  chain.map((s) => {
    if (s.kind === 'rack') {
      return { ...s, strands: s.strands.map((x) => ({ ...x, chain: byItself(x.chain) })) };
    }
    return s.key ? { ...s, key: { ...s.key, place: OUT } } : s;
  });

/** The chains of a preset's own lines, as `chainShapes` has them, out of its shape. */
export const chainsOfShape = ({ lines }: PresetShape): PresetShape[] =>
  lines.filter((l) => l.place.startsWith('line') && l.chain.length).map((l) => shapeOf(byItself(l.chain)));
