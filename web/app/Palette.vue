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
import { computed, ref, watch } from 'vue';
import { useShelf } from '../features/shelf/index.ts';
import { useUi } from '../ui/window.ts';
import type { Command } from '../ui/commands.ts';
import { useShortcuts } from '../ui/shortcuts.ts';

const props = defineProps<{ commands: () => Command[] }>();
const ui = useUi();
const shelf = useShelf();
const query = ref('');
watch(
  () => ui.palette,
  (open) => {
    if (open) {
      query.value = ui.paletteStart;
      if (!shelf.loaded) void shelf.refresh();
    }
  },
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
            @change="query = $event.target.value"
          />
          <ComboboxOptions static class="max-h-[48vh] overflow-auto p-1.5 text-body">
            <ComboboxOption
              v-for="c in found"
              :key="c.group + c.label"
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
