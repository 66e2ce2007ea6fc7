import { quoted, type Rule } from '../rule.ts';

/** dBFS RMS between the phrases above which noise is heard in a mix (common practice) */
const NOISY = -50;

const WAY_OUT = 'A gate with a range of 6 to 12 dB, or a high-pass, keeps it down.';

export const noiseFloor: Rule = {
  id: 'noise-floor',
  severity: 'advice',
  title: 'Noise between the phrases',
  why: 'Compressors lift it, and a dozen of such lines add up.',
  find: ({ session, levels }) =>
    session.tracks.flatMap((t) => {
      const worst =
        t.clips.map((k) => (levels?.takes?.[k.id]?.floor ?? -200) + k.gain).sort((a, b) => b - a)[0] ?? -200;
      return worst > NOISY
        ? [
            {
              track: t.id,
              message: `In the pauses ${quoted(t)} still has ${worst.toFixed(0).replace('-', '−')} dBFS of noise. ${WAY_OUT}`,
            },
          ]
        : [];
    }),
};
