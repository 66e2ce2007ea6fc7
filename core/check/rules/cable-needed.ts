import { placesOf } from '../../hardware/jacks.ts';
import { standing } from '../../hardware/plan.ts';
import { wantedPatches } from '../../hardware/studio.ts';
import { masterOf } from '../../session/create.ts';
import type { Rule } from '../rule.ts';

export const cableNeeded: Rule = {
  id: 'cable-needed',
  severity: 'warning',
  title: 'A cable is not plugged',
  why: 'The loop is silent, or hears something else, until it is patched as the session needs it.',
  find({ session }) {
    const studio = session.setup?.studio;
    if (!studio) return [];
    const { wanted } = wantedPatches(session, studio);
    const stands = standing(studio, wanted);
    const places = placesOf(studio);
    const name = (jack: string) => places.get(jack)?.name ?? jack;
    return wanted.flatMap((w, i) => {
      if (stands[i]) return [];
      const message = `${name(w.from)} does not come to ${name(w.to)} alone (${w.label}). The patch list says what to plug.`;
      const track = w.of?.track ?? masterOf(session).id;
      return [{ track, ...(w.of?.device ? { slot: w.of.device } : {}), part: `${w.from} ${w.to}`, message }];
    });
  },
};
