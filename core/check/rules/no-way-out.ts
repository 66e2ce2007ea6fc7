import { masterOf } from '../../session/create.ts';
import { onTrack, quoted, type Rule } from '../rule.ts';

export const noWayOut: Rule = {
  id: 'no-way-out',
  severity: 'fault',
  title: 'No way out',
  why: 'What is played here is heard nowhere.',
  find: ({ session, graph, fed, heard }) =>
    session.tracks
      .filter(
        (t) =>
          t.role !== 'master' &&
          t.role !== 'midi' &&
          t.state === 'on' &&
          fed.has(t.id) &&
          !heard.has(t.id) &&
          !graph.flows.some((f) => f.from === t.id && (f.kind === 'key' || f.kind === 'input')),
      )
      .map((t) => ({
        track: t.id,
        message: `${quoted(t)} plays, but no way leads from it to the master or another output.`,
        fix: 'Lead it to the master',
      })),
  fix: (s, h) => onTrack(s, h.track, () => ({ output: { kind: 'track', track: masterOf(s).id } })),
};
