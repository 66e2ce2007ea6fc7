<script setup lang="ts">
/** The keys of the whole window. */
import Sheet from '../ui/Sheet.vue';
import { useShortcuts } from '../ui/shortcuts.ts';
import { SHORTCUTS } from './commands.ts';

const shortcuts = useShortcuts();
const emit = defineEmits<{ close: [] }>();
</script>

<template>
  <Sheet title="Keyboard" :width="560" @close="emit('close')"
    ><dl class="grid grid-cols-[190px_1fr] gap-y-1">
      <template v-for="[k, t] in SHORTCUTS" :key="k"
        ><dt>
          <kbd class="font-sans font-semibold">{{ shortcuts.keyOf(k) || '—' }}</kbd>
        </dt>
        <dd>{{ t }}</dd></template
      >
    </dl>
    <p class="mt-3 text-body">
      <RouterLink to="/settings" class="underline" @click="emit('close')"
        >Change keys in the settings</RouterLink
      >
    </p></Sheet
  >
</template>
