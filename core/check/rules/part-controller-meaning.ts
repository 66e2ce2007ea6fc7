import { CONTROLLER_NAMES, controllerName } from '../../session/handles.ts';
import { instruments, onDevice, quoted, type Rule } from '../rule.ts';

export const partControllerMeaning: Rule = {
  id: 'part-controller-meaning',
  severity: 'advice',
  title: 'Controller with another standard meaning',
  why: 'Keyboards and written parts send this number for what the standard says.',
  find: ({ instruments: all }) =>
    all.flatMap((i) =>
      i.parts.flatMap((p) =>
        (p.controllers ?? [])
          .filter(
            (c) =>
              c.number !== c.usual &&
              CONTROLLER_NAMES[c.number] !== undefined &&
              !p.controllers!.some((x) => x !== c && x.number === c.number),
          )
          .map((c) => ({
            track: i.track.id,
            slot: i.device.id,
            part: c.param,
            message: `${c.label} of ${quoted(p)} on ${quoted(i.track)} listens to ${controllerName(c.number)}; its usual number is ${c.usual}.`,
            fix: `Use ${controllerName(c.usual)}`,
          })),
      ),
    ),
  fix: (s, h) => {
    const c = instruments(s)
      .find((i) => i.device.id === h.slot)!
      .parts.flatMap((p) => p.controllers ?? [])
      .find((x) => x.param === h.part)!;
    return onDevice(s, h, (d) => ({ params: { ...d.params, [c.param]: c.usual } }));
  },
};
