import { formatDb, type Measured } from '../../../core/index.ts';

/** What a measurement found, in one line. */
export const measuredText = (m: Measured): string =>
  [
    `${m.delay.toFixed(1)} samples at ${m.sampleRate / 1000} kHz`,
    formatDb(m.gain),
    `polarity ${m.polarity > 0 ? '+' : '−'}`,
    `noise ${m.noise.toFixed(0).replace('-', '−')} dBFS`,
  ].join(' · ');
