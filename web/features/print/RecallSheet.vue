<script setup lang="ts">
/** The sheet from which the session can be built again by hand: saved, or held against another one. */
import { computed, ref } from 'vue';
import { recallSheet, safeName, type Session, type SheetFormat } from '../../../core/index.ts';
import { useSession } from '../../document/doc.ts';
import { save, saveFrom } from '../../ui/save.ts';
import { useUi } from '../../ui/window.ts';
import CompareSheets from './CompareSheets.vue';
import { usePrintPlan } from './plan.ts';

const props = defineProps<{ session: Session }>();
const ui = useUi();
const open = useSession();
const print = usePrintPlan();
const comparing = ref(false);
const KINDS: { format: SheetFormat; label: string; ending: string; type: string }[] = [
  { format: 'html', label: 'HTML, for paper', ending: 'html', type: 'text/html' },
  { format: 'markdown', label: 'Markdown', ending: 'md', type: 'text/markdown' },
  { format: 'csv', label: 'CSV', ending: 'csv', type: 'text/csv' },
];
/** what was measured when it was printed last */
const figures = computed(() => print.done?.printed.files ?? print.made?.printed?.[print.song]?.files ?? []);
function saveAs({ format, ending, type }: (typeof KINDS)[number]) {
  const text = recallSheet(props.session, format, figures.value);
  const blob = new Blob([text], { type: `${type};charset=utf-8` });
  save(blob, `${safeName(`${props.session.name}, recall sheet`)}.${ending}`);
}
/** The server lays the pages out: what was just changed goes there first. */
async function savePages() {
  try {
    await open.flush();
    saveFrom(`/api/sessions/${open.id}/recall.pdf`);
  } catch (e) {
    ui.fail(e);
  }
}
</script>

<template>
  <section aria-label="Recall sheet">
    <h2 class="mb-1 text-lead font-semibold">Recall sheet</h2>
    <div class="flex flex-wrap items-center gap-2">
      <button type="button" class="btn" @click="savePages">PDF</button>
      <button v-for="k in KINDS" :key="k.format" type="button" class="btn" @click="saveAs(k)">
        {{ k.label }}
      </button>
      <button type="button" class="btn" @click="comparing = true">Compare with …</button>
      <span class="text-note text-soft"
        >every line with its values, connections, hardware, what is printed, its levels, what came from the
        shelf</span
      >
    </div>
    <CompareSheets v-if="comparing" :session="session" @close="comparing = false" />
  </section>
</template>
