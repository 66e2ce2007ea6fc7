import { eq } from '../eq.ts';
import { reverb } from '../reverb.ts';
import { bandsOf, knob, logKnob, stepped, type UnitModel } from './model.ts';

/** Springs in a box: dark, dense, a little late. */
export const spring: UnitModel = {
  id: 'spring',
  label: 'spring reverb',
  family: 'reverb',
  width: 'mono',
  hasKey: false,
  nominal: 'minus10',
  panel: [
    logKnob('decay', 'Decay', [0, 0], { unit: 's', min: 1, max: 4, default: 2.1, means: 'decay' }),
    knob('damping', 'Damping', [1, 0], { unit: '%', min: 20, max: 100, default: 70, means: 'damping' }),
    stepped('lowCut', 'Low cut', [2, 0], 'Hz', [90, 180, 360], 180, { means: 'lowCut' }),
    knob('output', 'Output', [3, 0], { unit: 'dB', min: -24, max: 6, default: 0 }),
  ],
  stages: (at) => [
    {
      device: reverb,
      params: {
        ...reverb.defaults,
        type: 'plate',
        decay: at('decay'),
        preDelay: 28,
        damping: at('damping'),
        lowCut: at('lowCut'),
        highCut: 4200,
      },
    },
    {
      device: eq,
      params: { ...eq.defaults, out: at('output'), ...bandsOf({ 5: ['bell', 2100, 2, 1.2] }) },
    },
  ],
};

/** A large dark room in a rack unit. */
export const vault: UnitModel = {
  id: 'vault',
  label: 'vault reverb',
  family: 'reverb',
  width: 'stereo',
  hasKey: false,
  nominal: 'plus4',
  panel: [
    logKnob('decay', 'Decay', [0, 0], { unit: 's', min: 0.4, max: 8, default: 2.4, means: 'decay' }),
    knob('preDelay', 'Pre-delay', [1, 0], { unit: 'ms', min: 0, max: 120, default: 20, means: 'preDelay' }),
    knob('damping', 'Damping', [2, 0], { unit: '%', min: 0, max: 100, default: 45, means: 'damping' }),
    stepped('lowCut', 'Low cut', [3, 0], 'Hz', [60, 120, 250], 120, { means: 'lowCut' }),
  ],
  stages: (at) => [
    {
      device: reverb,
      params: {
        ...reverb.defaults,
        type: 'chamber',
        decay: at('decay'),
        preDelay: at('preDelay'),
        damping: at('damping'),
        lowCut: at('lowCut'),
      },
    },
  ],
};
