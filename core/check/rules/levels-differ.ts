import { NOMINAL_LABELS, tooHot } from '../../hardware/levels.ts';
import { portsNamed } from '../../hardware/studio.ts';
import type { Device, Session } from '../../model/types.ts';
import { loopsIn } from '../loops.ts';
import { onDevice, quoted, type Rule } from '../rule.ts';

/** dB that a loop may be off by before it is told. */
const NEAR = 6;

/** By how much a loop's first unit is driven too hot, with its send as it is set; null where nothing is known. */
function excess(session: Session, d: Device): { by: number; from: string; to: string; hot: number } | null {
  const studio = session.setup?.studio;
  const unit = d.hardware?.units[0]?.unit;
  const port = studio && portsNamed(studio, 'out', String(d.params.sendPort))[0];
  if (!port || !unit) return null;
  const hot = tooHot(port.nominal, unit.nominal);
  if (hot === null || hot === 0) return null;
  const by = hot + Number(d.params.send);
  return { by, hot, from: NOMINAL_LABELS[port.nominal], to: NOMINAL_LABELS[unit.nominal] };
}

const lower = (hot: number) => Math.max(-36, Math.min(12, Math.round(-hot * 10) / 10));

export const levelsDiffer: Rule = {
  id: 'levels-differ',
  severity: 'warning',
  title: 'Level standards differ',
  why: 'A line at +4 dBu drives an input for −10 dBV 11.8 dB too hot; the other way round it drowns in noise.',
  find: ({ session }) =>
    loopsIn(session).flatMap(({ t, x }) => {
      const found = excess(session, x);
      if (!found || Math.abs(found.by) < NEAR) return [];
      const off = `${Math.abs(found.by).toFixed(1)} dB too ${found.by > 0 ? 'hot' : 'quiet'}`;
      const send = lower(found.hot);
      return [
        {
          track: t.id,
          slot: x.id,
          message: `${quoted(x)} on ${quoted(t)} sends ${found.from} into ${found.to}: ${off}.`,
          fix: `Send at ${send.toFixed(1)} dB, return at ${(-send).toFixed(1)} dB`,
        },
      ];
    }),
  fix: (s, h) =>
    onDevice(s, h, (d) => {
      const found = excess(s, d);
      if (!found) return {};
      const send = lower(found.hot);
      return { params: { ...d.params, send, return: Math.max(-36, Math.min(12, -send)) } };
    }),
};
