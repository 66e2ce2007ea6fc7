import { outLabel, outOf, sideTaken } from '../../session/midi.ts';
import { nameFit } from '../../kit/tap.ts';
import { outPlace } from '../../devices/instrument.ts';
import type { InstrumentPart } from '../../devices/instrument-type.ts';
import type { Track } from '../../model/types.ts';
import { asleep, outputForLine, shiftedBack, viewOf } from '../outputs.ts';
import { quoted, takePart, type InstrumentView, type Rule } from '../rule.ts';

const overlap = (a: string, b: string) => a === 'both' || b === 'both' || a === b;

/** The part that a line is named for, where it has an output that the line does not take. */
const partElsewhere = (i: InstrumentView, line: Track): InstrumentPart | undefined =>
  i.parts.find(
    (p) =>
      nameFit(p.name, line.name) === 3 && p.out !== 'main' && outPlace(p.out).pair !== outOf(line).output,
  );

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
        const [wrong, other] = partElsewhere(i, first) ? [first, t] : [t, first];
        const output = outLabel({ pair: outOf(wrong).output, side: sideTaken(wrong) });
        const takes = `${quoted(wrong)} takes output ${output} of ${quoted(i.track)}`;
        return [
          {
            track: wrong.id,
            message: `${takes}, and so does ${quoted(other)}.`,
          },
        ];
      }),
    ),
  remedies: (s, h) => {
    const t = s.tracks.find((x) => x.id === h.track)!;
    const i = viewOf(s, outOf(t).slot);
    const part = partElsewhere(i, t);
    const take = part && { label: `Take ${quoted(part)} instead`, next: () => takePart(s, t, part) };
    return [...(take ? [take] : []), ...shiftedBack(s, i), ...outputForLine(s, i, t), asleep(s, t)];
  },
};
