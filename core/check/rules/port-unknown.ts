import { onDevice, onTrack, quoted, type Hit, type Rule } from '../rule.ts';
import { words } from '../../drop/words.ts';
import { loopsOn } from '../loops.ts';
import type { Session, Track } from '../../model/types.ts';

const like = (port: string, list: string[]) =>
  list.find((x) => words(x).join(' ') === words(port).join(' ')) ??
  list.find((x) => words(port).some((w) => words(x).includes(w)));

/** Ports that lines and loops use and the session's setup does not have. */
function unknown(s: Session): (Hit & { value: string; from: string })[] {
  const setup = s.setup;
  if (!setup) return [];
  const hit = (t: Track, side: 'input' | 'output', port: string, more: Partial<Hit> = {}) => {
    const list = side === 'input' ? setup.inputs : setup.outputs;
    if (list.includes(port)) return [];
    const other = like(port, list);
    return [
      {
        track: t.id,
        part: side,
        value: other ?? '',
        from: port,
        message: `${quoted(t)} uses the ${side} “${port}”, which “${setup.name}” does not have.`,
        ...(other ? { fix: `Use “${other}”` } : {}),
        ...more,
      },
    ];
  };
  return s.tracks
    .filter((t) => t.state === 'on')
    .flatMap((t) => [
      ...(t.input.kind === 'hardware' ? hit(t, 'input', t.input.port) : []),
      ...(t.output.kind === 'hardware' ? hit(t, 'output', t.output.port) : []),
      ...loopsOn(t).flatMap(({ x, loop }) => [
        ...hit(t, 'output', String(x.params[loop.send]), { slot: x.id, part: loop.send }),
        ...hit(t, 'input', String(x.params[loop.back]), { slot: x.id, part: loop.back }),
      ]),
    ]);
}

export const portUnknown: Rule = {
  id: 'port-unknown',
  severity: 'fault',
  title: 'Port that this studio does not have',
  why: 'Nothing comes in there, and nothing goes out.',
  find: ({ session }) => unknown(session).map(({ value: _v, from: _f, ...h }) => h),
  fix: (s, h) => {
    const u = unknown(s).find((x) => x.track === h.track && x.slot === h.slot && x.part === h.part);
    if (!u?.value) return s;
    if (h.slot) return onDevice(s, h, (d) => ({ params: { ...d.params, [h.part!]: u.value } }));
    return onTrack(s, h.track, () => ({ [h.part!]: { kind: 'hardware', port: u.value } }));
  },
};
