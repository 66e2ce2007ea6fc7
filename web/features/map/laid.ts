import { computed, ref, shallowRef, watch, type Ref } from 'vue';
import type { Id } from '../../../core/index.ts';
import { useUi } from '../../ui/window.ts';
import type { Shown } from './fold.ts';
import { layOut, type Laid } from './layout.ts';

/**
 * The graph laid out: anew only when what is connected changes, not when a knob is turned.
 * @param arrived is called with the layout before and the new one
 */
export function useLaid(
  shown: Ref<Shown | null>,
  frames: Ref<Map<Id, string>>,
  arrived: (was: Laid | null, now: Laid) => void,
) {
  const ui = useUi();
  const laid = shallowRef<Laid | null>(null);
  const busy = ref(false);
  const shape = computed(() => {
    if (!shown.value) return '';
    const nodes = shown.value.nodes.map((n) => [n.id, n.folder]);
    const flows = shown.value.flows.map((f) => [f.id, f.from, f.to]);
    return JSON.stringify([nodes, flows, [...frames.value.keys()]]);
  });
  let run = 0;
  watch(
    shape,
    async () => {
      if (!shown.value) return;
      const mine = ++run;
      busy.value = true;
      try {
        const next = await layOut(shown.value.nodes, shown.value.flows, frames.value);
        if (mine !== run) return;
        const was = laid.value;
        laid.value = next;
        arrived(was, next);
      } catch (e) {
        ui.fail(e);
      } finally {
        if (mine === run) busy.value = false;
      }
    },
    { immediate: true },
  );
  return { laid, busy };
}
