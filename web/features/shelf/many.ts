import { useRoute, useRouter } from 'vue-router';
import type { ManyPresets, MergePresets, PresetEntry } from '../../../contract/index.ts';
import { api } from '../../api/index.ts';
import { useUi } from '../../ui/window.ts';
import { useShelf } from './store.ts';

/** ms that a way back is offered */
const OFFERED = 15000;

/** Presets changed or taken off together, each with one way back. */
export function useMany() {
  const ui = useUi();
  const shelf = useShelf();
  const route = useRoute();
  const router = useRouter();
  const sessionsText = (n: number) => (n === 1 ? '1 session uses' : `${n} sessions use`);
  const presets = (n: number) => (n === 1 ? '1 preset' : `${n} presets`);
  /** @returns whether it was done */
  async function attempt(task: () => Promise<void>): Promise<boolean> {
    try {
      await task();
      await shelf.refresh();
      return true;
    } catch (e) {
      ui.fail(e);
      return false;
    }
  }
  const change = (o: ManyPresets) =>
    attempt(async () => {
      const { before } = await api.changePresets(o);
      const back = () => void attempt(() => api.putPresetsBack(before));
      ui.say(`${presets(before.length)} changed.`, 'done', [{ label: 'Take it back', run: back }], OFFERED);
    });
  const remove = (ids: string[]) =>
    attempt(async () => {
      await api.deletePresets(ids);
      const back = () => void attempt(() => api.restorePresets(ids));
      const text = `${presets(ids.length)} taken off the shelf, into the trash. Sessions that use them keep their lines.`;
      ui.say(text, 'info', [{ label: 'Bring them back', run: back }], OFFERED);
    });
  /** Makes presets versions of one, or variants of it. */
  const merge = (into: PresetEntry, o: MergePresets) =>
    attempt(async () => {
      const { sessions, left, gone, before } = await api.mergePresets(into.id, o);
      if (o.as === 'variants') {
        const back = () => void attempt(() => api.putPresetsBack(before));
        const text = `${presets(before.length)} ${before.length === 1 ? 'is a variant' : 'are variants'} of “${into.name}” now.`;
        ui.say(text, 'done', [{ label: 'Take it back', run: back }], OFFERED);
        return;
      }
      // whoever looks at one of them looks at the one that it became
      if (gone.includes(String(route.params.id))) await router.replace(`/shelf/${into.id}`);
      const back = () => void attempt(() => api.restorePresets(gone));
      const used = sessions ? ` ${sessionsText(sessions)} them and go on with “${into.name}”.` : '';
      const kept = left.length
        ? ` ${presets(left.length)} stayed: a session was being changed. Try again.`
        : '';
      const text = `${presets(gone.length)} merged into “${into.name}” as versions; they lie in the trash.${used}${kept}`;
      ui.say(text, 'done', [{ label: 'Bring them back', run: back }], OFFERED);
    });
  return { change, remove, merge };
}
