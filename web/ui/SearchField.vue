<script setup lang="ts">
/** A field to find something by its words; what else it is given (id, keys) goes to the field itself. */
import { Search } from '@lucide/vue';

defineOptions({ inheritAttrs: false });
defineProps<{ label: string; width: string }>();
const text = defineModel<string>({ required: true });
</script>

<template>
  <label class="relative block"
    ><Search :size="14" class="absolute left-2 top-2 text-soft" aria-hidden="true" /><input
      v-model="text"
      type="search"
      class="field pl-7"
      :class="width"
      :placeholder="label"
      :aria-label="label"
      v-bind="$attrs"
  /></label>
</template>
