import { sameFamily } from '../../kit/layout.ts';
import { nameFit } from '../../kit/tap.ts';
import { landsOn } from '../../session/midi.ts';
import { backToLine, ownOutput, viewOf } from '../outputs.ts';
import { quoted, type Rule } from '../rule.ts';

export const outputsShared: Rule = {
  id: 'outputs-shared',
  severity: 'warning',
  title: 'Two parts on one output',
  why: 'Level, pan and devices of the line work on both, and one of them has no line of its own.',
  find: ({ instruments }) =>
    instruments.flatMap((i) =>
      i.takers.flatMap((t) => {
        const here = i.parts.filter((p) => landsOn(p, t));
        const own = here.find((p) => nameFit(p.name, t.name) > 0);
        return own
          ? here
              .filter((p) => p !== own && nameFit(p.name, t.name) === 0 && !sameFamily(p.sound, own.sound))
              .map((p) => ({
                track: i.track.id,
                slot: i.device.id,
                part: p.id,
                message: `${quoted(p)} shares output ${p.out} with ${quoted(own)}: both come to ${quoted(t)}.`,
              }))
          : [];
      }),
    ),
  remedies: (s, h) => {
    const i = viewOf(s, h.slot!);
    const part = i.parts.find((p) => p.id === h.part)!;
    const own = ownOutput(s, i, part, `Give ${quoted(part)} an output and a line`);
    return [...backToLine(s, i, part), ...own];
  },
};
