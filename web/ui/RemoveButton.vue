<script setup lang="ts">
/** Takes a row of a table away; what it takes is in its name. */
defineProps<{ what: string }>();
const emit = defineEmits<{ remove: [] }>();
</script>

<template>
  <button
    type="button"
    class="btn btn-plain px-1.5 text-note"
    :aria-label="`Remove ${what}`"
    @click="emit('remove')"
  >
    remove
  </button>
</template>
