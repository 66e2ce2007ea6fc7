<script setup lang="ts">
/** What will be printed and what will not, before it happens. */
import { computed } from 'vue';
import type { PrintOutlook, PrintPlan, Session, Undivided } from '../../../core/index.ts';
import { clock } from './words.ts';

const props = defineProps<{ session: Session; plan: PrintPlan; outlook: PrintOutlook }>();
const emit = defineEmits<{ change: [label: string, over: Partial<PrintPlan>] }>();
const count = computed(() => (props.plan.mix ? 1 : 0) + props.plan.versions.length + props.plan.stems.length);
const size = computed(() => {
  const rate = props.plan.file.rate ?? props.session.sampleRate;
  return (count.value * props.outlook.length * rate * 2 * (props.plan.file.bits / 8)) / 1e6;
});
const left = computed(() => {
  const by = new Map<string, string[]>();
  for (const { name, why } of props.outlook.left) by.set(why, [...(by.get(why) ?? []), name]);
  return [...by].map(([why, names]) => `${names.join(', ')}: ${why}`);
});
const trackOf = (u: Undivided) => props.session.tracks.find((t) => t.id === u.track)!;
const leaveOff = (u: Undivided) =>
  emit('change', `Print without ${u.name}`, { off: [...props.plan.off, u.slot] });
/** The bus or return as a stem of its own: what it does then belongs to nobody else. */
function apart(u: Undivided) {
  const t = trackOf(u);
  const numbers = props.plan.stems.map((s) => Number(s.id.replace(/\D+/g, '')) || 0);
  const stem = {
    id: `stem-${Math.max(0, ...numbers) + 1}`,
    name: t.name,
    lines: [t.id],
    depth: props.plan.stems[0].depth,
  };
  // a bus takes its lines with it: they would sound twice
  const isBus = t.role === 'bus' || t.role === 'folder';
  const feeds = new Set(
    isBus
      ? props.session.tracks
          .filter((x) => x.output.kind === 'track' && x.output.track === t.id)
          .map((x) => x.id)
      : [],
  );
  const stems = props.plan.stems
    .map((s) => ({ ...s, lines: s.lines.filter((id) => !feeds.has(id)) }))
    .filter((s) => s.lines.length);
  emit('change', `${t.name} as a stem of its own`, { stems: [...stems, stem] });
}
const offNames = computed(() =>
  props.plan.off.map((id) => {
    const device = props.session.tracks.flatMap((t) => t.chain).find((d) => d.id === id);
    return { id, name: device?.name ?? 'a device that is gone' };
  }),
);
</script>

<template>
  <section aria-label="What will be printed" class="flex flex-col gap-1 text-body">
    <p>
      <strong>{{ count === 1 ? '1 file' : `${count} files` }}</strong>, {{ clock(outlook.length) }} and what
      rings on behind it, about {{ size.toFixed(0) }} MB at most.
      <template v-if="outlook.addsUp === 'mix'">The stems add up to the mix.</template>
      <template v-else-if="outlook.addsUp">The stems add up to what comes into the master.</template>
      <template v-else-if="plan.stems.length">The stems are not meant to add up.</template>
    </p>
    <p v-for="p in outlook.problems" :key="p" class="text-bad">{{ p }}</p>
    <p v-for="l in left" :key="l" class="text-warn">Not printed: {{ l }}.</p>
    <p v-if="outlook.hidden.length" class="text-warn">
      Hidden, and printed all the same since they are heard: {{ outlook.hidden.join(', ') }}.
    </p>
    <p v-if="outlook.twice.length" class="text-warn">
      In more than one stem: {{ outlook.twice.join(', ') }}. Each counts in the first of them only.
    </p>
    <div v-for="u in outlook.undivided" :key="u.slot" class="border-t border-rule pt-1">
      <p class="text-warn">
        “{{ u.name }}” on {{ trackOf(u).name }} ({{ u.stems.join(', ') }}): {{ u.why }}. The stems will not
        add up exactly; how much is left is told afterwards.
      </p>
      <div class="flex gap-2">
        <button type="button" class="btn px-2 py-0.5 text-note" @click="leaveOff(u)">
          Leave {{ u.name }} off in all
        </button>
        <button
          v-if="trackOf(u).role !== 'master'"
          type="button"
          class="btn px-2 py-0.5 text-note"
          @click="apart(u)"
        >
          {{ trackOf(u).name }} as a stem of its own
        </button>
      </div>
    </div>
    <p v-for="o in offNames" :key="o.id">
      Left off: {{ o.name }}
      <button
        type="button"
        class="btn btn-plain px-1.5 text-note"
        @click="emit('change', `${o.name} on again`, { off: plan.off.filter((id) => id !== o.id) })"
      >
        on again
      </button>
    </p>
  </section>
</template>
