<script setup lang="ts">
/** What stands where nothing is yet: why, and in the slot the buttons of the next step. */
defineProps<{ text: string }>();
</script>

<template>
  <div class="flex flex-col items-start gap-2 p-4 text-body text-soft">
    <p>{{ text }}</p>
    <div class="flex flex-wrap gap-2"><slot /></div>
  </div>
</template>
