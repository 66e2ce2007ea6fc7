<script setup lang="ts" generic="T">
/**
 * The rows of a list that may be long: only those in sight are drawn, between two rows that are as high as
 * all the others. Rows measure themselves, so they may be of any height. It scrolls with whatever scrolls
 * around it. Short lists are drawn whole.
 */
import { useVirtualizer } from '@tanstack/vue-virtual';
import { computed, nextTick, onMounted, ref, watch } from 'vue';

const props = withDefaults(
  defineProps<{
    items: readonly T[];
    keyOf: (item: T) => string;
    /** px of a row that was not measured yet */
    estimate: number;
    /** what the list and its rows are in the page */
    as?: 'ul' | 'tbody' | 'div';
    rowClass?: string;
  }>(),
  { as: 'ul', rowClass: '' },
);
defineSlots<{ default(row: { item: T; index: number }): unknown; after?(): unknown }>();

/** so many rows are drawn whole: windows and tests see all of a usual list */
const SHORT = 60;
const ROWS = { ul: 'li', tbody: 'tr', div: 'div' } as const;

const isLong = computed(() => props.items.length > SHORT);
const root = ref<HTMLElement | null>(null);
const scroller = ref<HTMLElement | null>(null);
/** px from the top of what scrolls to the first row */
const margin = ref(0);
/** Short lists need no place: to ask for one lays out a page that is half drawn. */
function place() {
  if (!root.value || !isLong.value) return;
  scroller.value ??= scrollerOf(root.value);
  if (!scroller.value) return;
  const above = root.value.getBoundingClientRect().top - scroller.value.getBoundingClientRect().top;
  margin.value = above + scroller.value.scrollTop;
}
onMounted(place);
watch(
  () => props.items,
  () => void nextTick(place),
);
const rows = useVirtualizer(
  computed(() => ({
    count: props.items.length,
    getScrollElement: () => scroller.value,
    estimateSize: () => props.estimate,
    scrollMargin: margin.value,
    overscan: 12,
    getItemKey: (i: number) => (props.items[i] ? props.keyOf(props.items[i]) : i),
  })),
);
const measure = (row: unknown) => {
  if (isLong.value && row instanceof Element) rows.value.measureElement(row);
};
const shown = computed(() => {
  if (!isLong.value) return props.items.map((item, index) => ({ item, index }));
  return rows.value.getVirtualItems().flatMap(({ index }) => {
    const item = props.items[index];
    return item === undefined ? [] : [{ item, index }];
  });
});
const before = computed(() => {
  const first = isLong.value ? rows.value.getVirtualItems()[0] : undefined;
  return first ? first.start - margin.value : 0;
});
const after = computed(() => {
  const last = isLong.value ? rows.value.getVirtualItems().at(-1) : undefined;
  return last ? rows.value.getTotalSize() - (last.end - margin.value) : 0;
});

/** Brings a row into sight, and resolves when it is drawn. */
async function show(index: number): Promise<void> {
  if (isLong.value) rows.value.scrollToIndex(index);
  await nextTick();
}
defineExpose({ show });

function scrollerOf(element: HTMLElement | null): HTMLElement | null {
  for (let at = element; at; at = at.parentElement) {
    if (['auto', 'scroll'].includes(getComputedStyle(at).overflowY)) return at;
  }
  return null;
}
</script>

<template>
  <component :is="as" ref="root">
    <component :is="ROWS[as]" v-if="before > 0" aria-hidden="true" :style="{ height: before + 'px' }" />
    <component
      :is="ROWS[as]"
      v-for="row in shown"
      :key="keyOf(row.item)"
      :ref="measure"
      :data-index="row.index"
      :class="rowClass"
    >
      <slot :item="row.item" :index="row.index" />
    </component>
    <component :is="ROWS[as]" v-if="after > 0" aria-hidden="true" :style="{ height: after + 'px' }" />
    <slot name="after" />
  </component>
</template>
