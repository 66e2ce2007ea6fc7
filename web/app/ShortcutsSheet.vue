<script setup lang="ts">
/** The keys of the whole window. */
import Sheet from '../ui/Sheet.vue';
import { SHORTCUTS } from './commands.ts';

const emit = defineEmits<{ close: [] }>();
</script>

<template>
  <Sheet title="Keyboard" :width="560" @close="emit('close')"
    ><dl class="grid grid-cols-[190px_1fr] gap-y-1">
      <template v-for="[k, t] in SHORTCUTS" :key="k"
        ><dt>
          <kbd class="font-sans font-semibold">{{ k }}</kbd>
        </dt>
        <dd>{{ t }}</dd></template
      >
    </dl></Sheet
  >
</template>
