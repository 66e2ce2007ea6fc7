import { followSignal, patchProblems } from '../../hardware/follow.ts';
import type { Cable, Studio } from '../../model/hardware.ts';
import type { Session } from '../../model/types.ts';
import { masterOf } from '../../session/create.ts';
import type { Remedy, Rule } from '../rule.ts';

const clashes = (studio: Studio) => patchProblems(studio).filter((p) => p.kind === 'output-into-output');

/** Cables that the clash hangs on: without one of them its sources are apart. */
function suspects(studio: Studio, jacks: readonly string[]): Cable[] {
  const onTheWay = new Set(
    jacks.flatMap((jack) => followSignal(studio, jack).reaches.flatMap((r) => r.via.map((j) => j.cable?.id))),
  );
  const first = studio.cables.filter((c) => onTheWay.has(c.id));
  return first.length ? first : studio.cables;
}

const withCables = (s: Session, cables: Cable[]): Session => ({
  ...s,
  setup: { ...s.setup!, studio: { ...s.setup!.studio!, cables } },
});

export const outputIntoOutput: Rule = {
  id: 'output-into-output',
  severity: 'fault',
  title: 'Output into output',
  why: 'Two outputs that drive one line work against each other; neither arrives as it should.',
  find({ session }) {
    const studio = session.setup?.studio;
    if (!studio) return [];
    return clashes(studio).map((p) => ({
      track: masterOf(session).id,
      part: p.jacks.join(' '),
      message: p.message,
    }));
  },
  remedies(s, hit): Remedy[] {
    const { studio } = s.setup!;
    const name = (jack: string) => jack.split('/').slice(1).join(' ');
    return suspects(studio!, hit.part!.split(' ')).map((cable) => ({
      label: `Pull the cable from ${name(cable.from)} to ${name(cable.to)}`,
      next: () =>
        withCables(
          s,
          studio!.cables.filter((c) => c.id !== cable.id),
        ),
    }));
  },
};
