import { outLabel, outOf, sideTaken } from '../../session/midi.ts';
import { nameFit } from '../../kit/tap.ts';
import { outPlace } from '../../devices/instrument.ts';
import type { InstrumentPart } from '../../devices/instrument-type.ts';
import type { Track } from '../../model/types.ts';
import { instruments, onTrack, quoted, takePart, type InstrumentView, type Rule } from '../rule.ts';

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
        const part = partElsewhere(i, wrong);
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
    const part = partElsewhere(i, t);
    return part ? takePart(s, t, part) : onTrack(s, t.id, () => ({ state: 'inactive' }));
  },
};
