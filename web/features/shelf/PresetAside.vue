<script setup lang="ts">
/** The versions of a preset, its variants, whether it sounds as it did, and where it is used. */
import { computed, ref, shallowRef, watch } from 'vue';
import type { PresetDetail, PresetEntry, SessionUse } from '../../../contract/index.ts';
import { api } from '../../api/index.ts';
import { when } from '../../ui/format.ts';
import { useSheets } from '../../ui/sheets.ts';
import MoreLikeThis from './MoreLikeThis.vue';
import StillTheSame from './StillTheSame.vue';
import UsesSheet from './UsesSheet.vue';

const props = defineProps<{
  detail: PresetDetail;
  uses: SessionUse[];
  /** the version that is shown, and the one that it is compared with */
  shown: number;
  against: number | null;
}>();
const emit = defineEmits<{ pick: [version: number]; compare: [version: number | null]; used: [] }>();
const sheets = useSheets();
const variants = shallowRef<PresetEntry[]>([]);
const parentName = ref('');
watch(
  () => props.detail.id,
  async (id) => {
    const parent = props.detail.parent;
    try {
      variants.value = (await api.presets({ parent: id, limit: 60 })).items;
      parentName.value = parent ? (await api.preset(parent)).name : '';
    } catch {
      // the preset that it varies may be gone
      parentName.value = '';
    }
  },
  { immediate: true },
);
const compare = (a: string, b: string) => sheets.open('compare', { a: { preset: a }, b: { preset: b } });

/** When a version was saved, and by whom where several do. */
const savedText = ({ createdAt, by }: PresetDetail['versions'][number]) =>
  by ? `${when(createdAt)}, ${by}` : when(createdAt);
const isMine = computed(() => props.detail.right === 'own');

/** In how many places, and how far behind. */
function useText(u: SessionUse): string {
  const places = u.places === 1 ? 'one place' : `${u.places} places`;
  return u.behind ? `${places}, from version ${u.oldest}` : places;
}

const usesOpen = ref(false);
function closeUses() {
  usesOpen.value = false;
  emit('used');
}
</script>

<template>
  <aside aria-label="Versions and uses">
    <h2 class="font-semibold">Versions</h2>
    <ul>
      <li v-for="v in detail.versions" :key="v.version" class="flex items-center gap-1 py-0.5">
        <button
          type="button"
          class="flex-1 rounded px-1 text-left hover:bg-sunk"
          :class="{ 'bg-rope-wash font-semibold': v.version === shown }"
          :aria-current="v.version === shown"
          @click="emit('pick', v.version)"
        >
          {{ v.version }} <span class="font-normal text-soft">{{ savedText(v) }}</span>
        </button>
        <button
          v-if="v.version !== shown"
          type="button"
          class="text-note underline"
          :aria-label="`Compare with version ${v.version}`"
          @click="emit('compare', against === v.version ? null : v.version)"
        >
          {{ against === v.version ? 'close' : 'differs?' }}
        </button>
      </li>
    </ul>
    <template v-if="parentName || variants.length"
      ><h2 class="mt-3 font-semibold">Variants</h2>
      <p v-if="parentName && detail.parent">
        of <RouterLink :to="`/shelf/${detail.parent}`" class="underline">{{ parentName }}</RouterLink> ·
        <button type="button" class="underline" @click="compare(detail.parent, detail.id)">
          what differs
        </button>
      </p>
      <ul>
        <li v-for="v in variants" :key="v.id" class="py-0.5">
          <RouterLink :to="`/shelf/${v.id}`" class="underline">{{ v.name }}</RouterLink> ·
          <button
            type="button"
            class="underline"
            :aria-label="`What differs in ${v.name}`"
            @click="compare(detail.id, v.id)"
          >
            differs?
          </button>
        </li>
      </ul></template
    >
    <MoreLikeThis
      v-if="isMine"
      :id="detail.id"
      :version="detail.version"
      @compare="(other) => compare(detail.id, other)"
    />
    <template v-if="isMine">
      <h2 class="mt-3 font-semibold">Where used</h2>
      <button type="button" class="btn my-1 px-2 py-0.5 text-note" @click="usesOpen = true">
        All sessions that use this …
      </button>
      <p v-if="!uses.length" class="text-soft">In no session now.</p>
      <ul>
        <li v-for="u in uses" :key="u.id" class="py-0.5">
          <RouterLink :to="`/session/${u.id}`" class="underline">{{ u.name }}</RouterLink>{{ ' ' }}
          <span class="text-soft">{{ useText(u) }}</span>
        </li>
      </ul>
    </template>
    <StillTheSame v-if="isMine" :id="detail.id" :version="detail.version" />
    <UsesSheet v-if="usesOpen" :preset="detail.id" :name="detail.name" @close="closeUses" />
  </aside>
</template>
