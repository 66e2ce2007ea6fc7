import { shallowRef, watch } from 'vue';
import { findSlot, planDrop, type DropPlan, type Id, type Preset } from '../../../core/index.ts';
import { useSession } from '../../document/doc.ts';
import { useUi } from '../../ui/window.ts';
import { useAudio } from '../transport/index.ts';

/** A rack or device of the shelf that is listened to in another's place. */
export interface Trial {
  slot: Id;
  track: Id;
  name: string;
  preset: Preset;
  plan: DropPlan;
}

/**
 * Trying pieces of the shelf in another's place; the session is not changed until one is kept.
 * @param read fetches a preset by its id
 */
export function makeTrial(read: (preset: string) => Promise<Preset>) {
  const session = useSession();
  const audio = useAudio();
  const ui = useUi();
  const trial = shallowRef<Trial | null>(null);

  async function tryInstead(presetId: string, track: Id, slot: Id): Promise<void> {
    try {
      const preset = await read(presetId);
      const line = session.doc?.tracks.find((t) => t.id === track);
      if (!session.doc || !line || !findSlot(line.chain, slot)) return;
      const plan = planDrop(session.doc, preset, { place: { kind: 'onto', track, chain: 'swap', slot } });
      if (plan.problems.length) {
        ui.say(plan.problems[0].message, 'error');
        return;
      }
      const { name } = preset;
      trial.value = { slot, track, name, preset, plan };
      const audition = { bypass: [], chains: { [track]: plan.target!.chain } };
      await audio.compareHearings(`try ${slot} ${plan.drop}`, line, slot, name, [
        { id: 'trial', label: name, at: 'line', audition },
      ]);
    } catch (e) {
      trial.value = null;
      ui.fail(e);
    }
  }
  function endTrial(): void {
    trial.value = null;
    audio.endCompare();
  }
  watch(
    () => audio.compare,
    (comparison) => {
      if (!comparison) trial.value = null;
    },
  );
  return { trial, tryInstead, endTrial };
}
