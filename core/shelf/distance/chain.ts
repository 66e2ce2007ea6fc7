import type { Rack, Slot, Strand } from '../../model/types.ts';
import { aligned, saturated, squared, WHOLE } from './apart.ts';
import { deviceShape, devicesApart, type DeviceShape, type Places } from './device.ts';
import { levelAt } from './level.ts';

export interface StrandShape {
  chain: ChainShape;
  level: number;
  pan: number;
  mute: boolean;
}
export interface RackShape {
  kind: 'rack';
  strands: readonly StrandShape[];
  /** the blend's mode, and its position where it has one */
  blend: string;
  position: number;
}
export type ChainShape = readonly (DeviceShape | RackShape)[];

const SWITCH = 0.3;

/** What of a chain is heard. */
export const chainShape = (chain: readonly Slot[], places: Places): ChainShape =>
  chain.flatMap((s): (DeviceShape | RackShape)[] => {
    const shape = s.kind === 'rack' ? rackShape(s, places) : deviceShape(s, places);
    return shape ? [shape] : [];
  });

function rackShape(r: Rack, places: Places): RackShape | null {
  if (r.state !== 'on') return null;
  const isSolo = r.strands.some((s) => s.solo);
  const strand = (s: Strand): StrandShape => ({
    chain: chainShape(s.chain, places),
    level: levelAt(s.level),
    pan: s.pan / 200,
    mute: s.mute || (isSolo && !s.solo),
  });
  const { mode, position } = r.blend;
  return { kind: 'rack', strands: r.strands.map(strand), blend: mode, position: position / 100 };
}

const slots = {
  between(a: DeviceShape | RackShape, b: DeviceShape | RackShape): number {
    if (a.kind === 'rack') return b.kind === 'rack' ? squared(racksApart(a, b)) : Infinity;
    return b.kind === 'rack' ? Infinity : squared(devicesApart(a, b));
  },
  alone: (x: DeviceShape | RackShape): number => squared(x.kind === 'rack' ? WHOLE : x.alone),
  // two that are heard differently much are at least so far apart
  atLeast: (a: DeviceShape | RackShape, b: DeviceShape | RackShape): number =>
    a.kind === 'rack' || b.kind === 'rack' || a.type === b.type ? 0 : squared(a.alone - b.alone),
};

/** The sum of squares between two chains. */
export const chainsApart = (a: ChainShape, b: ChainShape, limit?: number): number =>
  aligned(a, b, slots, limit);

const strands = {
  between: (a: StrandShape, b: StrandShape): number =>
    chainsApart(a.chain, b.chain) +
    squared(a.level - b.level) +
    squared(a.pan - b.pan) +
    squared(a.mute === b.mute ? 0 : SWITCH),
  alone: (): number => squared(WHOLE),
};

function racksApart(a: RackShape, b: RackShape): number {
  const isBlended = a.blend !== 'off' && b.blend !== 'off';
  const sum =
    aligned(a.strands, b.strands, strands) +
    squared(a.blend === b.blend ? 0 : SWITCH) +
    squared(isBlended ? a.position - b.position : 0);
  return saturated(Math.sqrt(sum));
}
