import { outLabel, outOf, sideTaken } from '../../session/midi.ts';
import { nameFit } from '../../kit/tap.ts';
import { instruments, onTrack, quoted, takePart, type Rule } from '../rule.ts';

const overlap = (a: string, b: string) => a === 'both' || b === 'both' || a === b;

export const outputTwice: Rule = {
  id: 'output-twice',
  severity: 'fault',
  title: 'Two lines on one output',
  why: 'The same part is heard twice, and the part that one of them is named for is missing.',
  find: ({ instruments: all }) =>
    all.flatMap((i) =>
      i.takers.flatMap((t, k) => {
        const first = i.takers
          .slice(0, k)
          .find((x) => outOf(x).output === outOf(t).output && overlap(sideTaken(x), sideTaken(t)));
        if (!first) return [];
        // the one that is named for something else is in the wrong place
        const [wrong, other] = i.parts.some(
          (p) =>
            nameFit(p.name, first.name) === 3 &&
            p.out !== 'main' &&
            !p.out.startsWith(String(outOf(first).output)),
        )
          ? [first, t]
          : [t, first];
        const part = i.parts.find((p) => nameFit(p.name, wrong.name) === 3 && p.out !== 'main');
        const output = outLabel({ pair: outOf(wrong).output, side: sideTaken(wrong) });
        const takes = `${quoted(wrong)} takes output ${output} of ${quoted(i.track)}`;
        return [
          {
            track: wrong.id,
            message: `${takes}, and so does ${quoted(other)}.`,
            fix: part ? `Take ${quoted(part)} instead` : 'Make the line inactive',
          },
        ];
      }),
    ),
  fix: (s, h) => {
    const t = s.tracks.find((x) => x.id === h.track)!;
    const i = instruments(s).find((x) => x.device.id === outOf(t).slot)!;
    const part = i.parts.find((p) => nameFit(p.name, t.name) === 3 && p.out !== 'main');
    return part && !part.out.startsWith(String(outOf(t).output))
      ? takePart(s, t, part)
      : onTrack(s, t.id, () => ({ state: 'inactive' }));
  },
};
