<script setup lang="ts">
/** Every connection that leaves what is saved, and what becomes of it. */
import type { Captured, EndChoice } from '../../../core/index.ts';
import { chosenIn } from '../../ui/events.ts';
import { END_WORDS } from '../drop/index.ts';

defineProps<{ leaving: Captured['leaving']; what: string; from: boolean; fixed: boolean }>();
const emit = defineEmits<{ choose: [key: string, choice: EndChoice] }>();
</script>

<template>
  <section aria-label="Loose ends">
    <h3 class="font-semibold">What leaves the {{ what }}</h3>
    <p class="mb-1 text-soft">
      A loose end is tied again where it is dropped; a spare is a copy of the far side that travels along;
      what is cut is not part of the preset.
    </p>
    <table class="w-full">
      <tbody>
        <tr v-for="l in leaving" :key="l.key" class="border-t border-rule">
          <td class="py-1 pr-2">
            {{ END_WORDS[l.kind] }} <strong>{{ l.label }}</strong>{{ ' ' }}
            <span class="text-soft">{{ l.role }}</span>
          </td>
          <td class="max-w-[280px] truncate pr-2 text-soft">{{ from ? l.from.join(', ') : '' }}</td>
          <td class="w-[240px]">
            <select
              class="field w-full py-0.5"
              :disabled="fixed"
              :aria-label="`${END_WORDS[l.kind]} ${l.label}: what becomes of it`"
              :value="l.choice"
              @change="emit('choose', l.key, chosenIn($event) as EndChoice)"
            >
              <option value="keep">keep as a loose end</option>
              <option v-if="l.canSpare" value="spare">and take it along as a spare</option>
              <option value="cut">cut</option>
            </select>
          </td>
        </tr>
      </tbody>
    </table>
  </section>
</template>
