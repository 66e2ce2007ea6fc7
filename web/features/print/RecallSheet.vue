<script setup lang="ts">
/** The sheet from which the session can be built again by hand: saved, or read and printed on paper. */
import { recallSheet, safeName, type Session, type SheetFormat } from '../../../core/index.ts';
import { save } from '../../ui/save.ts';

const props = defineProps<{ session: Session }>();
const KINDS: { format: SheetFormat; label: string; ending: string; type: string }[] = [
  { format: 'html', label: 'HTML, for paper', ending: 'html', type: 'text/html' },
  { format: 'markdown', label: 'Markdown', ending: 'md', type: 'text/markdown' },
  { format: 'csv', label: 'CSV', ending: 'csv', type: 'text/csv' },
];
function saveAs({ format, ending, type }: (typeof KINDS)[number]) {
  const blob = new Blob([recallSheet(props.session, format)], { type: `${type};charset=utf-8` });
  save(blob, `${safeName(`${props.session.name}, recall sheet`)}.${ending}`);
}
</script>

<template>
  <section aria-label="Recall sheet">
    <h2 class="mb-1 text-lead font-semibold">Recall sheet</h2>
    <div class="flex flex-wrap items-center gap-2">
      <button v-for="k in KINDS" :key="k.format" type="button" class="btn" @click="saveAs(k)">
        {{ k.label }}
      </button>
      <span class="text-note text-soft"
        >every line with its values, connections, hardware, what is printed, what came from the shelf</span
      >
    </div>
  </section>
</template>
