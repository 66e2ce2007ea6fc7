<script setup lang="ts">
/** The presets that do the most alike, by what they do: asked for when somebody wants to know. */
import { ref, shallowRef, watch } from 'vue';
import type { NearPreset } from '../../../contract/index.ts';
import { api } from '../../api/index.ts';
import { useAttempt } from '../../ui/attempt.ts';
import { FAR, nearText } from './near.ts';

const props = defineProps<{ id: string; version: number }>();
const emit = defineEmits<{ compare: [other: string] }>();
const { busy, attempt } = useAttempt();
const near = shallowRef<NearPreset[]>([]);
const isAsked = ref(false);
watch(
  () => [props.id, props.version],
  () => {
    isAsked.value = false;
    near.value = [];
  },
);
const look = () =>
  attempt('Comparing …', async () => {
    near.value = (await api.presetsNear(props.id)).filter((n) => n.distance < FAR);
    isAsked.value = true;
  });
</script>

<template>
  <section aria-label="More like this">
    <h2 class="mt-3 font-semibold">More like this</h2>
    <p v-if="busy" class="text-soft" role="status">{{ busy }}</p>
    <button v-else-if="!isAsked" type="button" class="btn my-1 px-2 py-0.5 text-note" @click="look">
      Look for what does alike
    </button>
    <p v-else-if="!near.length" class="text-soft">Nothing else on the shelf does alike.</p>
    <ul v-else>
      <li v-for="n in near" :key="n.preset.id" class="py-0.5">
        <RouterLink :to="`/shelf/${n.preset.id}`" class="underline">{{ n.preset.name }}</RouterLink>
        <span class="text-soft"> · {{ nearText(n.distance) }} · </span>
        <button
          type="button"
          class="underline"
          :aria-label="`What differs in ${n.preset.name}`"
          @click="emit('compare', n.preset.id)"
        >
          differs?
        </button>
      </li>
    </ul>
  </section>
</template>
