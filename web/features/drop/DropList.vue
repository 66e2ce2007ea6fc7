<script setup lang="ts">
/** What was dropped into this session: when, from which version, with which choices; each with its report. */
import { onMounted, ref, shallowRef } from 'vue';
import { api } from '../../api/index.ts';
import type { DropEntry } from '../../../contract/index.ts';
import { useDrop } from './store.ts';
import { useSession } from '../../document/doc.ts';
import Sheet from '../../ui/Sheet.vue';
import { when } from '../../ui/format.ts';

interface Kept {
  name: string;
  ties?: { end: string; kind: string; chosen?: string }[];
  adaptations?: { label: string; toText: string }[];
  report?: { total: number; counts: { intact: number } };
}
const emit = defineEmits<{ close: [] }>();
const session = useSession();
const drop = useDrop();
const list = shallowRef<DropEntry[] | null>(null);
const failed = ref('');
onMounted(async () => {
  try {
    list.value = await api.drops(session.id!);
  } catch (e) {
    failed.value = (e as Error).message;
  }
});
const of = (d: DropEntry) => d.record as unknown as Kept;
</script>

<template>
  <Sheet title="What was dropped here" :width="760" @close="emit('close')">
    <p v-if="failed" role="alert" class="text-bad">{{ failed }}</p>
    <p v-else-if="list && !list.length" class="text-soft">
      Nothing yet. Drag a preset from the shelf onto a gap between two lines, or onto a line.
    </p>
    <article
      v-for="d in list ?? []"
      :key="d.id"
      class="flex items-start gap-3 border-t border-rule py-2 text-body"
    >
      <div class="min-w-0 flex-1">
        <p>
          <strong>{{ of(d).name }}</strong>, version {{ d.version }}
          <span class="text-soft">{{ when(d.at) }}</span>
        </p>
        <p v-if="of(d).ties?.length" class="text-soft">
          {{
            of(d)
              .ties!.map((t) => `${t.kind} ${t.end} → ${t.chosen ?? 'open'}`)
              .join(' · ')
          }}
        </p>
        <p v-if="of(d).adaptations?.length" class="text-soft">
          adapted:
          {{
            of(d)
              .adaptations!.map((a) => `${a.label} ${a.toText}`)
              .join(', ')
          }}
        </p>
      </div>
      <button
        v-if="of(d).report"
        type="button"
        class="btn px-2 py-0.5"
        @click="
          drop.reopen(d.id);
          emit('close');
        "
      >
        {{ of(d).report!.counts.intact }} of {{ of(d).report!.total }} intact
      </button>
    </article>
    <template #actions
      ><button type="button" class="btn btn-main" @click="emit('close')">Close</button></template
    >
  </Sheet>
</template>
