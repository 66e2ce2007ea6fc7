import { outPlace } from '../../devices/instrument.ts';
import { landsOn, outOf } from '../../session/midi.ts';
import { nameFit } from '../../kit/tap.ts';
import { shiftedBack, toLine, viewOf } from '../outputs.ts';
import { quoted, takePart, type InstrumentView, type Rule } from '../rule.ts';

/** Parts that have a line of their name, which hears another output. */
const apart = (i: InstrumentView) =>
  i.parts.flatMap((p) => {
    const o = outPlace(p.out);
    const line = i.takers.find((t) => nameFit(p.name, t.name) === 3);
    return line && o.pair > 0 && !landsOn(p, line)
      ? [{ part: p, line, off: o.pair - outOf(line).output }]
      : [];
  });

export const outputsShifted: Rule = {
  id: 'outputs-shifted',
  severity: 'fault',
  title: 'Parts on the wrong lines',
  why: 'Every fader and device works on a neighbour’s sound.',
  find: ({ instruments: all }) =>
    all.flatMap((i) => {
      const wrong = apart(i);
      if (!wrong.length) return [];
      const off = wrong[0].off;
      const shifted = wrong.length > 1 && Math.abs(off) === 1 && wrong.every((w) => w.off === off);
      const swapped =
        wrong.length === 2 &&
        wrong[0].off === -wrong[1].off &&
        outOf(wrong[0].line).output === outPlace(wrong[1].part.out).pair;
      const whatOf = () => {
        if (shifted) {
          return `From ${quoted(wrong[0].part)} on, ${wrong.length} parts of ${quoted(i.track)} come out one place too ${off > 0 ? 'far' : 'early'}`;
        }
        if (swapped) {
          return `${quoted(wrong[0].part)} and ${quoted(wrong[1].part)} of ${quoted(i.track)} are swapped`;
        }
        const parts = `${wrong.map((w) => quoted(w.part)).join(', ')} of ${quoted(i.track)}`;
        return wrong.length === 1
          ? `${parts} comes out on other lines than those of its name`
          : `${parts} come out on other lines than those of their names`;
      };
      const what = whatOf();
      return [
        {
          track: i.track.id,
          slot: i.device.id,
          message: `${what}: ${wrong
            .slice(0, 4)
            .map(
              (w) =>
                `${quoted(w.line)} takes output ${outOf(w.line).output}, ${quoted(w.part)} is on ${w.part.out}`,
            )
            .join('; ')}.`,
        },
      ];
    }),
  remedies: (s, h) => {
    const i = viewOf(s, h.slot!);
    const wrong = apart(i);
    const one = wrong.length === 1;
    const lines = one ? `Put ${quoted(wrong[0].line)} onto its part’s output` : null;
    const parts = one ? `Bring ${quoted(wrong[0].part)} back to its line` : null;
    return [
      {
        label: lines ?? `Put ${wrong.length} lines onto their parts’ outputs`,
        next: () => wrong.reduce((now, w) => takePart(now, w.line, w.part), s),
      },
      {
        label: parts ?? `Bring ${wrong.length} parts back to the lines of their names`,
        next: () => wrong.reduce((now, w) => toLine(now, i, w.part, w.line), s),
      },
      ...shiftedBack(s, i),
    ];
  },
};
