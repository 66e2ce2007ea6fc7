import { meters } from './pictures/meters.ts';
import { LiveMeter, METER_READINGS } from './live-meter.ts';
import { defineDevice, type Processor } from './spec.ts';

/**
 * Passes sound through and measures it: peak and true peak held, loudness (ITU-R BS.1770), correlation of the
 * sides.
 */
export const meter = defineDevice({
  type: 'meter',
  label: 'Meter',
  summary: 'Peak, true peak, loudness and correlation; sound passes through.',
  hasKey: false,
  keepsMono: true,
  shares: 'linear',
  picture: meters,
  work: 19,
  readings: METER_READINGS,
  params: [],
  latency: () => 0,
  response: () => [1, 0],
  create: (_params, ctx): Processor => {
    const m = new LiveMeter(ctx.sampleRate, ctx.maxBlock);
    return {
      reduction: 0,
      level: -160,
      readings: m.readings,
      set() {
        /* nothing to set */
      },
      process(l, r, n) {
        m.take(l, r, n);
        this.level = Math.max(m.readings[0], m.readings[1]);
      },
      reset() {
        m.reset();
      },
    };
  },
});
