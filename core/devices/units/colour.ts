import { eq } from '../eq.ts';
import { saturator } from '../saturator.ts';
import { trim } from '../trim.ts';
import { bandsOf, button, fader, knob, stepped, turn, type UnitModel } from './model.ts';

/** A preamp with a three-band equaliser. */
export const preamp: UnitModel = {
  id: 'preamp',
  label: 'preamp with equaliser',
  family: 'preamp',
  width: 'mono',
  hasKey: false,
  nominal: 'plus4',
  panel: [
    stepped('gain', 'Gain', [0, 0], 'dB', [-10, -5, 0, 5, 10, 15, 20, 25, 30], 0, { means: 'gain' }),
    button('pad', 'Pad 20 dB', [1, 0]),
    button('polarity', 'Polarity', [2, 0]),
    stepped('lowFreq', 'Low', [0, 1], 'Hz', [40, 80, 160, 320], 80),
    knob('lowGain', 'Low gain', [1, 1], { unit: 'dB', min: -12, max: 12, default: 0 }),
    stepped('midFreq', 'Middle', [2, 1], 'Hz', [350, 700, 1500, 3000, 5600], 1500),
    knob('midGain', 'Middle gain', [3, 1], { unit: 'dB', min: -12, max: 12, default: 0 }),
    knob('highGain', 'High gain', [4, 1], { unit: 'dB', min: -12, max: 12, default: 0 }),
    turn('cut', 'Low cut', [3, 0], ['off', '40 Hz', '80 Hz'], 0),
    fader('output', 'Output', [5, 0], { unit: 'dB', min: -30, max: 10, default: 0, means: 'output' }),
  ],
  stages(at) {
    const turned = at('polarity') === 1;
    const cut = [0, 40, 80][at('cut')] ?? 0;
    const lowCut = cut ? bandsOf({ 1: ['highPass', cut, 0] }) : {};
    const bands = bandsOf({
      2: ['lowShelf', at('lowFreq'), at('lowGain')],
      4: ['bell', at('midFreq'), at('midGain'), 0.9],
      7: ['highShelf', 10000, at('highGain')],
    });
    return [
      {
        device: trim,
        params: {
          ...trim.defaults,
          gain: at('gain') - (at('pad') === 1 ? 20 : 0),
          polarityL: turned,
          polarityR: turned,
        },
      },
      { device: saturator, params: { ...saturator.defaults, drive: 1, colour: 30, output: -1 } },
      { device: eq, params: { ...eq.defaults, ...bands, ...lowCut } },
      { device: trim, params: { ...trim.defaults, gain: at('output') } },
    ];
  },
};

/** Saturation as of tape: a drive, two speeds with their bumps and tops. */
export const tape: UnitModel = {
  id: 'tape',
  label: 'tape-like saturator',
  family: 'saturation',
  width: 'stereo',
  hasKey: false,
  nominal: 'plus4',
  panel: [
    knob('drive', 'Drive', [0, 0], { unit: 'dB', min: 0, max: 24, default: 6, means: 'drive' }),
    knob('bias', 'Bias', [1, 0], { unit: '%', min: 0, max: 100, default: 25, means: 'colour' }),
    turn('speed', 'Speed', [2, 0], ['slow', 'fast'], 1),
    knob('output', 'Output', [3, 0], { unit: 'dB', min: -24, max: 6, default: -3, means: 'output' }),
  ],
  stages(at) {
    const fast = at('speed') === 1;
    const [bump, top] = fast ? [45, 17000] : [75, 11000];
    const bands = bandsOf({ 3: ['bell', bump, 1.5, 1], 8: ['lowPass', top, 0] });
    return [
      {
        device: saturator,
        params: { ...saturator.defaults, drive: at('drive'), colour: at('bias'), output: at('output') },
      },
      { device: eq, params: { ...eq.defaults, ...bands } },
    ];
  },
};
