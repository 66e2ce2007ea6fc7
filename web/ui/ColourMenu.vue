<script setup lang="ts">
/** A colour by its name, with its swatch beside it, here and in the list. */
import { computed } from 'vue';
import { COLOURS, colourOf } from '../../core/index.ts';
import PopMenu from './PopMenu.vue';
import { useUi } from './window.ts';

const props = defineProps<{
  /** what it is the colour of */
  label: string;
  /** words for no colour of its own; there is no such choice when left out */
  none?: string;
}>();
/** '' for none of its own */
const colour = defineModel<string>({ required: true });
const ui = useUi();
const name = computed(() => (colour.value ? colourOf(colour.value).label : (props.none ?? '')));
const items = () => [
  ...(props.none ? [{ label: props.none, checked: !colour.value, run: () => (colour.value = '') }] : []),
  ...COLOURS.map((c) => ({
    label: c.label,
    swatch: ui.swatch(c.id),
    checked: colour.value === c.id,
    run: () => (colour.value = c.id),
  })),
];
</script>

<template>
  <PopMenu
    :label="`${label}: ${name}`"
    :items="items"
    button-class="field flex h-[26px] items-center gap-1.5 px-2 py-0"
  >
    <span
      v-if="colour"
      class="h-3.5 w-3.5 shrink-0 rounded-sm"
      :style="{ background: ui.swatch(colour) }"
      aria-hidden="true"
    />
    <span class="truncate">{{ name }}</span>
  </PopMenu>
</template>
