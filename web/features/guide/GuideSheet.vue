<script setup lang="ts">
/** The guide: its chapters, searched by their words; opened at one from what it explains. */
import { computed, nextTick, ref, watch } from 'vue';
import Sheet from '../../ui/Sheet.vue';
import { SECTIONS, sectionsWith } from './sections.ts';
import SearchField from '../../ui/SearchField.vue';

const props = defineProps<{
  /** the chapter that it opens at */
  about?: string;
}>();
const emit = defineEmits<{ close: [] }>();
const typed = ref('');
const chosen = ref(props.about ?? SECTIONS[0].title);
const found = computed(() => sectionsWith(typed.value));
const section = computed(() => found.value.find((s) => s.title === chosen.value) ?? found.value[0]);
const body = ref<HTMLElement | null>(null);

/** Brings the first paragraph that says it, or has all of its words, into sight. */
async function showWords() {
  await nextTick();
  const phrase = typed.value.toLowerCase().trim();
  const words = phrase.split(/\s+/).filter(Boolean);
  const parts = [...(body.value?.querySelectorAll('p, li, tr') ?? [])];
  for (const part of parts) part.classList.remove('found');
  const has = (part: Element, text: string) => part.textContent.toLowerCase().includes(text);
  const hit =
    parts.find((part) => has(part, phrase)) ?? parts.find((part) => words.every((word) => has(part, word)));
  if (!words.length || !hit) {
    body.value?.scrollTo({ top: 0 });
    return;
  }
  hit.classList.add('found');
  hit.scrollIntoView({ block: 'center' });
}
watch([typed, section], showWords);
</script>

<template>
  <Sheet title="Guide" :width="920" @close="emit('close')">
    <div class="grid h-[62vh] grid-cols-[230px_minmax(0,1fr)] gap-4 small:h-auto small:grid-cols-1">
      <div class="flex min-h-0 flex-col">
        <div class="mb-2"><SearchField v-model="typed" label="Search the guide" width="w-full" /></div>
        <ul class="min-h-0 flex-1 overflow-auto text-body" aria-label="Chapters">
          <li v-for="s in found" :key="s.title">
            <button
              type="button"
              class="w-full rounded px-2 py-1 text-left hover:bg-sunk"
              :class="{ 'bg-rope-wash font-semibold': s === section }"
              :aria-current="s === section"
              @click="chosen = s.title"
            >
              {{ s.title }}
            </button>
          </li>
        </ul>
        <p v-if="!found.length" class="text-body text-soft" role="status">
          The guide has nothing with these words. Fewer or other words may do.
        </p>
      </div>
      <article
        v-if="section"
        ref="body"
        class="guide min-h-0 overflow-auto text-body"
        tabindex="0"
        :aria-label="section.title"
      >
        <h3 class="mb-2 text-lead font-semibold">{{ section.title }}</h3>
        <!-- eslint-disable-next-line vue/no-v-html -- the guide that ships -->
        <div v-html="section.html" />
      </article>
    </div>
  </Sheet>
</template>

<style scoped>
.guide :deep(p),
.guide :deep(ul),
.guide :deep(table) {
  margin-bottom: 10px;
}
.guide :deep(ul) {
  list-style: disc;
  padding-left: 18px;
}
.guide :deep(td),
.guide :deep(th) {
  padding: 2px 10px 2px 0;
  text-align: left;
  vertical-align: top;
}
.guide :deep(h3) {
  font-weight: 600;
}
.guide :deep(code) {
  font-size: 12px;
}
.guide :deep(.found) {
  background: var(--rope-wash);
  border-radius: 4px;
}
</style>
