<script setup lang="ts">
import { CircleAlert, CircleCheck, Info, X } from '@lucide/vue';
import { useUi } from './window.ts';

const ui = useUi();
const icons = { info: Info, error: CircleAlert, done: CircleCheck };
</script>

<template>
  <div
    class="pointer-events-none fixed bottom-3 left-1/2 z-[70] flex -translate-x-1/2 flex-col items-center gap-2"
    role="status"
    aria-live="polite"
  >
    <div
      v-for="t in ui.toasts"
      :key="t.id"
      class="pointer-events-auto flex max-w-[640px] items-center gap-2 rounded-md border bg-sheet px-3 py-2 text-body"
      :class="t.kind === 'error' ? 'border-bad' : 'border-edge'"
      :data-kind="t.kind"
    >
      <component
        :is="icons[t.kind]"
        :size="16"
        class="shrink-0"
        :class="t.kind === 'error' ? 'text-bad' : t.kind === 'done' ? 'text-good' : 'text-soft'"
        aria-hidden="true"
      />
      <span>{{ t.text }}</span>
      <button
        v-for="a in t.actions"
        :key="a.label"
        type="button"
        class="btn px-2 py-0.5"
        @click="
          a.run();
          ui.close(t.id);
        "
      >
        {{ a.label }}
      </button>
      <button
        type="button"
        class="btn btn-plain px-1 py-0.5"
        aria-label="Close message"
        @click="ui.close(t.id)"
      >
        <X :size="14" aria-hidden="true" />
      </button>
    </div>
  </div>
</template>
