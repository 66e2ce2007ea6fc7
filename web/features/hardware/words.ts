import type { SetupEntry } from '../../../contract/index.ts';
import { formatDb, type Measured } from '../../../core/index.ts';

/** dBFS under which there is none: no converter is as quiet */
const NO_NOISE = -160;

/** What a measurement found, in one line. */
export const measuredText = (m: Measured): string =>
  [
    `${m.delay.toFixed(1)} samples at ${m.sampleRate / 1000} kHz`,
    formatDb(m.gain),
    `polarity ${m.polarity > 0 ? '+' : '−'}`,
    m.noise > NO_NOISE ? `noise ${m.noise.toFixed(0).replace('-', '−')} dBFS` : 'no noise',
  ].join(' · ');

/** What a studio has, in a line. */
export const summaryText = ({ summary: s }: SetupEntry): string =>
  `${s.inputs} in, ${s.outputs} out · ${s.bays === 1 ? 'one bay' : `${s.bays} bays`} · ${s.units.join(', ') || 'no units yet'}`;
