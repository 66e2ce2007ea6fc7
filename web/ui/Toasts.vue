<script setup lang="ts">
/** The strip at the foot of the window: what was said last, and the list of what was said before. It covers nothing. */
import { CircleAlert, CircleCheck, Info, MessageSquare, X } from '@lucide/vue';
import { ref } from 'vue';
import { useUi } from './window.ts';

const ui = useUi();
const icons = { info: Info, error: CircleAlert, done: CircleCheck };
const tones = { info: 'text-soft', error: 'text-bad', done: 'text-good' };
const isListed = ref(false);
const timeOf = (at: number) => new Date(at).toLocaleTimeString(undefined, { timeStyle: 'short' });
</script>

<template>
  <footer data-panel="messages" class="relative z-[70] shrink-0 border-t border-rule bg-sheet text-body">
    <section
      v-if="isListed"
      class="absolute bottom-full right-2 max-h-[50vh] w-[520px] overflow-auto rounded-t-lg border border-edge bg-sheet px-3 py-2"
      aria-label="Messages so far"
    >
      <p v-if="!ui.said.length" class="text-soft">Nothing was said yet.</p>
      <ol>
        <li
          v-for="t in ui.said"
          :key="t.id"
          class="flex items-start gap-2 border-t border-rule py-1 first:border-0"
        >
          <component
            :is="icons[t.kind]"
            :size="15"
            class="mt-0.5 shrink-0"
            :class="tones[t.kind]"
            aria-hidden="true"
          />
          <span class="min-w-0 flex-1">{{ t.text }}</span>
          <time class="text-note text-soft">{{ timeOf(t.at) }}</time>
        </li>
      </ol>
    </section>
    <div class="flex min-h-[30px] items-end gap-2 px-3">
      <div class="min-w-0 flex-1" role="status" aria-live="polite">
        <div
          v-for="t in ui.toasts"
          :key="t.id"
          class="flex min-h-[30px] items-center gap-2"
          :data-kind="t.kind"
        >
          <component
            :is="icons[t.kind]"
            :size="15"
            class="shrink-0"
            :class="tones[t.kind]"
            aria-hidden="true"
          />
          <span class="min-w-0 py-0.5">{{ t.text }}</span>
          <button
            v-for="a in t.actions"
            :key="a.label"
            type="button"
            class="btn shrink-0 px-2 py-0"
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
      <button
        type="button"
        class="btn btn-plain my-[3px] px-1.5 py-0 text-note"
        :aria-expanded="isListed"
        @click="isListed = !isListed"
      >
        <MessageSquare :size="13" aria-hidden="true" /> Messages
      </button>
    </div>
  </footer>
</template>
