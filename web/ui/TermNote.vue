<script setup lang="ts">
/** What a word of ours means, in a line beside where it first appears; once it was seen it is not said again. */
import { useStorage } from '@vueuse/core';
import { onBeforeUnmount } from 'vue';
import { TERMS, type Term } from './terms.ts';

const props = defineProps<{ word: Term }>();
const seen = useStorage<string[]>('rope-shelf-words', []);
const isNew = !seen.value.includes(props.word);
onBeforeUnmount(() => {
  if (!seen.value.includes(props.word)) seen.value = [...seen.value, props.word];
});
</script>

<template>
  <p v-if="isNew" class="text-note text-soft" role="note">{{ TERMS[word] }}</p>
</template>
