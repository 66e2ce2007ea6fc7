import { backToLine, ownOutput, viewOf } from '../outputs.ts';
import { quoted, separated, type Rule } from '../rule.ts';

export const partOnMain: Rule = {
  id: 'part-on-main',
  severity: 'fault',
  title: 'Left on the main output',
  why: 'It goes past the separate lines: their faders, mutes and devices do not reach it.',
  find: ({ instruments }) =>
    instruments.filter(separated).flatMap((i) =>
      i.parts
        .filter((p) => p.out === 'main')
        .map((p) => ({
          track: i.track.id,
          slot: i.device.id,
          part: p.id,
          message: `${quoted(p)} of ${quoted(i.track)} still comes out of the main output while other parts have lines of their own.`,
        })),
    ),
  remedies: (s, h) => {
    const i = viewOf(s, h.slot!);
    const part = i.parts.find((p) => p.id === h.part)!;
    return [...backToLine(s, i, part), ...ownOutput(s, i, part, 'Give it an output and a line')];
  },
};
