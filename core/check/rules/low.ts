import { quoted, type Rule } from '../rule.ts';

/**
 * dBFS peak before the fader under which a part is low, and under which it is silence (common practice: −18
 * dBFS as a working level)
 */
const GOOD = -18;
const SILENCE = -90;

export const low: Rule = {
  id: 'low',
  severity: 'advice',
  title: 'Low before the fader',
  why: 'Compressors and saturators further on are set for a working level; under it they do nothing.',
  find: ({ session, levels }) =>
    session.tracks
      .filter((t) => t.role === 'audio' || t.role === 'instrument')
      .filter((t) => {
        const l = levels?.tracks[t.id]?.before ?? 0;
        return l < GOOD && l > SILENCE;
      })
      .map((t) => ({
        track: t.id,
        message: `${quoted(t)} peaks at ${levels!.tracks[t.id].before.toFixed(1).replace('-', '−')} dBFS before its fader.`,
      })),
};
