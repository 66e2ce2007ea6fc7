<script setup lang="ts">
/** The line as it was saved against as it is fitted, at equal loudness, while the session plays: keys 1 and 2. */
import { useEventListener } from '@vueuse/core';
import { computed, onBeforeUnmount, watch } from 'vue';
import { createDevice, type Slot, type Track } from '../../../core/index.ts';
import { useSession } from '../../document/doc.ts';
import { useAudio } from '../transport/index.ts';

const props = defineProps<{
  track: Track;
  /** what of the line is otherwise when it is fitted */
  fitted: Partial<Track>;
}>();
const audio = useAudio();
const session = useSession();
const WAYS = ['As saved', 'Fitted'];

/** The fitted chain; a trim before the chain stands in it as a device, since only chains can be put in for hearing. */
const chain = computed<Slot[]>(() => {
  const own = props.fitted.chain ?? props.track.chain;
  const gain = (props.fitted.inputTrim ?? 0) - (props.track.inputTrim ?? 0);
  const trimmed = props.fitted.inputTrim !== undefined && gain !== 0;
  return trimmed
    ? [createDevice('trim', { gain }, { id: 'fit-trim', name: 'Trim before the chain' }), ...own]
    : own;
});
const id = computed(() => `fit ${props.track.id} ${JSON.stringify(chain.value)}`);
const mine = computed(() => (audio.compare?.id === id.value ? audio.compare : null));
const isReady = computed(() => !!mine.value?.match);
const busyText = computed(() => {
  const share = mine.value?.busy;
  return share === null || share === undefined ? '' : `Measuring ${Math.round(share * 100)} % …`;
});
async function hear(n: number) {
  if (!audio.playing) void audio.play();
  if (!isReady.value) {
    const audition = { bypass: [], chains: { [props.track.id]: chain.value } };
    await audio.compareHearings(id.value, props.track, null, props.track.name, [
      { id: 'fitted', label: 'Fitted', at: 'line', audition },
    ]);
  }
  if (isReady.value) audio.hear(n);
}
useEventListener(window, 'keydown', (e: KeyboardEvent) => {
  const n = ['1', '2'].indexOf(e.key);
  if (n >= 0 && !(e.target instanceof HTMLInputElement && e.target.type === 'text')) void hear(n);
});
// what is ticked has changed: the old comparison says nothing of it
watch(id, () => audio.endCompare());
onBeforeUnmount(() => audio.endCompare());
</script>

<template>
  <div v-if="session.doc" class="flex items-center gap-2" role="group" aria-label="Hear it at equal loudness">
    <button
      v-for="(way, n) in WAYS"
      :key="way"
      type="button"
      class="btn px-2 py-0.5"
      :aria-pressed="isReady && mine!.now === n"
      @click="hear(n)"
    >
      <kbd class="font-sans text-note text-soft">{{ n + 1 }}</kbd> {{ way }}
    </button>
    <span class="text-note text-soft" role="status">{{
      busyText || 'at equal loudness, while it plays'
    }}</span>
  </div>
</template>
