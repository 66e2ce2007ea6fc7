<script setup lang="ts">
/** A place that a file can be dragged to; what stands in it says what is there. */
import { ref } from 'vue';

const emit = defineEmits<{ file: [file: File] }>();
const over = ref(false);
function dropped(e: DragEvent) {
  over.value = false;
  // several are for the whole session
  const [file, ...others] = e.dataTransfer?.files ?? [];
  if (!file || others.length) return;
  e.preventDefault();
  emit('file', file);
}
</script>

<template>
  <div
    class="rounded border border-dashed border-edge p-2 text-note"
    :class="{ 'border-rope bg-rope-wash': over }"
    @dragover.prevent="over = true"
    @dragleave="over = false"
    @drop="dropped"
  >
    <slot />
  </div>
</template>
