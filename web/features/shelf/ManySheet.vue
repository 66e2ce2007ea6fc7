<script setup lang="ts">
/** Presets that are marked, changed together: category, colour, tags they get and lose. */
import { computed, ref } from 'vue';
import type { ManyPresets } from '../../../contract/index.ts';
import ColourMenu from '../../ui/ColourMenu.vue';
import { listed } from '../../ui/format.ts';
import Sheet from '../../ui/Sheet.vue';
import { useMany } from './many.ts';
import { useShelf } from './store.ts';

const props = defineProps<{ ids: string[] }>();
const emit = defineEmits<{ close: [] }>();
const shelf = useShelf();
const many = useMany();
const category = ref('');
const colour = ref('');
const tag = ref('');
const untag = ref('');
const change = computed((): Omit<ManyPresets, 'ids'> => ({
  ...(category.value.trim() ? { category: category.value.trim() } : {}),
  ...(colour.value ? { colour: colour.value } : {}),
  ...(listed(tag.value).length ? { tag: listed(tag.value) } : {}),
  ...(listed(untag.value).length ? { untag: listed(untag.value) } : {}),
}));
const isEmpty = computed(() => Object.keys(change.value).length === 0);
async function apply() {
  if (await many.change({ ids: props.ids, ...change.value })) emit('close');
}
</script>

<template>
  <Sheet :title="`Change ${ids.length} presets`" :width="480" @close="emit('close')">
    <form
      id="many-presets"
      class="grid grid-cols-[130px_minmax(0,1fr)] items-center gap-2 text-body"
      @submit.prevent="apply"
    >
      <label for="many-category">Category</label>
      <input
        id="many-category"
        v-model="category"
        class="field"
        list="many-categories"
        maxlength="200"
        placeholder="as it is"
        autocomplete="off"
      />
      <datalist id="many-categories">
        <option v-for="c in shelf.facets.categories" :key="c.name" :value="c.name" />
      </datalist>
      <span>Colour</span>
      <span><ColourMenu v-model="colour" label="Colour of the presets" none="as it is" /></span>
      <label for="many-tag">Tags to add</label>
      <input id="many-tag" v-model="tag" class="field" placeholder="none" autocomplete="off" />
      <label for="many-untag">Tags to take off</label>
      <input
        id="many-untag"
        v-model="untag"
        class="field"
        list="many-tags"
        placeholder="none"
        autocomplete="off"
      />
      <datalist id="many-tags">
        <option v-for="t in shelf.facets.tags" :key="t.name" :value="t.name" />
      </datalist>
    </form>
    <template #actions>
      <button type="button" class="btn" @click="emit('close')">Cancel</button>
      <button type="submit" form="many-presets" class="btn btn-main" :disabled="isEmpty">Change them</button>
    </template>
  </Sheet>
</template>
