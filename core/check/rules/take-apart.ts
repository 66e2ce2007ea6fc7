import { onTrack, quoted, type Checked, type Rule } from '../rule.ts';
import type { Clip, Track } from '../../model/types.ts';

/** dB by which a take may differ from those beside it (common practice: more is heard as another distance) */
const APART = 6;
const level = (c: Checked['levels'], k: Clip) => {
  const l = c?.takes?.[k.id]?.level;
  return l === undefined || l < -90 ? null : l + k.gain;
};
/** A line's takes that are far from the middle of the others, and by how much. */
const far = (c: Checked['levels'], t: Track) =>
  t.clips.flatMap((k) => {
    const own = level(c, k);
    const others = t.clips
      .filter((x) => x !== k)
      .flatMap((x) => level(c, x) ?? [])
      .sort((a, b) => a - b);
    if (own === null || others.length < 2) return [];
    const off = own - others[others.length >> 1];
    return Math.abs(off) > APART ? [{ k, off }] : [];
  });

export const takeApart: Rule = {
  id: 'take-apart',
  severity: 'advice',
  title: 'A take unlike its neighbours',
  why: 'A compressor set for the others does too much or nothing on this one.',
  find: ({ session, levels }) =>
    session.tracks.flatMap((t) =>
      far(levels, t).map(({ k, off }) => ({
        track: t.id,
        part: k.id,
        message: `A take on ${quoted(t)} is ${Math.abs(off).toFixed(1)} dB ${off > 0 ? 'louder' : 'softer'} than those beside it, at ${k.start.toFixed(1)} s.`,
        fix: `Turn it ${off > 0 ? 'down' : 'up'} by ${Math.abs(off).toFixed(1)} dB`,
      })),
    ),
  fix: (s, h) => {
    const by = Number(/by ([\d.]+) dB/.exec(h.fix ?? '')?.[1] ?? 0) * (/down/.test(h.fix ?? '') ? -1 : 1);
    return onTrack(s, h.track, (t) => ({
      clips: t.clips.map((k) =>
        k.id === h.part ? { ...k, gain: Math.max(-144, Math.min(36, k.gain + by)) } : k,
      ),
    }));
  },
};
