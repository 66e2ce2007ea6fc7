<script setup lang="ts">
/** Find or do: type a few letters, Enter does it. */
import {
  Combobox,
  ComboboxInput,
  ComboboxOption,
  ComboboxOptions,
  Dialog,
  DialogPanel,
} from '@headlessui/vue';
import { watchDebounced } from '@vueuse/core';
import { computed, ref, watch } from 'vue';
import { useUi } from '../ui/window.ts';
import type { Command } from '../ui/commands.ts';
import { giveBack, placeNow } from '../ui/focus.ts';
import { useShortcuts } from '../ui/shortcuts.ts';

const props = defineProps<{ commands: () => Command[]; prepare: (text: string) => Promise<void> }>();
const ui = useUi();
const query = ref('');
let opener = placeNow();
/** what is still being looked up */
let looking: Promise<unknown> = Promise.resolve();
function ready(text: string): Promise<unknown> {
  looking = Promise.all([looking, props.prepare(text)]);
  return looking;
}
watch(
  () => ui.palette,
  (open) => {
    if (open) {
      opener = placeNow();
      query.value = ui.paletteStart;
      void ready('');
    } else giveBack(opener);
  },
);
watchDebounced(
  query,
  (text) => {
    if (ui.palette && text.trim()) void ready(text);
  },
  { debounce: 150 },
);
const found = computed(() => {
  if (!ui.palette) return [];
  const words = query.value.toLowerCase().split(/\s+/).filter(Boolean);
  return props
    .commands()
    .filter((c) => words.every((w) => `${c.group} ${c.label}`.toLowerCase().includes(w)))
    .slice(0, 40);
});
function run(c: Command | null) {
  ui.palette = false;
  if (c) setTimeout(c.run);
}
/** Enter may come before what was typed has been looked up: it is done as soon as it is found. */
async function enter(e: KeyboardEvent) {
  if (found.value.length) return;
  e.preventDefault();
  const typed = query.value;
  await ready(typed);
  const isStillWanted = ui.palette && query.value === typed && found.value.length > 0;
  if (isStillWanted) run(found.value[0]);
}
const shortcuts = useShortcuts();
const keysOf = (entry: Command) => (entry.keys ? shortcuts.keyOf(entry.keys) : '');
</script>

<template>
  <Dialog :open="ui.palette" class="relative z-50" aria-label="Find or do" @close="ui.palette = false">
    <div class="fixed inset-0 bg-ink/25" aria-hidden="true" />
    <div class="fixed inset-x-0 top-[12vh] grid place-items-center">
      <DialogPanel class="sheet w-[560px]">
        <Combobox :model-value="null" @update:model-value="run">
          <ComboboxInput
            class="w-full rounded-t-lg border-b border-rule bg-transparent px-4 py-3 text-head"
            placeholder="Find or do …"
            aria-label="Find or do"
            :display-value="() => query"
            autocomplete="off"
            @keydown.esc="ui.palette = false"
            @keydown.enter="enter"
            @change="query = $event.target.value"
          />
          <ComboboxOptions static class="max-h-[48vh] overflow-auto p-1.5 text-body">
            <ComboboxOption
              v-for="(c, i) in found"
              :key="c.group + c.label + i"
              v-slot="{ active }"
              :value="c"
              as="template"
            >
              <li class="menu-item" :data-active="active">
                <span class="w-[120px] truncate text-soft">{{ c.group }}</span><span class="flex-1">{{
                  c.label
                }}</span
                ><kbd v-if="keysOf(c)" class="text-fine text-soft">{{ keysOf(c) }}</kbd>
              </li>
            </ComboboxOption>
          </ComboboxOptions>
          <p v-if="!found.length" class="px-4 pb-3 text-soft">Nothing of that name can be done here.</p>
        </Combobox>
      </DialogPanel>
    </div>
  </Dialog>
</template>
