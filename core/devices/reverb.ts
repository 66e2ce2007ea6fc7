import { decay as decayPicture } from './pictures/decay.ts';
import { choice, defineDevice, percent, type DeviceContext } from './spec.ts';
import type { Params } from '../model/types.ts';
import { EightLines } from './reverb/eight-lines.ts';
import type { Network, RoomType } from './reverb/network.ts';
import { Scattering } from './reverb/scattering.ts';
import { SpaceProcessor, cuts, preDelay, type Spaces } from './reverb/space-processor.ts';

/** Pre-delay, cuts and a network that makes the space (see reverb/scattering.ts), with its width and its mix. */
export const reverb = defineDevice({
  type: 'reverb',
  label: 'Reverb',
  summary: 'Room, hall, plate or chamber; decay at 1 kHz, damping, pre-delay, cuts, width, mix.',
  hasKey: false,
  shares: 'linear',
  makesSides: true,
  picture: decayPicture,
  work: 33,
  wet: 'mix',
  character: (d) => `${String(d.params.type)} reverb`,
  alike: { words: /verb|plate|hall|room|chamber/i, rank: 8 },
  params: [
    choice(
      'type',
      'Type',
      'Space',
      [
        { id: 'room', label: 'Room' },
        { id: 'hall', label: 'Hall' },
        { id: 'plate', label: 'Plate' },
        { id: 'chamber', label: 'Chamber' },
      ],
      'plate',
    ),
    preDelay(10),
    {
      id: 'decay',
      label: 'Decay',
      group: 'Space',
      kind: 'number',
      unit: 's',
      min: 0.1,
      max: 12,
      default: 1.6,
      taper: 'log',
      step: 0.01,
      help: 'RT60 at 1 kHz',
    },
    percent('damping', 'Damping', 'Tone', 0, 100, 40, {
      step: 1,
      help: '0 %: 8 kHz decays as slowly as 1 kHz; 100 %: ten times faster, as far as the space’s echoes allow',
    }),
    ...cuts(120, 12000),
    percent('width', 'Width', 'Output', 0, 100, 100, { step: 1 }),
    percent('mix', 'Mix', 'Output', 0, 100, 100, { step: 1 }),
  ],
  latency: () => 0,
  create: (params, ctx) => new SpaceProcessor(params, ctx, madeBy(Scattering, ctx)),
  earlier: [
    {
      since:
        'early reflections, a tail that is dense at once and does not ring, highs that decay as stated, and a level that stays when the decay is changed',
      create: (params, ctx) => new SpaceProcessor(params, ctx, madeBy(EightLines, ctx)),
      work: 33,
    },
  ],
});

/** One network for each type of room. */
const madeBy = (
  Kind: new (type: RoomType, sampleRate: number) => Network,
  { sampleRate }: DeviceContext,
): Spaces => ({
  key: (p) => String(p.type),
  make: (p: Params) => new Kind(p.type as RoomType, sampleRate),
});
