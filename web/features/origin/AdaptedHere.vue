<script setup lang="ts">
/** What the drop adapted and what was fitted to the sound, each with the way back to the saved value. */
import { computed } from 'vue';
import { adaptedHere } from '../../../core/index.ts';
import { useOrigins, type Tied } from './store.ts';

const props = defineProps<{ tied: Tied }>();
const origins = useOrigins();
const values = computed(() => adaptedHere(props.tied.root, origins.baseOf(props.tied)));
const paths = computed(() => values.value.map((v) => v.path));
</script>

<template>
  <section v-if="values.length" aria-label="Adapted on purpose">
    <h3 class="mb-1 font-semibold">Adapted to this session, or fitted to its sound</h3>
    <table class="w-full">
      <tbody>
        <tr v-for="v in values" :key="v.path" class="border-t border-rule">
          <td class="py-1 pr-2">{{ v.label }}</td>
          <td class="pr-2 text-soft">saved as {{ v.saved }}</td>
          <td class="pr-2 font-semibold">{{ v.here }}</td>
          <td class="text-right">
            <button
              type="button"
              class="btn min-h-6 px-2 py-0.5 text-note"
              :aria-label="`As saved: ${v.label}`"
              @click="origins.unadapt(tied, [v.path])"
            >
              As saved
            </button>
          </td>
        </tr>
      </tbody>
    </table>
    <button
      v-if="values.length > 1"
      type="button"
      class="btn mt-2 px-2 py-0.5"
      @click="origins.unadapt(tied, paths)"
    >
      All as saved
    </button>
  </section>
</template>
