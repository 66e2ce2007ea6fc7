import {
  countedIds,
  createDevice,
  sha256Hex,
  writeWav,
  type Device,
  type IdMaker,
  type MediaRef,
  type Params,
  type Session,
} from '../core/index.ts';

export interface DemoSession {
  id: string;
  session: Session;
  media: Map<string, Uint8Array>;
}

export type Maker = {
  ids: IdMaker;
  d(type: string, name: string, params?: Params, over?: Partial<Device>): Device;
};
export const maker = (seed: string): Maker => {
  const ids = countedIds(seed);
  return {
    ids,
    d: (type, name, params = {}, over = {}) => createDevice(type, params, { name, ...over }, ids),
  };
};

/** EQ values in short: band number → [type, Hz, dB, Q, slope]. */
export const bands = (b: Record<number, [string, number, number?, number?, number?]>): Params =>
  Object.fromEntries(
    Object.entries(b).flatMap(([n, [type, f, g, q, slope]]) => [
      [`b${n}.on`, true],
      [`b${n}.type`, type],
      [`b${n}.freq`, f],
      [`b${n}.gain`, g ?? 0],
      [`b${n}.q`, q ?? (type === 'bell' ? 1 : 0.71)],
      [`b${n}.slope`, String(slope ?? 12)],
    ]),
  );

export const plateChain = (m: Maker, name: string, decay: number) => [
  m.d('eq', 'Before the plate', bands({ 1: ['highPass', 180, 0, 0.71, 12] })),
  m.d('reverb', name, { type: 'plate', decay, preDelay: 24, damping: 45, lowCut: 180, highCut: 9000 }),
];

export function addSound(
  s: Session,
  media: Map<string, Uint8Array>,
  m: Maker,
  name: string,
  channels: Float32Array[],
  rate: number,
) {
  const bytes = writeWav(channels, rate, 24);
  const ref: MediaRef = {
    id: sha256Hex(bytes),
    name: name + '.wav',
    sampleRate: rate,
    channels: channels.length === 1 ? 1 : 2,
    frames: channels[0].length,
  };
  s.media.push(ref);
  media.set(ref.id, bytes);
  return { id: m.ids('clp'), media: ref.id, start: 0, offset: 0, length: ref.frames / rate, gain: 0 };
}
