<script setup lang="ts">
/** Some of the session's lines, ticked. */
import { ref } from 'vue';
import type { Id, Track } from '../../../core/index.ts';
import Sheet from '../../ui/Sheet.vue';

const props = defineProps<{ title: string; lines: Track[]; chosen: Id[] }>();
const emit = defineEmits<{ close: []; keep: [lines: Id[]] }>();
const ticked = ref(new Set(props.chosen));
function turn(id: Id) {
  const next = new Set(ticked.value);
  if (!next.delete(id)) next.add(id);
  ticked.value = next;
}
const ROLES: Partial<Record<Track['role'], string>> = { bus: 'whole bus', return: 'whole return' };
const keep = () =>
  emit(
    'keep',
    props.lines.filter((t) => ticked.value.has(t.id)).map((t) => t.id),
  );
</script>

<template>
  <Sheet :title="title" :width="460" @close="emit('close')">
    <ul class="text-body">
      <li v-for="t in lines" :key="t.id" class="border-t border-rule">
        <label class="flex min-h-7 items-center gap-2"
          ><input
            type="checkbox"
            class="accent-[var(--rope)]"
            :checked="ticked.has(t.id)"
            @change="turn(t.id)"
          />{{ t.name }}
          <span v-if="ROLES[t.role]" class="text-note text-soft">{{ ROLES[t.role] }}</span></label
        >
      </li>
    </ul>
    <template #actions
      ><button type="button" class="btn" @click="emit('close')">Cancel</button
      ><button type="button" class="btn btn-main" @click="keep">Keep</button></template
    >
  </Sheet>
</template>
