import { landsOn, outOf, outText, sideTaken } from '../../session/midi.ts';
import { nameFit } from '../../kit/tap.ts';
import { asleep, lineToPart, outputForLine, shiftedBack, toLine, viewOf } from '../outputs.ts';
import { quoted, type Rule } from '../rule.ts';

export const outputEmpty: Rule = {
  id: 'output-empty',
  severity: 'warning',
  title: 'Line without a part',
  why: 'Its output is given to no part, so it stays silent, and a part that belongs here is somewhere else.',
  find: ({ instruments }) =>
    instruments.flatMap((i) =>
      i.takers
        .filter((t) => !i.parts.some((p) => landsOn(p, t)))
        .map((t) => {
          const part = i.parts.find((p) => nameFit(p.name, t.name) === 3);
          const taken = outText({ pair: outOf(t).output, side: sideTaken(t) });
          const partOut = part?.out === 'main' ? 'the main output' : part?.out;
          const whereItIs = part ? `; ${quoted(part)} is on ${partOut}` : '';
          return {
            track: t.id,
            ...(part ? { part: part.id } : {}),
            message: `${quoted(t)} takes output ${taken} of ${quoted(i.track)}, where no part comes out${whereItIs}.`,
          };
        }),
    ),
  remedies: (s, h) => {
    const t = s.tracks.find((x) => x.id === h.track)!;
    const i = viewOf(s, outOf(t).slot);
    const part = i.parts.find((p) => p.id === h.part);
    const here = part && { label: `Bring ${quoted(part)} here`, next: () => toLine(s, i, part, t) };
    return [
      ...(here ? [here] : []),
      ...(part ? lineToPart(s, i, part) : []),
      ...shiftedBack(s, i),
      ...outputForLine(s, i, t),
      asleep(s, t),
    ];
  },
};
