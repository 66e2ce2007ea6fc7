import { space as spacePicture } from './pictures/space.ts';
import { defineDevice, percent, toggle, type DeviceContext } from './spec.ts';
import type { Params } from '../model/types.ts';
import { Convolver } from './convolution/convolver.ts';
import { Response, responseKey } from './convolution/response.ts';
import { SPACES, soundOfSpace, spaceId, spaceOf } from './convolution/spaces.ts';
import type { Network } from './reverb/network.ts';
import { SpaceProcessor, cuts, preDelay } from './reverb/space-processor.ts';
import type { Sound } from './sounds.ts';

/**
 * A space as it was recorded: convolution with an impulse response, a person's own (a sound of the session, by its
 * sha-256) or one of ours that is made by formula. It adds no delay.
 */
export const convolution = defineDevice({
  type: 'convolution',
  label: 'Convolution reverb',
  summary: 'A recorded space: your own impulse response or one of ours; start, length, cuts, width, mix.',
  hasKey: false,
  shares: 'linear',
  makesSides: true,
  picture: spacePicture,
  work: 40,
  wet: 'mix',
  character: (d) => spaceOf(String(d.params.impulse))?.label.toLowerCase() ?? 'recorded space',
  alike: { words: /convol|impulse/i, rank: 7 },
  params: [
    {
      id: 'impulse',
      label: 'Impulse response',
      group: 'Space',
      kind: 'text',
      default: spaceId(SPACES[0]),
      help: 'A space of ours, or a sound of the session by its sha-256',
      choices: SPACES.map((s) => ({ id: spaceId(s), label: s.label })),
    },
    preDelay(0),
    {
      id: 'start',
      label: 'Start',
      group: 'Space',
      kind: 'number',
      unit: 'ms',
      min: 0,
      max: 1000,
      default: 0,
      taper: 'square',
      step: 0.1,
      help: 'Leaves out so much of its beginning',
    },
    percent('length', 'Length', 'Space', 5, 100, 100, { step: 1, help: 'Cuts the end off and fades it' }),
    ...cuts(16, 24000),
    percent('width', 'Width', 'Output', 0, 100, 100, { step: 1 }),
    toggle('even', 'Even level', 'Output', true, 'Every space as loud as the reverb; off: as the file is'),
    percent('mix', 'Mix', 'Output', 0, 100, 100, { step: 1 }),
  ],
  latency: () => 0,
  plays: 'impulse',
  create: (params, ctx) =>
    new SpaceProcessor(params, ctx, { key: responseKey, make: (p) => convolverOf(p, ctx) }),
});

/** The sound that a device's value names: of the session, or one of ours. While playing, both are brought beforehand. */
function impulseOf(impulse: string, ctx: DeviceContext): Sound | null {
  const brought = ctx.sounds?.get(impulse);
  if (brought || ctx.live) return brought ?? null;
  const ours = spaceOf(impulse);
  return ours ? soundOfSpace(ours, ctx.sampleRate) : null;
}

function convolverOf(p: Params, ctx: DeviceContext): Network {
  const key = responseKey(p);
  const sound = impulseOf(String(p.impulse), ctx);
  if (sound) return new Convolver(key, new Response(sound, p, ctx.sampleRate));
  return new Awaiting(key, () => {
    const come = impulseOf(String(p.impulse), ctx);
    return come ? new Convolver(key, new Response(come, p, ctx.sampleRate)) : null;
  });
}

/** Silent until its sound is there. */
class Awaiting implements Network {
  private inner: Network | null = null;
  constructor(
    readonly key: string,
    private readonly look: () => Network | null,
  ) {}
  set(): void {
    // everything that it depends on is in its key
  }
  process(l: Float64Array, r: Float64Array, n: number): void {
    this.inner ??= this.look();
    if (this.inner) this.inner.process(l, r, n);
    else {
      l.fill(0, 0, n);
      r.fill(0, 0, n);
    }
  }
  reset(): void {
    this.inner?.reset();
  }
}
