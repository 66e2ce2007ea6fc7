import { loopsOfSession, pairName, portsNamed } from '../../hardware/studio.ts';
import type { Studio } from '../../model/hardware.ts';
import type { Session } from '../../model/types.ts';
import { loopsIn } from '../loops.ts';
import { onDevice, quoted, type Rule } from '../rule.ts';

/** An output of a studio of the same width that nothing uses. */
function freeOutput(session: Session, studio: Studio, width: number): string | null {
  const used = new Set(
    [
      ...loopsOfSession(session).map((l) => l.send),
      ...session.tracks.flatMap((t) => (t.output.kind === 'hardware' ? [t.output.port] : [])),
    ].flatMap((name) => portsNamed(studio, 'out', name).map((p) => p.id)),
  );
  const free = studio.ports.filter((p) => p.side === 'out' && !p.monitor && !used.has(p.id));
  if (width === 1) return free[0]?.name ?? null;
  for (const p of free) {
    const other = free.find((x) => x.id === p.pair && x.number > p.number);
    if (other) return pairName(p, other);
  }
  return null;
}

export const sendToMonitors: Rule = {
  id: 'send-to-monitors',
  severity: 'fault',
  title: 'Send on the monitors’ output',
  why: 'What is sent to a unit by the output of the loudspeakers is heard there at full level.',
  find({ session }) {
    const studio = session.setup?.studio;
    if (!studio) return [];
    return loopsIn(session).flatMap(({ t, x, loop }) => {
      const port = String(x.params[loop.send]);
      const ports = portsNamed(studio, 'out', port);
      if (!ports.some((p) => p.monitor)) return [];
      const other = freeOutput(session, studio, ports.length);
      return [
        {
          track: t.id,
          slot: x.id,
          message: `${quoted(x)} on ${quoted(t)} is sent by “${port}”, where the monitors hang.`,
          ...(other ? { fix: `Send it by “${other}”` } : {}),
        },
      ];
    });
  },
  fix: (s, h) =>
    onDevice(s, h, (d) => {
      const studio = s.setup!.studio!;
      const width = portsNamed(studio, 'out', String(d.params.sendPort)).length;
      const other = freeOutput(s, studio, width);
      return other ? { params: { ...d.params, sendPort: other } } : {};
    }),
};
