import { quoted, type Rule } from '../rule.ts';

const text = (db: number) => `${db > 0 ? '+' : ''}${db.toFixed(1).replace('-', '−')} dBFS`;

export const clips: Rule = {
  id: 'clips',
  severity: 'fault',
  title: 'Over full scale',
  why: 'Inside this program nothing is lost, but a print of this line would be cut off.',
  find: ({ session, levels }) =>
    session.tracks
      .filter((t) => (levels?.tracks[t.id]?.after ?? -200) > 0)
      .map((t) => ({
        track: t.id,
        message: `${quoted(t)} reaches ${text(levels!.tracks[t.id].after)} after its fader.`,
      })),
};
