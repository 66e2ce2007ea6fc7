<script setup lang="ts">
/** Keys drawn over the lines: from the line that is the trigger to the device that listens to it. */
import { nextTick, onBeforeUnmount, onMounted, ref, watch } from 'vue';
import { devicesIn, racksIn, findSlot, type Id } from '../../../core/index.ts';
import { useSession } from '../../document/doc.ts';
import { useUi } from '../../ui/window.ts';
import { useRackView } from '../rack/index.ts';

const props = defineProps<{
  rowOf: (track: Id) => { start: number; size: number } | null;
  version: unknown;
  height: number;
}>();
const session = useSession();
const ui = useUi();
const racks = useRackView();
const lines = ref<
  {
    id: string;
    path: string;
    colour: string;
    from: { x: number; y: number };
    to: { x: number; y: number; up: boolean };
    title: string;
  }[]
>([]);
const box = ref<SVGElement | null>(null);
let waiting = false;
let alive = true;

/** A tile's place inside the list; the folded rack around it when it is not drawn itself. */
function tileOf(chain: Parameters<typeof findSlot>[0], id: Id): DOMRect | null {
  const own = box.value?.parentElement?.querySelector(`[data-slot="${id}"]`);
  if (own) return own.getBoundingClientRect();
  const rack = racksIn(chain).find(
    (r) => findSlot([r], id) && box.value?.parentElement?.querySelector(`[data-slot="${r.id}"]`),
  );
  return rack
    ? box.value!.parentElement!.querySelector(`[data-slot="${rack.id}"]`)!.getBoundingClientRect()
    : null;
}
function measure() {
  waiting = false;
  const svg = box.value;
  const s = session.doc;
  if (!alive || !svg || !s) return;
  const base = svg.getBoundingClientRect();
  const out: typeof lines.value = [];
  for (const t of s.tracks) {
    for (const d of devicesIn(t.chain)) {
      if (d.key.kind !== 'track' || d.state === 'inactive') continue;
      const trigger = s.tracks.find((x) => x.id === (d.key as { track: Id }).track);
      const a = trigger && props.rowOf(trigger.id);
      const b = props.rowOf(t.id);
      if (!trigger || !a || !b) continue;
      const tile = tileOf(t.chain, d.id);
      const x = tile ? tile.left - base.left + Math.min(14, tile.width / 2) : 236;
      const up = a.start < b.start;
      const from = { x: x - 10, y: a.start + a.size / 2 };
      const edge = (r: DOMRect) => (up ? r.top - base.top - 1 : r.bottom - base.top + 1);
      const to = {
        x,
        y: tile ? edge(tile) : b.start + b.size / 2,
        up,
      };
      const bend = up ? 14 : -14;
      out.push({
        id: d.id,
        from,
        to,
        colour: ui.swatch(trigger.colour),
        path: `M${from.x} ${from.y}C${from.x} ${from.y + bend * 2} ${to.x} ${to.y - bend * 2} ${to.x} ${to.y}`,
        title: `${d.name} on ${t.name} takes its key from ${trigger.name}, ${d.key.tap}-fader`,
      });
    }
  }
  lines.value = out;
}
function ask() {
  if (!waiting) {
    waiting = true;
    void nextTick(() => requestAnimationFrame(measure));
  }
}
watch(() => [session.doc, props.version, ui.theme, racks.folded], ask);
onMounted(ask);
onBeforeUnmount(() => {
  alive = false;
});
</script>

<template>
  <svg
    ref="box"
    class="pointer-events-none absolute left-0 top-0 z-[5] w-full"
    :height="height"
    role="img"
    :aria-label="lines.length ? lines.map((l) => l.title).join('. ') : 'No keys'"
  >
    <g v-for="l in lines" :key="l.id" fill="none" stroke-linecap="round">
      <path :d="l.path" stroke="var(--sheet)" stroke-width="5" opacity="0.8" />
      <path :d="l.path" :stroke="l.colour" stroke-width="2" stroke-dasharray="1 5" />
      <circle :cx="l.from.x" :cy="l.from.y" r="3.5" :fill="l.colour" stroke="var(--sheet)" />
      <path
        :d="
          l.to.up
            ? `M${l.to.x - 4} ${l.to.y - 6}L${l.to.x} ${l.to.y}L${l.to.x + 4} ${l.to.y - 6}`
            : `M${l.to.x - 4} ${l.to.y + 6}L${l.to.x} ${l.to.y}L${l.to.x + 4} ${l.to.y + 6}`
        "
        :stroke="l.colour"
        stroke-width="2"
      />
    </g>
  </svg>
</template>
