import { compressor } from '../compressor.ts';
import { eq } from '../eq.ts';
import { bandsOf, knob, logKnob, stepped, turn, type UnitModel } from './model.ts';

const KEY_FILTER = ['flat', '90 Hz', '180 Hz'];
/** Hz from which on the detector listens, by the position of its switch. */
const KEY_LOW = [16, 90, 180];

/** A compressor for one voice: everything on knobs, a little weight at the bottom. */
export const monoCompressor: UnitModel = {
  id: 'compressor',
  label: 'compressor',
  family: 'compressor',
  width: 'mono',
  hasKey: true,
  nominal: 'plus4',
  panel: [
    knob('threshold', 'Threshold', [0, 0], {
      unit: 'dB',
      min: -40,
      max: 0,
      default: -20,
      means: 'threshold',
    }),
    stepped('ratio', 'Ratio', [1, 0], ':1', [2, 3, 4, 6, 10], 4, { means: 'ratio' }),
    logKnob('attack', 'Attack', [2, 0], { unit: 'ms', min: 0.3, max: 60, default: 8, means: 'attack' }),
    logKnob('release', 'Release', [3, 0], {
      unit: 'ms',
      min: 50,
      max: 1500,
      default: 180,
      means: 'release',
    }),
    knob('makeup', 'Makeup', [4, 0], { unit: 'dB', min: 0, max: 24, default: 4, means: 'makeup' }),
    turn('keyFilter', 'Key filter', [5, 0], KEY_FILTER, 0),
    turn('in', 'In circuit', [6, 0], ['no', 'yes'], 1),
  ],
  stages(at) {
    const on = at('in') === 1;
    return [
      {
        device: compressor,
        params: {
          ...compressor.defaults,
          threshold: on ? at('threshold') : 0,
          ratio: on ? at('ratio') : 1,
          knee: 10,
          attack: at('attack'),
          release: at('release'),
          makeup: on ? at('makeup') : 0,
          keyFilter: at('keyFilter') > 0,
          keyLow: KEY_LOW[at('keyFilter')] ?? 16,
        },
      },
      {
        device: eq,
        params: {
          ...eq.defaults,
          ...bandsOf({ 2: ['lowShelf', 90, on ? 0.8 : 0], 7: ['highShelf', 9000, on ? -0.9 : 0] }),
        },
      },
    ];
  },
};

/** A stereo compressor for buses: stepped times, and a mix. */
export const stereoCompressor: UnitModel = {
  id: 'stereo-compressor',
  label: 'stereo compressor',
  family: 'compressor',
  width: 'stereo',
  hasKey: true,
  nominal: 'plus4',
  panel: [
    knob('threshold', 'Threshold', [0, 0], {
      unit: 'dB',
      min: -30,
      max: 0,
      default: -14,
      means: 'threshold',
    }),
    stepped('ratio', 'Ratio', [1, 0], ':1', [1.5, 2, 4, 10], 2, { means: 'ratio' }),
    stepped('attack', 'Attack', [2, 0], 'ms', [0.1, 0.3, 1, 3, 10, 30], 10, { means: 'attack' }),
    stepped('release', 'Release', [0, 1], 'ms', [100, 300, 600, 1200], 300, { means: 'release' }),
    knob('makeup', 'Makeup', [1, 1], { unit: 'dB', min: -5, max: 15, default: 0, means: 'makeup' }),
    knob('mix', 'Mix', [2, 1], { unit: '%', min: 0, max: 100, default: 100, means: 'mix' }),
    turn('keyFilter', 'Key filter', [3, 1], KEY_FILTER, 0),
  ],
  stages: (at) => [
    {
      device: compressor,
      params: {
        ...compressor.defaults,
        threshold: at('threshold'),
        ratio: at('ratio'),
        knee: 6,
        attack: at('attack'),
        release: at('release'),
        makeup: at('makeup'),
        mix: at('mix'),
        keyFilter: at('keyFilter') > 0,
        keyLow: KEY_LOW[at('keyFilter')] ?? 16,
      },
    },
  ],
};
