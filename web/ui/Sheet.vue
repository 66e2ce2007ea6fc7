<script setup lang="ts">
/**
 * A dialog over the screen: title, content, actions at the foot. Escape and the cross close it. One that is `steady`
 * has its height from the start: what is worked out while it stands open moves no button away from under the pointer.
 */
import { Dialog, DialogPanel, DialogTitle } from '@headlessui/vue';
import { X } from '@lucide/vue';
import { onBeforeUnmount, ref, watch } from 'vue';
import { beginIn, giveBack, placeNow } from './focus.ts';

withDefaults(defineProps<{ title: string; width?: number; steady?: boolean }>(), { width: 640 });
const emit = defineEmits<{ close: [] }>();
const opener = placeNow();
const body = ref<HTMLElement | null>(null);
// what is in a dialog is drawn after the dialog itself
watch(body, beginIn);
onBeforeUnmount(() => giveBack(opener));
</script>

<template>
  <Dialog :open="true" class="relative z-50" @close="emit('close')">
    <div class="fixed inset-0 bg-ink/35" aria-hidden="true" />
    <div class="fixed inset-0 grid place-items-center p-2 sm:p-6">
      <DialogPanel class="sheet w-full" :class="{ steady }" :style="{ maxWidth: width + 'px' }">
        <header class="flex items-center gap-3 border-b border-rule px-4 py-2.5">
          <DialogTitle class="flex-1 truncate text-lead font-semibold">{{ title }}</DialogTitle>
          <button type="button" class="btn btn-plain px-1.5" aria-label="Close" @click="emit('close')">
            <X :size="16" aria-hidden="true" />
          </button>
        </header>
        <div ref="body" class="min-h-0 flex-1 overflow-auto px-4 py-3"><slot /></div>
        <footer
          v-if="$slots.actions"
          class="flex items-center justify-end gap-2 border-t border-rule px-4 py-2.5"
        >
          <slot name="actions" />
        </footer>
      </DialogPanel>
    </div>
  </Dialog>
</template>
