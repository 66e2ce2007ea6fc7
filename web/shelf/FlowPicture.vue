<script setup lang="ts">
/** How a preset flows: its line with devices as beads, sends that peel off to their returns, the output. Loose ends are open rings. */
import { computed } from 'vue';
import { colourOf, formatDb, type PresetContent } from '../../core/index.ts';
import { shapeOf } from '../session/shapes.ts';
import { useUi } from '../stores/ui.ts';

const props = defineProps<{ content: PresetContent; tempo: number }>();
const ui = useUi();
const TILE = 76, GAP = 9, TOP = 18;
const lines = computed(() => {
  let y = TOP;
  return props.content.tracks.map((t) => {
    const devices = t.chain.map((d, i) => ({ d, x: 92 + i * (TILE + GAP), shape: shapeOf(d, TILE - 10, 20, 48000, props.tempo) }));
    const end = 92 + t.chain.length * (TILE + GAP) + 6;
    const sends = t.sends.map((s, i) => ({ label: props.content.looseEnds.find((e) => e.id === s.to)?.label ?? 'inside', spare: !!props.content.looseEnds.find((e) => e.id === s.to)?.spare, level: formatDb(s.level), y: y + 58 + i * 20, x: end + i * 10 }));
    const out = t.output.kind === 'track' ? (props.content.looseEnds.find((e) => e.id === (t.output as { track: string }).track)?.label ?? 'inside') : t.output.kind === 'none' ? 'nowhere' : t.output.port;
    const line = { t, y: y + 20, devices, end, sends, out, colour: ui.theme === 'night' ? colourOf(t.colour).night : colourOf(t.colour).day };
    y += 62 + t.sends.length * 20;
    return line;
  });
});
const width = computed(() => Math.max(560, ...lines.value.map((l) => l.end + 215)));
const height = computed(() => lines.value.reduce((h, l) => Math.max(h, l.y + 34, ...l.sends.map((s) => s.y + 12)), 70));
const words = computed(() => lines.value.map((l) => `${l.t.name}: ${l.devices.map((d) => d.d.name).join(', then ') || 'no devices'}; sends to ${l.sends.map((s) => s.label).join(', ') || 'nothing'}; out to ${l.out}`).join('. '));
</script>

<template>
  <div class="overflow-x-auto rounded border border-rule bg-paper" tabindex="0" role="img" :aria-label="words">
    <svg :viewBox="`0 0 ${width} ${height}`" :width="Math.min(width, 1400)" :height="height" class="block max-w-none" aria-hidden="true" font-size="11">
      <g v-for="l in lines" :key="l.t.id">
        <path v-for="s in l.sends" :key="s.y" :d="`M${s.x} ${l.y}V${s.y - 8}Q${s.x} ${s.y} ${s.x + 8} ${s.y}H${l.end + 60}`" fill="none" :stroke="l.colour" stroke-width="1.5" stroke-dasharray="4 3" />
        <path :d="`M8 ${l.y}H${l.end + 60}`" :stroke="l.colour" stroke-width="2.5" fill="none" />
        <text x="8" :y="l.y - 8" fill="currentColor" font-weight="600">{{ l.t.name.slice(0, 16) }}</text>
        <g v-for="x in l.devices" :key="x.d.id" :transform="`translate(${x.x} ${l.y - 22})`" :color="x.d.state === 'on' ? 'var(--ink)' : 'var(--soft)'">
          <rect :width="TILE" height="42" rx="6" :fill="x.d.state === 'inactive' ? 'var(--sunk)' : 'var(--sheet)'" :stroke="x.d.state === 'on' ? 'var(--ink)' : 'var(--edge)'" stroke-width="1.3" :stroke-dasharray="x.d.state === 'inactive' ? '4 3' : undefined" />
          <g transform="translate(5 4)"><path v-if="x.shape.fill" :d="x.shape.fill" fill="currentColor" opacity="0.14" /><path :d="x.shape.line" fill="none" stroke="currentColor" stroke-width="1.4" /></g>
          <text x="5" y="36" fill="currentColor" :text-decoration="x.d.state === 'bypassed' ? 'line-through' : undefined">{{ x.d.name.length > 13 ? x.d.name.slice(0, 12) + '…' : x.d.name }}</text>
        </g>
        <circle :cx="l.end + 65" :cy="l.y" r="4.5" fill="var(--sheet)" :stroke="l.colour" stroke-width="2" /><text :x="l.end + 76" :y="l.y + 4" fill="currentColor">{{ l.out }}</text>
        <g v-for="s in l.sends" :key="s.label"><circle :cx="l.end + 65" :cy="s.y" r="4" :fill="s.spare ? l.colour : 'var(--sheet)'" :stroke="l.colour" stroke-width="1.5" /><text :x="l.end + 76" :y="s.y + 4" fill="currentColor">{{ s.label }} <tspan fill="var(--soft)">{{ s.level }}{{ s.spare ? ', copied' : '' }}</tspan></text></g>
      </g>
    </svg>
  </div>
</template>
