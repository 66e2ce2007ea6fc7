<script setup lang="ts">
/**
 * Everything in this session that came from the shelf, and how it stands; what is behind can be brought up
 * together.
 */
import { computed, ref } from 'vue';
import { useOrigins } from './store.ts';
import Sheet from '../../ui/Sheet.vue';
import { useSheets } from '../../ui/sheets.ts';

const emit = defineEmits<{ close: [] }>();
const origins = useOrigins();
const sheets = useSheets();
const list = computed(() => [...origins.all.values()]);
const off = ref<string[]>([]);
const chosen = computed(() => origins.newer.filter((t) => !off.value.includes(t.key)));
const flip = (key: string) => {
  off.value = off.value.includes(key) ? off.value.filter((k) => k !== key) : [...off.value, key];
};
const close = () => emit('close');
</script>

<template>
  <Sheet title="This session and the shelf" :width="760" @close="close">
    <p v-if="!list.length" class="text-soft">
      Nothing here came from the shelf, or its presets are not there any more.
    </p>
    <table v-else class="w-full text-body">
      <thead>
        <tr class="text-left text-soft">
          <th class="font-normal"><span class="sr-only">Update</span></th>
          <th class="font-normal">Here</th>
          <th class="font-normal">Preset</th>
          <th class="font-normal">How it stands</th>
          <th />
        </tr>
      </thead>
      <tbody>
        <tr v-for="t in list" :key="t.key" class="border-t border-rule">
          <td class="w-8 py-1">
            <input
              v-if="t.state.newer"
              type="checkbox"
              class="h-4 w-4 accent-[var(--rope)]"
              :aria-label="`Update ${origins.nameOf(t)}`"
              :checked="!off.includes(t.key)"
              @change="flip(t.key)"
            />
          </td>
          <td class="pr-2">
            {{ t.root.slot ? `${t.root.slot.name} on ${t.root.track.name}` : t.root.track.name }}
          </td>
          <td class="pr-2">
            {{ t.name }} <span class="text-soft">v{{ t.root.origin.version }}</span>
          </td>
          <td :class="{ 'font-semibold': t.state.newer }">{{ origins.said(t) }}</td>
          <td class="text-right">
            <button
              type="button"
              class="btn min-h-6 px-2 py-0.5 text-note"
              :aria-label="`Look at ${origins.nameOf(t)}`"
              @click="sheets.instead('overview', 'origin', { at: t.key })"
            >
              Look …
            </button>
          </td>
        </tr>
      </tbody>
    </table>
    <template #actions
      ><span v-if="chosen.length" class="mr-auto text-body text-soft"
        >Values that both sides changed stay as they are here.</span
      ><button type="button" class="btn" @click="close">Close</button
      ><button
        v-if="origins.newer.length"
        type="button"
        class="btn btn-main"
        :disabled="!chosen.length"
        @click="origins.takeAll(chosen)"
      >
        Update {{ chosen.length }}
      </button></template
    >
  </Sheet>
</template>
