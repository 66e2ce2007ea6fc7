import { shallowRef, watch } from 'vue';
import {
  findSlot,
  isPiece,
  planDrop,
  type DropPlan,
  type Id,
  type Place,
  type Preset,
} from '../../../core/index.ts';
import { useSession } from '../../document/doc.ts';
import { useUi } from '../../ui/window.ts';
import { useAudio } from '../transport/index.ts';

/** A preset that is listened to on a line: in place of its chain, at its end, or in place of one device or rack. */
export interface Trial {
  preset: Preset;
  name: string;
  track: Id;
  /** what it stands in the place of; null for a whole chain */
  slot: Id | null;
  plan: DropPlan;
}

/** A preset by its id; with the version that is known of it, it need not be read again. */
export interface Asked {
  id: string;
  version?: number;
}

/**
 * Listening to presets of the shelf on a line, at once and at equal loudness; the session is not changed until one is
 * kept.
 * @param read fetches a preset
 */
export function makeTrial(read: (preset: Asked) => Promise<Preset>) {
  const session = useSession();
  const audio = useAudio();
  const ui = useUi();
  const trial = shallowRef<Trial | null>(null);
  let asked = 0;

  /** Hears a preset as it would be at some place of a line. */
  async function hear(wanted: Asked, placeOf: (p: Preset) => Extract<Place, { kind: 'onto' }>) {
    const mine = ++asked;
    try {
      const preset = await read(wanted);
      if (mine !== asked || !session.doc) return;
      const place = placeOf(preset);
      const line = session.doc.tracks.find((t) => t.id === place.track);
      const slot = place.slot ?? null;
      if (!line || (slot && !findSlot(line.chain, slot))) return;
      const plan = planDrop(session.doc, preset, { place });
      const refused = plan.problems[0]?.message ?? silentReason(preset, line.name);
      if (refused) {
        endTrial();
        ui.say(refused, 'error');
        return;
      }
      const { name } = preset;
      trial.value = { preset, name, track: line.id, slot, plan };
      const audition = { bypass: [], chains: { [line.id]: plan.target!.chain } };
      if (!audio.playing) void audio.play();
      await audio.hearAtOnce(`try ${plan.drop}`, line, slot, name, [
        { id: 'trial', label: name, at: 'line', audition },
      ]);
    } catch (e) {
      trial.value = null;
      ui.fail(e);
    }
  }
  /** In place of one device or rack. */
  const tryInstead = (preset: string, track: Id, slot: Id) =>
    hear({ id: preset }, () => ({ kind: 'onto', track, chain: 'swap', slot }));
  /** As it would be dropped onto a line: a piece at the end of its chain, a strip in the chain's place. */
  const listenOn = (preset: Asked, track: Id) =>
    hear(preset, (p) => ({ kind: 'onto', track, chain: isPiece(p.kind) ? 'append' : 'replace' }));

  function endTrial(): void {
    asked++;
    if (!trial.value) return;
    trial.value = null;
    audio.endCompare();
  }
  watch(
    () => audio.compare,
    (comparison) => {
      if (!comparison) trial.value = null;
    },
  );
  return { trial, tryInstead, listenOn, endTrial, readAhead: read };
}

/** Why a preset can't be heard on one line; '' when it can. */
function silentReason(p: Preset, line: string): string {
  const count = p.content.tracks.length;
  if (count > 1) {
    return `“${p.name}” has ${count} lines and can’t be heard on “${line}” alone; drop it to hear it.`;
  }
  return p.content.tracks[0]?.chain.length
    ? ''
    : `“${p.name}” has no devices: there is nothing of it to hear.`;
}
