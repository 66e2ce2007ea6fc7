import { quoted, type Rule } from '../rule.ts';

/** dBTP; what leaves the master stays under it, so that encoders have room (EBU R 128: −1 dBTP) */
const CEILING = -1;

export const headroom: Rule = {
  id: 'headroom',
  severity: 'warning',
  title: 'No headroom',
  why: 'True peaks over −1 dBTP may clip in converters and encoders (EBU R 128).',
  find: ({ session, levels }) =>
    session.tracks
      .filter((t) => t.role === 'master' && levels && levels.master > CEILING)
      .map((t) => ({
        track: t.id,
        message: `${quoted(t)} reaches ${levels!.master.toFixed(1).replace('-', '−')} dBTP; −1 dBTP is the ceiling.`,
      })),
};
