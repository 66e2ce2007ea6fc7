import type { Session } from '../model/types.ts';
import { placeFor } from '../session/create.ts';
import type { DropPlan } from './types.ts';

/** The session with a plan carried out. */
export function placeDrop(session: Session, plan: DropPlan): Session {
  if (plan.place.kind === 'whole') return { ...session, tracks: plan.tracks };
  let tracks = [...session.tracks];
  if (plan.target) tracks = tracks.map((t) => (t.id === plan.target!.id ? plan.target! : t));
  const draft = { ...session, tracks };
  if (plan.tracks.length && plan.place.kind === 'new') {
    const wanted = plan.place.index ?? placeFor(draft, plan.tracks[0].role);
    const aboveMaster = tracks.findIndex((t) => t.role === 'master');
    tracks.splice(Math.min(wanted, aboveMaster), 0, ...plan.tracks);
  }
  for (const s of plan.spares) tracks.splice(placeFor({ ...session, tracks }, s.role), 0, s);
  return { ...session, tracks };
}
