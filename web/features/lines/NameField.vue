<script setup lang="ts">
/** A name that is typed in its place. Enter keeps it, Escape leaves it, Tab keeps it and goes on to the next line. */
import { onMounted, ref } from 'vue';
import type { Id } from '../../../core/index.ts';
import { useSession } from '../../document/doc.ts';
import { shownLines } from './lines.ts';
import { useLineView } from './view.ts';

const props = defineProps<{ id: Id; name: string }>();
const emit = defineEmits<{ name: [text: string] }>();
const session = useSession();
const view = useLineView();
const text = ref(props.name);
const field = ref<HTMLInputElement | null>(null);
onMounted(() => {
  field.value?.focus({ preventScroll: true });
  field.value?.select();
});

function keep() {
  if (view.naming !== props.id) return;
  view.naming = null;
  const name = text.value.trim();
  if (name && name !== props.name) emit('name', name);
}
function leave() {
  view.naming = null;
}
function next(e: KeyboardEvent) {
  const lines = shownLines();
  const to = lines[lines.indexOf(props.id) + (e.shiftKey ? -1 : 1)];
  keep();
  if (!lines.includes(props.id) || !to) return;
  e.preventDefault();
  session.select(to);
  view.naming = to;
}
</script>

<template>
  <input
    ref="field"
    v-model="text"
    class="field px-1 py-0"
    maxlength="200"
    :aria-label="`New name for ${name}`"
    @keydown.enter="keep"
    @keydown.esc.stop="leave"
    @keydown.tab="next"
    @blur="keep"
    @click.stop
  />
</template>
