import { useVirtualizer } from '@tanstack/vue-virtual';
import { createEventHook, useResizeObserver, useSessionStorage } from '@vueuse/core';
import { computed, useTemplateRef, watch, type Ref } from 'vue';
import type { Id } from '../../../core/index.ts';
import { useSession } from '../../document/doc.ts';
import { lineLayout, listed, useLineView, useOneLine, type Item } from '../lines/index.ts';
import { useUi } from '../../ui/window.ts';
import { useRackView } from '../rack/index.ts';
import { useRushing } from './rushing.ts';

const HEAD = 20;
const HEADING = 28;
const SMALL_WIDTH = 800;
/** px of the shelf beside the list, and of the bars above it */
const BESIDE = 232;
const ABOVE = 173;

interface Size {
  width: number;
  height: number;
}

/**
 * How large the list is: as large as it was last in this window, or is likely to be, until it is measured. Asked for
 * while the page is half drawn, the whole page would be laid out for the answer, and its lines drawn twice.
 */
function useLikelySize(scroller: Readonly<Ref<HTMLElement | null>>) {
  const ui = useUi();
  const guess = {
    width: window.innerWidth - (ui.shelfOpen && !ui.isSmall ? BESIDE : 0),
    height: window.innerHeight - ABOVE - ui.panelHeight,
  };
  const size = useSessionStorage<Size>('rope-shelf-list', guess);
  const sizes = createEventHook<Size>();
  useResizeObserver(scroller, ([{ contentRect }]) => {
    const [width, height] = [Math.round(contentRect.width), Math.round(contentRect.height)];
    // what is not shown has no size
    if (!width || !height) return;
    size.value = { width, height };
    void sizes.trigger(size.value);
  });
  return { first: { ...size.value }, size, sizes };
}

/** The rows of the list, of which only those in sight are drawn; what is selected or named is brought into sight. */
export function useRows() {
  const session = useSession();
  const view = useLineView();
  const racks = useRackView();
  const scroller = useTemplateRef<HTMLElement>('scroller');
  useOneLine(scroller);
  const ui = useUi();
  /** px that a line takes at least; in a small window the list scrolls sideways for it */
  const least = computed(() => (ui.isSmall ? SMALL_WIDTH : 0));
  const { first, size, sizes } = useLikelySize(scroller);
  const width = computed(() => Math.max(least.value, size.value.width));
  const items = computed(() =>
    session.doc ? listed(session.doc, { closed: view.closed, showsHidden: view.showsHidden }) : [],
  );
  const heightOf = (item: Item): number => {
    if (item.kind === 'head') return HEAD;
    if (item.kind === 'heading') return HEADING;
    return lineLayout(item.track, width.value, item.depth, racks.isOpen).height;
  };
  const heights = computed(() => items.value.map(heightOf));
  const rows = useVirtualizer(
    computed(() => ({
      count: items.value.length,
      getScrollElement: () => scroller.value,
      estimateSize: (i: number) => heights.value[i] ?? 52,
      overscan: 6,
      getItemKey: (i: number) => items.value[i]?.key ?? i,
      initialRect: first,
      observeElementRect: (_list: unknown, changed: (rect: Size) => void) => sizes.on(changed).off,
    })),
  );
  const { isSketch } = useRushing(scroller, () => rows.value.getVirtualItems().map((v) => String(v.key)));
  watch(
    () => heights.value.join(),
    () => rows.value.measure(),
  );
  /** Where a line stands in the list, drawn or not. */
  const rowOf = (id: Id) => {
    let y = 0;
    for (const [i, item] of items.value.entries()) {
      const size = heights.value[i];
      if (item.kind === 'line' && item.track.id === id) return { start: y, size };
      y += size;
    }
    return null;
  };
  watch(
    () => view.naming ?? session.selectedTrack,
    (id) => {
      const at = items.value.findIndex((item) => item.key === id);
      if (at >= 0) rows.value.scrollToIndex(at, { align: 'auto' });
    },
    { flush: 'post' },
  );
  return { width, least, items, heights, rows, rowOf, isSketch };
}
