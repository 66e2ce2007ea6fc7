import { outPlace } from '../../devices/instrument.ts';
import { outOf } from '../../session/midi.ts';
import { outputForLine, shiftedBack, viewOf } from '../outputs.ts';
import { quoted, takePart, type Rule } from '../rule.ts';

export const halfOfAPair: Rule = {
  id: 'half-of-a-pair',
  severity: 'fault',
  title: 'Half of a stereo output',
  why: 'A mono line without the right side hears half of the part, or both halves of two parts.',
  find: ({ instruments: all }) =>
    all.flatMap((i) =>
      i.takers.flatMap((t) => {
        const x = outOf(t);
        const here = i.parts.filter((p) => outPlace(p.out).pair === x.output);
        const sides = new Set(here.map((p) => outPlace(p.out).side));
        if (sides.size !== 1) return [];
        const side = [...sides][0];
        const at = { track: t.id };
        const one = here.length === 1;
        const names = here.map(quoted).join(' and ');
        if (side === 'both' && (x.take === 'left' || x.take === 'right')) {
          return [
            {
              ...at,
              message: `${quoted(t)} takes only the ${x.take} side of output ${x.output}, where ${names} ${one ? 'comes' : 'come'} out in stereo.`,
            },
          ];
        }
        if (side !== 'both' && t.channels === 1 && (x.take === 'stereo' || x.take === 'sum')) {
          const takes = `${quoted(t)} is mono and takes both sides of output ${x.output}`;
          const where = `where ${names} ${one ? 'is' : 'are'} on the ${side} only`;
          return [
            {
              ...at,
              message: `${takes}, ${where}: it is 6 dB too soft.`,
            },
          ];
        }
        return [];
      }),
    ),
  remedies: (s, h) => {
    const t = s.tracks.find((x) => x.id === h.track)!;
    const i = viewOf(s, outOf(t).slot);
    const part = i.parts.find((p) => outPlace(p.out).pair === outOf(t).output)!;
    const { side } = outPlace(part.out);
    const both = t.channels === 1 ? 'Take the sum of both sides' : 'Take both sides';
    return [
      {
        label: side === 'both' ? both : `Take the ${side} side`,
        next: () => takePart(s, t, part),
      },
      ...shiftedBack(s, i),
      ...outputForLine(s, i, t),
    ];
  },
};
