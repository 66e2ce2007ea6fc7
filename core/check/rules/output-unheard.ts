import { landsOn, outLabel } from '../../session/midi.ts';
import { outPlace } from '../../devices/instrument.ts';
import { backToLine, lineForPart, lineToPart, ownOutput, shiftedBack, viewOf } from '../outputs.ts';
import { quoted, type Rule } from '../rule.ts';

export const outputUnheard: Rule = {
  id: 'output-unheard',
  severity: 'fault',
  title: 'Output without a line',
  why: 'What is played there is heard nowhere.',
  find: ({ instruments }) =>
    instruments.flatMap((i) =>
      i.parts.flatMap((p) => {
        const o = outPlace(p.out);
        if (o.pair === 0 || i.takers.some((t) => landsOn(p, t))) return [];
        return [
          {
            track: i.track.id,
            slot: i.device.id,
            part: p.id,
            message: `${quoted(p)} of ${quoted(i.track)} comes out of output ${outLabel(o)}, which no line takes.`,
          },
        ];
      }),
    ),
  remedies: (s, h) => {
    const i = viewOf(s, h.slot!);
    const part = i.parts.find((p) => p.id === h.part)!;
    return [
      ...backToLine(s, i, part),
      ...lineToPart(s, i, part),
      ...shiftedBack(s, i),
      lineForPart(s, i, part),
      ...ownOutput(s, i, part, 'Give it another output and a line'),
    ];
  },
};
