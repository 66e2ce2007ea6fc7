<script setup lang="ts">
import { RadioGroup, RadioGroupOption } from '@headlessui/vue';
import type { SlotState } from '../../../core/index.ts';

defineProps<{ state: SlotState; name: string }>();
const emit = defineEmits<{ set: [state: SlotState] }>();
const states: { id: SlotState; help: string }[] = [
  { id: 'on', help: 'works on the sound' },
  { id: 'bypassed', help: 'passes sound, keeps its latency, ready at once' },
  { id: 'inactive', help: 'costs no processor time' },
];
</script>

<template>
  <RadioGroup
    :model-value="state"
    class="flex shrink-0 overflow-hidden rounded border border-edge"
    :aria-label="`State of ${name}`"
    @update:model-value="(s: SlotState) => emit('set', s)"
  >
    <RadioGroupOption v-for="s in states" :key="s.id" v-slot="{ checked }" :value="s.id" as="template">
      <button
        type="button"
        class="px-2 py-0.5 text-note"
        :class="checked ? 'bg-ink text-paper' : 'bg-sheet'"
        :title="s.help"
      >
        {{ s.id }}
      </button>
    </RadioGroupOption>
  </RadioGroup>
</template>
