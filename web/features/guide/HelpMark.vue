<script setup lang="ts">
/** A question mark beside what a chapter of the guide explains. */
import { CircleQuestionMark } from '@lucide/vue';
import IconButton from '../../ui/IconButton.vue';
import { useSheets } from '../../ui/sheets.ts';

const props = defineProps<{ about: string }>();
const sheets = useSheets();
const open = () => sheets.open('guide', { about: props.about });
</script>

<template>
  <IconButton :icon="CircleQuestionMark" :label="`Guide: ${about}`" :hint="`Guide: ${about}`" @click="open" />
</template>
