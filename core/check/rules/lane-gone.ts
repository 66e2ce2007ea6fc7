import { laneTarget } from '../../session/automation.ts';
import { onTrack, quoted, type Rule } from '../rule.ts';

export const laneGone: Rule = {
  id: 'lane-gone',
  severity: 'advice',
  title: 'Automation of something that is gone',
  why: 'It moves nothing now; when the device comes back, it moves again.',
  find: ({ session }) =>
    session.tracks.flatMap((t) => {
      const gone = (t.automation ?? []).filter((l) => l.on && l.points.length > 0 && !laneTarget(t, l));
      return gone.length
        ? [
            {
              track: t.id,
              message: `${gone.length === 1 ? 'A lane' : `${gone.length} lanes`} of ${quoted(t)} moved a device or send that is not there any more.`,
              fix: gone.length === 1 ? 'Switch the lane off' : 'Switch the lanes off',
            },
          ]
        : [];
    }),
  fix: (s, h) =>
    onTrack(s, h.track, (t) => ({
      automation: t.automation!.map((l) => (laneTarget(t, l) ? l : { ...l, on: false })),
    })),
  safe: true,
};
