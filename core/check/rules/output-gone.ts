import { DEVICE_TYPES } from '../../devices/index.ts';
import { devicesIn } from '../../session/slots.ts';
import { nameFit } from '../../kit/tap.ts';
import { outOf } from '../../session/midi.ts';
import { viewOf } from '../outputs.ts';
import { onTrack, quoted, takePart, type Rule } from '../rule.ts';
import type { Session, Track } from '../../model/types.ts';

/** What a line listens to, and whether it is there; an instrument that sleeps is no fault. */
const gone = (s: Session, t: Track) => {
  const x = t.input;
  if (x.kind !== 'deviceOutput' || t.state !== 'on') return null;
  const from = s.tracks.find((y) => y.id === x.track);
  const d = from && devicesIn(from.chain).find((y) => y.id === x.slot);
  const outputs = d ? (DEVICE_TYPES[d.type].instrument?.outputs ?? 0) : 0;
  if (!from || (d && x.output <= outputs)) return null;
  const other = devicesIn(from.chain).find(
    (y) => (DEVICE_TYPES[y.type].instrument?.outputs ?? 0) >= x.output,
  );
  return { from, d, outputs, other, output: x.output };
};

export const outputGone: Rule = {
  id: 'output-gone',
  severity: 'fault',
  title: 'Output that is not there',
  why: 'The instrument was changed; the line stays silent.',
  find: ({ session }) =>
    session.tracks.flatMap((t) => {
      const g = gone(session, t);
      if (!g) return [];
      return [
        {
          track: t.id,
          message: g.d
            ? `${quoted(t)} takes output ${g.output} of ${quoted(g.from)}, but ${quoted(g.d)} has ${g.outputs || 'no separate outputs'}.`
            : `${quoted(t)} takes an output of an instrument that is not on ${quoted(g.from)} any more.`,
        },
      ];
    }),
  remedies: (s, h) => {
    const t = s.tracks.find((x) => x.id === h.track)!;
    const { other, output } = gone(s, t)!;
    const nothing = {
      label: 'Take nothing',
      next: () => onTrack(s, t.id, () => ({ input: { kind: 'none' } })),
    };
    if (!other) return [nothing];
    const there = onTrack(s, t.id, () => ({ input: { ...outOf(t), slot: other.id } }));
    const i = viewOf(there, other.id);
    const named = i?.parts.find((p) => nameFit(p.name, t.name) === 3 && p.out !== 'main');
    return [
      { label: `Take output ${output} of ${quoted(other)}`, next: () => there },
      ...(named
        ? [
            {
              label: `Take ${quoted(named)} of ${quoted(other)}`,
              next: () =>
                takePart(
                  there,
                  there.tracks.find((x) => x.id === t.id)!,
                  named,
                ),
            },
          ]
        : []),
      nothing,
    ];
  },
};
