<script setup lang="ts">
/**
 * One preset: flow picture, values, note, versions and what differs, where it is used, listening, dropping.
 */
import { computed, onBeforeUnmount, onMounted, ref, shallowRef, watch } from 'vue';
import { diffPresets, isPiece, type Preset } from '../../../core/index.ts';
import type { PresetDetail, SessionUse } from '../../../contract/index.ts';
import { api } from '../../api/index.ts';
import { makeLatest } from '../../ui/latest.ts';
import { useUi } from '../../ui/window.ts';
import { FlowPicture } from '../picture/index.ts';
import DifferenceTable from './DifferenceTable.vue';
import PresetAside from './PresetAside.vue';
import PresetHead from './PresetHead.vue';
import PresetLines from './PresetLines.vue';
import PresetListen from './PresetListen.vue';

const props = defineProps<{ id: string }>();
const ui = useUi();
const detail = shallowRef<PresetDetail | null>(null);
const shown = shallowRef<Preset | null>(null);
const against = shallowRef<Preset | null>(null);
const uses = shallowRef<SessionUse[]>([]);
const failed = ref('');

async function load() {
  failed.value = '';
  try {
    detail.value = await api.preset(props.id);
    shown.value = detail.value.preset;
    against.value = null;
    const isMine = detail.value.right === 'own';
    uses.value = isMine ? (await api.sessionsUsing(props.id)).sessions : [];
  } catch (e) {
    failed.value = (e as Error).message;
  }
}
onMounted(load);
watch(
  () => detail.value?.name ?? '',
  (name) => {
    ui.subject = name;
  },
);
onBeforeUnmount(() => {
  ui.subject = '';
});

const isOfALine = computed(() => !!shown.value && isPiece(shown.value.kind));
const differences = computed(() =>
  against.value && shown.value ? diffPresets(against.value.content, shown.value.content) : [],
);
const [lastPicked, lastCompared] = [makeLatest(), makeLatest()];
async function pick(version: number) {
  try {
    const found = await lastPicked(api.presetVersion(props.id, version));
    if (found) shown.value = found.value;
  } catch (e) {
    ui.fail(e);
  }
}
async function compareTo(version: number | null) {
  try {
    const found = await lastCompared(version ? api.presetVersion(props.id, version) : Promise.resolve(null));
    if (found) against.value = found.value;
  } catch (e) {
    ui.fail(e);
  }
}
const changed = (over: Partial<PresetDetail>) => {
  if (detail.value) detail.value = { ...detail.value, ...over };
};
</script>

<template>
  <article
    v-if="detail && shown"
    class="min-h-0 overflow-auto p-4 [&>*]:max-w-[1280px]"
    :aria-label="detail.name"
  >
    <PresetHead :detail="detail" :shown="shown" @changed="changed" @saved="load" />
    <FlowPicture :content="shown.content" :tempo="shown.reference.tempo" :piece="isOfALine" />
    <PresetListen :id="id" :preset="shown" :name="detail.name" />
    <div class="mt-3 grid grid-cols-[minmax(0,1fr)_232px] gap-4 small:grid-cols-1 text-body">
      <div class="min-w-0">
        <section v-if="shown.note" class="mb-3" aria-label="What to touch first">
          <h2 class="font-semibold">What to touch first</h2>
          <p>{{ shown.note }}</p>
        </section>
        <section v-if="against" class="mb-3" aria-label="Differences">
          <h2 class="font-semibold">What differs from version {{ against.version }}</h2>
          <DifferenceTable :list="differences" />
        </section>
        <PresetLines :content="shown.content" :piece="isOfALine" />
      </div>
      <PresetAside
        :detail="detail"
        :uses="uses"
        :shown="shown.version"
        :against="against?.version ?? null"
        @pick="pick"
        @compare="compareTo"
        @used="load"
      />
    </div>
  </article>
  <p v-else-if="failed" class="m-auto" role="alert">
    {{ failed }} <button type="button" class="btn ml-2" @click="load">Try again</button>
  </p>
  <p v-else class="m-auto text-soft">Loading …</p>
</template>
