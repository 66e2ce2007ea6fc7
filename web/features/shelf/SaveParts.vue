<script setup lang="ts">
/** Which parts are saved: of all lines, and of each where they differ. */
import { ref } from 'vue';
import { PARTS, type Parts, type Track } from '../../../core/index.ts';

defineProps<{ tracks: Track[]; parts: Parts; partsOf: (t: Track) => Parts }>();
const emit = defineEmits<{ toggle: [part: Parts[number]]; toggleOwn: [t: Track, part: Parts[number]] }>();
const byLine = ref(false);
</script>

<template>
  <fieldset class="flex flex-wrap items-center gap-x-3 gap-y-1">
    <legend class="float-left mr-3 font-semibold">Parts</legend>
    <label v-for="p in PARTS" :key="p.id" class="flex items-center gap-1" :title="p.help"
      ><input
        type="checkbox"
        class="accent-[var(--rope)]"
        :checked="parts.includes(p.id)"
        @change="emit('toggle', p.id)"
      />
      {{ p.label }}</label
    >
    <button
      v-if="tracks.length > 1"
      type="button"
      class="btn px-2 py-0.5 text-note"
      :aria-expanded="byLine"
      @click="byLine = !byLine"
    >
      {{ byLine ? 'Hide the lines' : 'Line by line' }}
    </button>
  </fieldset>
  <div
    v-if="byLine"
    class="max-h-[190px] overflow-auto rounded border border-rule"
    tabindex="0"
    role="region"
    aria-label="Parts of each line"
  >
    <table class="w-full text-note">
      <thead class="sticky top-0 bg-sheet">
        <tr>
          <th class="px-2 py-1 text-left font-normal text-soft">Line</th>
          <th v-for="p in PARTS" :key="p.id" class="font-normal text-soft">{{ p.label }}</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="t in tracks" :key="t.id" class="border-t border-rule">
          <th class="max-w-[160px] truncate px-2 text-left font-normal">{{ t.name }}</th>
          <td v-for="p in PARTS" :key="p.id" class="text-center">
            <input
              type="checkbox"
              class="m-1 h-4 w-4 accent-[var(--rope)]"
              :aria-label="`${p.label} of ${t.name}`"
              :checked="partsOf(t).includes(p.id)"
              @change="emit('toggleOwn', t, p.id)"
            />
          </td>
        </tr>
      </tbody>
    </table>
  </div>
</template>
