<script setup lang="ts">
/** What is about to be dropped onto a line, heard on it: as the line is, as the preset was saved, and fitted to its sound. */
import { computed } from 'vue';
import { planDrop, type PlanOptions, type Track } from '../../../core/index.ts';
import { useSession } from '../../document/doc.ts';
import { heardChain } from '../fit/index.ts';
import { WaysToHear } from '../transport/index.ts';
import { useDrop } from './store.ts';

const props = defineProps<{ line: Track }>();
const drop = useDrop();
const session = useSession();

/** The line's chain after the drop; null where it can't be dropped like this. */
function chainOf(options: PlanOptions) {
  const plan = planDrop(session.doc!, drop.preset!, options);
  return plan.target && !plan.problems.length ? heardChain(props.line, plan.target) : null;
}
/** What fits the sound: as it is ticked, or all of it where nothing is ticked yet. */
const fitted = computed<PlanOptions>(() => {
  const isFit = (path: string) => drop.fit.some((v) => path.endsWith(`/${v.path}`));
  if (drop.plan!.adaptations.some((a) => a.on && isFit(a.path))) return drop.options;
  const adapt = Object.fromEntries(Object.entries(drop.options.adapt ?? {}).filter(([path]) => !isFit(path)));
  return { ...drop.options, adapt, fit: drop.fit.map((v) => ({ ...v, on: true })) };
});
const ways = computed(() => {
  if (!drop.preset || !session.doc) return [];
  const saved = { label: 'As saved', chain: chainOf({ ...drop.options, fit: [] }) };
  const all = drop.fit.length ? [saved, { label: 'Fitted', chain: chainOf(fitted.value) }] : [saved];
  return all.flatMap(({ label, chain }) => (chain ? [{ label, chain }] : []));
});
</script>

<template>
  <WaysToHear
    :line="line"
    now="As it is"
    :ways="ways"
    hint="its chain on this line, at equal loudness, while it plays"
  />
</template>
