import { DEVICE_TYPES, isUsed } from '../../devices/index.ts';
import { devicesIn } from '../../session/slots.ts';
import type { AdaptationKind } from './adaptation.ts';
import { adaptValue } from './value.ts';

/** Share of the sample rate up to which a frequency makes sense: a little under half (Nyquist). */
const TOP = 0.49;

/** Frequencies that the session's sample rate cannot hold, and a word on another rate. */
export const rate: AdaptationKind = {
  id: 'rate',

  plan(c) {
    const [here, home] = [c.session.sampleRate, c.preset.reference.sampleRate];
    if (here !== home) {
      c.out.facts.push(
        `Saved at ${home / 1000} kHz, dropped at ${here / 1000} kHz: values are in dB, Hz and ms, so they stay as they are.`,
      );
    }
    // a value that the home session's own rate could not hold either is not this session's business
    if (here >= home) return;
    const top = here * TOP;
    for (const t of c.sounding) {
      for (const d of devicesIn(t.chain)) {
        for (const spec of DEVICE_TYPES[d.type].params) {
          const v = d.params[spec.id];
          if (spec.unit !== 'Hz' || typeof v !== 'number' || v <= top || !isUsed(d, spec.id)) continue;
          const to = Math.max(spec.min!, Math.floor(top / 10) * 10);
          adaptValue(c, t, d, spec, to, `over half the sample rate of ${here / 1000} kHz`);
        }
      }
    }
  },
};
