<script setup lang="ts">
/** Clips of one or more lines brought to one loudness by their gains: before and after side by side, one step to undo. */
import { computed, onBeforeUnmount, ref, shallowRef, watch } from 'vue';
import { formatDb, setClipGains, type EvenRow, type Id } from '../../../core/index.ts';
import { isCancelled, jobs, plain, type Running } from '../../audio/jobs.ts';
import { useSession } from '../../document/doc.ts';
import NumberField from '../../ui/NumberField.vue';
import Sheet from '../../ui/Sheet.vue';
import { useUi } from '../../ui/window.ts';

const props = defineProps<{ tracks: Id[] }>();
const emit = defineEmits<{ close: [] }>();
const session = useSession();
const ui = useUi();
const clips = computed(() =>
  session
    .doc!.tracks.filter((t) => props.tracks.includes(t.id))
    .flatMap((t) =>
      t.clips
        .filter((c) => !c.off)
        .map((c) => ({
          id: c.id,
          name: `${t.name}: ${session.doc!.media.find((m) => m.id === c.media)?.name ?? 'sound'}`,
        })),
    ),
);
/** the clip that the others are to be as loud as; '': a number */
const like = ref<Id>(clips.value[0]?.id ?? '');
const target = ref(-20);
const rows = shallowRef<EvenRow[] | null>(null);
const failed = ref('');
let running: Running<EvenRow[]> | null = null;
watch(
  [like, target],
  async () => {
    running?.cancel();
    failed.value = '';
    try {
      running = jobs.even(plain(session.doc!), [...props.tracks], like.value || target.value);
      rows.value = await running.done;
    } catch (e) {
      if (!isCancelled(e)) failed.value = (e as Error).message;
    }
  },
  { immediate: true },
);
onBeforeUnmount(() => running?.cancel());
const changed = computed(() => rows.value?.filter((r) => Math.abs(r.to - r.from) > 0.05) ?? []);
const loudness = (v: number | null) =>
  v === null ? 'cannot be told' : `${v.toFixed(1).replace('-', '−')} LUFS`;
const nameOf = (row: EvenRow) => clips.value.find((c) => c.id === row.clip)?.name ?? row.name;
function even() {
  const gains = Object.fromEntries(changed.value.map((r) => [r.clip, r.to]));
  const what = changed.value.length === 1 ? '1 clip' : `${changed.value.length} clips`;
  if (session.edit(`Even out ${what}`, setClipGains(gains))) {
    ui.say(`${what} evened out.`, 'done', [session.undoing()]);
  }
  emit('close');
}
</script>

<template>
  <Sheet title="Even out takes" :width="720" @close="emit('close')">
    <div class="flex flex-col gap-2 text-body">
      <div class="flex flex-wrap items-center gap-3">
        <label class="flex items-center gap-2"
          >As loud as
          <select v-model="like" class="field py-0.5" aria-label="As loud as">
            <option v-for="c in clips" :key="c.id" :value="c.id">{{ c.name }}</option>
            <option value="">a number</option>
          </select></label
        >
        <NumberField
          v-if="!like"
          label="Loudness of all"
          unit="LUFS"
          :value="target"
          :min="-60"
          :max="0"
          @change="target = $event"
        />
      </div>
      <p v-if="failed" role="alert" class="text-bad">{{ failed }}</p>
      <p v-else-if="!rows" role="status">Listening to the clips …</p>
      <table v-if="rows" class="w-full">
        <thead>
          <tr class="text-left text-note text-soft">
            <th class="font-normal">Clip</th>
            <th class="font-normal">Now</th>
            <th class="font-normal">Then</th>
            <th class="font-normal">Gain</th>
            <th class="font-normal"><span class="sr-only">Notes</span></th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="row in rows" :key="row.clip" class="border-t border-rule">
            <td class="max-w-[240px] truncate py-1 pr-2">{{ nameOf(row) }}</td>
            <td class="pr-2">{{ loudness(row.before) }}</td>
            <td class="pr-2">{{ loudness(row.after) }}</td>
            <td class="whitespace-nowrap pr-2">
              {{ formatDb(row.from, false) }} → <strong>{{ formatDb(row.to, false) }}</strong>
            </td>
            <td class="text-warn">{{ row.isHeld ? 'held back: its peaks would pass −1 dBTP' : '' }}</td>
          </tr>
        </tbody>
      </table>
    </div>
    <template #actions>
      <button type="button" class="btn" @click="emit('close')">Cancel</button>
      <button type="button" class="btn btn-main" :disabled="!changed.length" @click="even">
        Even them out
      </button>
    </template>
  </Sheet>
</template>
