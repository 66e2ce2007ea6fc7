import { CONTROLLER_NAMES, controllerName } from '../../session/handles.ts';
import { racksIn } from '../../session/slots.ts';
import { quoted, type Rule } from '../rule.ts';

/**
 * Numbers whose meaning keyboards and other programs take for granted (MIDI 1.0 Detailed Specification, table
 * of controller numbers).
 */
const FIXED = [1, 2, 4, 7, 10, 11, 64, 66, 67];

export const controllerMeaning: Rule = {
  id: 'controller-meaning',
  severity: 'advice',
  title: 'Controller that means something else',
  why: 'A keyboard sends this number for what the standard says, and moves the handle with it.',
  find: ({ session }) =>
    session.tracks.flatMap((t) =>
      racksIn(t.chain).flatMap((r) =>
        r.handles.flatMap((h) =>
          h.cc !== null &&
          FIXED.includes(h.cc) &&
          !h.name.toLowerCase().includes((CONTROLLER_NAMES[h.cc] ?? '').toLowerCase().split(' ')[0] || '\0')
            ? [
                {
                  track: t.id,
                  slot: r.id,
                  message: `“${h.name}” of ${quoted(r)} on ${quoted(t)} is moved by ${controllerName(h.cc)}.`,
                },
              ]
            : [],
        ),
      ),
    ),
};
