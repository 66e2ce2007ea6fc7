<script setup lang="ts">
/** Whether a preset still sounds as it did when it was saved. */
import { computed, onBeforeUnmount, ref, shallowRef, watch } from 'vue';
import type { PresetLikeness } from '../../../contract/index.ts';
import { api } from '../../api/index.ts';
import { when } from '../../ui/format.ts';
import { useUi } from '../../ui/window.ts';
import { bandsText, causesOf, differenceText } from './likeness.ts';

const props = defineProps<{ id: string; version: number }>();
const ui = useUi();
const known = shallowRef<PresetLikeness | null>(null);
const isBusy = ref(false);

async function take(answer: Promise<PresetLikeness>) {
  isBusy.value = true;
  try {
    known.value = await answer;
  } catch (e) {
    ui.fail(e);
  }
  isBusy.value = false;
}
/** The fingerprint of what was just saved is made in a moment: until then it is asked for again. */
const WAIT = 1500;
let timer = 0;
async function load() {
  window.clearTimeout(timer);
  try {
    known.value = await api.likeness(props.id);
  } catch {
    // what else is wrong is said by the page; this part stays empty
    known.value = null;
    return;
  }
  if (!known.value.madeAt) timer = window.setTimeout(() => void load(), WAIT);
}
watch(() => [props.id, props.version], load, { immediate: true });
onBeforeUnmount(() => window.clearTimeout(timer));

const likeness = computed(() => known.value?.likeness ?? null);
const isOther = computed(() => likeness.value !== null && likeness.value.verdict !== 'equal');
const text = computed(() => {
  if (!known.value?.madeAt) return 'Its fingerprint is being made.';
  if (!likeness.value) return `Fingerprint made ${when(known.value.madeAt)}.`;
  return differenceText(likeness.value);
});
const level = computed(() => {
  const l = likeness.value;
  if (!l || Math.abs(l.louder) < 0.1) return '';
  return `${Math.abs(l.louder).toFixed(1)} dB ${l.louder > 0 ? 'louder' : 'softer'}`;
});
</script>

<template>
  <section aria-label="Still the same?">
    <h2 class="mt-3 font-semibold">Still the same?</h2>
    <p role="status" :class="{ 'text-soft': !isOther }">{{ text }}</p>
    <ul v-if="likeness && isOther" class="list-disc pl-4 text-note">
      <li v-if="likeness.bands.length">{{ bandsText(likeness) }}</li>
      <li v-if="level">{{ level }}</li>
      <li v-for="cause in causesOf(likeness)" :key="cause">{{ cause }}</li>
    </ul>
    <p v-if="known?.checkedAt && likeness" class="text-note text-soft">
      Compared {{ when(known.checkedAt) }}.
    </p>
    <div class="mt-1 flex flex-wrap gap-1">
      <button
        type="button"
        class="btn px-2 py-0.5 text-note"
        :disabled="isBusy"
        @click="take(api.compareSound(id))"
      >
        {{ isBusy ? 'Comparing …' : 'Compare now' }}
      </button>
      <button
        v-if="isOther"
        type="button"
        class="btn px-2 py-0.5 text-note"
        :disabled="isBusy"
        @click="take(api.acceptSound(id))"
      >
        It sounds right
      </button>
    </div>
  </section>
</template>
