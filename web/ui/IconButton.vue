<script setup lang="ts">
/** A button that shows only a picture; its label is its name for those who can't see it. */
import type { Component } from 'vue';

withDefaults(
  defineProps<{ icon: Component; label: string; hint?: string; size?: number; disabled?: boolean }>(),
  { hint: undefined, size: 15, disabled: false },
);
</script>

<template>
  <button type="button" class="btn btn-plain px-1.5" :aria-label="label" :title="hint" :disabled="disabled">
    <component :is="icon" :size="size" aria-hidden="true" />
  </button>
</template>
