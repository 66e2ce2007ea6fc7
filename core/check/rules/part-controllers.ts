import { controllerName } from '../../session/handles.ts';
import { instruments, onDevice, quoted, type Rule } from '../rule.ts';

export const partControllers: Rule = {
  id: 'part-controllers',
  severity: 'fault',
  title: 'One controller moves two things',
  why: 'A pedal or wheel moves both at once.',
  find: ({ instruments: all }) =>
    all.flatMap((i) =>
      i.parts.flatMap((p) =>
        (p.controllers ?? []).flatMap((c, k, list) => {
          const first = c.number < 0 ? undefined : list.slice(0, k).find((x) => x.number === c.number);
          return first
            ? [
                {
                  track: i.track.id,
                  slot: i.device.id,
                  part: p.id,
                  message: `${controllerName(c.number)} moves ${first.label.toLowerCase()} and ${c.label.toLowerCase()} of ${quoted(p)} on ${quoted(i.track)}.`,
                  fix: 'Give both their usual numbers',
                },
              ]
            : [];
        }),
      ),
    ),
  fix: (s, h) => {
    const p = instruments(s)
      .find((i) => i.device.id === h.slot)!
      .parts.find((x) => x.id === h.part)!;
    return onDevice(s, h, (d) => ({
      params: {
        ...d.params,
        ...Object.fromEntries(
          p
            .controllers!.filter((c) => p.controllers!.some((x) => x !== c && x.number === c.number))
            .map((c) => [c.param, c.usual]),
        ),
      },
    }));
  },
};
