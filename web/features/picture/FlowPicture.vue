<script setup lang="ts">
/**
 * How a preset flows: its lines with devices as beads, sends that peel off to their returns, outputs. Loose
 * ends are open rings, ends with a copy are full ones; what stays inside is an arrow.
 */
import { computed } from 'vue';
import {
  addressText,
  formatDb,
  outLabel,
  type PresetContent,
  type Slot,
  type Track,
} from '../../../core/index.ts';
import { shapeOf } from './shapes.ts';
import { useUi } from '../../ui/window.ts';

/** `piece`: a device or rack, which has no line of its own around it. */
const props = defineProps<{ content: PresetContent; tempo: number; piece?: boolean }>();
const ui = useUi();
const TILE = 76;
const GAP = 9;
const TOP = 18;
const ROW = 48;
const EDGE = 16;
interface Box {
  slot: Slot;
  x: number;
  y: number;
  shape: { line: string; fill?: string };
}
interface Fork {
  id: string;
  name: string;
  x: number;
  y: number;
  paths: string[];
  from: number;
  to: number;
}

/** Height of a chain: racks are as high as their strands together. */
const heightOf = (chain: Slot[]): number =>
  Math.max(
    ROW,
    ...chain.map((s) =>
      s.kind === 'rack' ? s.strands.reduce((h, x) => h + heightOf(x.chain), 0) + 14 : ROW,
    ),
  );
/**
 * Places a chain's devices along y from x; racks fork into their strands and join again. Gives the x behind
 * it.
 */
function lay(chain: Slot[], x: number, y: number, boxes: Box[], forks: Fork[]): number {
  for (const s of chain) {
    if (s.kind === 'device') {
      boxes.push({ slot: s, x, y: y - 22, shape: shapeOf(s, TILE - 10, 20, 48000, props.tempo) });
      x += TILE + GAP;
      continue;
    }
    const heights = s.strands.map((st) => heightOf(st.chain));
    let at = y - heights.reduce((a, h) => a + h, 0) / 2;
    const mids = heights.map((h) => {
      const m = at + h / 2;
      at += h;
      return m;
    });
    const ends = s.strands.map((st, i) => lay(st.chain, x + EDGE + GAP, mids[i], boxes, forks));
    const end = Math.max(x + EDGE + 40, ...ends);
    forks.push({
      id: s.id,
      name: s.name,
      x: x + EDGE,
      y: mids[0] - 26,
      from: x - GAP,
      to: end + EDGE + GAP,
      paths: mids.map(
        (m) =>
          `M${x - GAP} ${y}C${x + 6} ${y} ${x} ${m} ${x + EDGE} ${m}H${end}C${end + EDGE} ${m} ${end + 10} ${y} ${end + EDGE + GAP} ${y}`,
      ),
    });
    x = end + EDGE + GAP + GAP;
  }
  return x;
}
/** Where a connection goes: to a line of the preset itself, or out of it. */
function endOf(id: string): { label: string; inside: boolean } {
  const own = props.content.tracks.find((t) => t.id === id);
  return own
    ? { label: own.name, inside: true }
    : { label: props.content.looseEnds.find((e) => e.id === id)?.label ?? '?', inside: false };
}
const lines = computed(() => {
  let y = TOP;
  return props.content.tracks.map((t) => {
    const high = heightOf(t.chain);
    const mid = y + high / 2 - 4 + (high > ROW ? 14 : 0);
    const boxes: Box[] = [];
    const forks: Fork[] = [];
    const end = Math.max(98, lay(t.chain, 92, mid, boxes, forks) + 6);
    const sends = t.sends.map((s, i) => ({
      ...endOf(s.to),
      spare: !!props.content.looseEnds.find((e) => e.id === s.to)?.spare,
      level: formatDb(s.level),
      y: y + high + 10 + i * 20 + (high > ROW ? 16 : 0),
      x: end + i * 10,
    }));
    const { label: out, inside } =
      t.output.kind === 'track'
        ? endOf(t.output.track)
        : {
            label: wayOut(t),
            inside: false,
          };
    const x = t.input;
    const fromOf = () => {
      if (x.kind === 'deviceOutput') {
        return `from ${endOf(x.track).label}, ${outLabel({ pair: x.output, side: x.take === 'left' || x.take === 'right' ? x.take : 'both' })}`;
      }
      if (x.kind === 'midi') return addressText(x);
      return '';
    };
    const from = fromOf();
    const line = { t, y: mid, boxes, forks, end, sends, out, inside, from, colour: ui.swatch(t.colour) };
    y += high + 14 + (high > ROW ? 16 : 0) + t.sends.length * 20;
    return line;
  });
});
/** Parts of the thread that are not inside a rack: it is broken where a rack of the line itself forks. */
const thread = (l: (typeof lines.value)[number]) => {
  let path = '';
  let x = 8;
  for (const f of l.forks.filter((k) => l.t.chain.some((s) => s.id === k.id))) {
    path += `M${x} ${l.y}H${f.from}`;
    x = f.to;
  }
  return path + `M${x} ${l.y}H${l.end + 60}`;
};
const width = computed(() => Math.max(560, ...lines.value.map((l) => l.end + 215)));
const height = computed(() =>
  lines.value.reduce(
    (h, l) => Math.max(h, l.y + 34, ...l.boxes.map((b) => b.y + 56), ...l.sends.map((s) => s.y + 12)),
    70,
  ),
);
const words = computed(() =>
  lines.value
    .map((l) => {
      const name = l.from ? `${l.t.name}, ${l.from}` : l.t.name;
      const devices = l.boxes.map((d) => d.slot.name).join(', then ') || 'no devices';
      const sends = l.sends.map((s) => s.label).join(', ') || 'nothing';
      return `${name}: ${devices}; sends to ${sends}; out to ${l.out}`;
    })
    .join('. '),
);
/** Where a line goes that goes to no other. */
function wayOut({ role, output }: Track): string {
  if (role === 'master') return 'speakers';
  switch (output.kind) {
    case 'midi':
      return addressText(output);
    case 'hardware':
      return output.port;
    default:
      return 'nowhere';
  }
}
</script>

<template>
  <div
    class="max-h-[300px] shrink-0 overflow-auto rounded border border-rule bg-paper"
    tabindex="0"
    role="img"
    :aria-label="words"
  >
    <svg
      :viewBox="`0 0 ${width} ${height}`"
      :width="Math.min(width, 1400)"
      :height="height"
      class="block max-w-none"
      aria-hidden="true"
      font-size="11"
    >
      <g v-for="l in lines" :key="l.t.id">
        <path
          v-for="s in l.sends"
          :key="s.y"
          :d="`M${s.x} ${l.y}V${s.y - 8}Q${s.x} ${s.y} ${s.x + 8} ${s.y}H${l.end + 60}`"
          fill="none"
          :stroke="l.colour"
          stroke-width="1.5"
          stroke-dasharray="4 3"
        />
        <path :d="thread(l)" :stroke="l.colour" stroke-width="2.5" fill="none" />
        <g v-for="f in l.forks" :key="f.id">
          <path v-for="p in f.paths" :key="p" :d="p" fill="none" :stroke="l.colour" stroke-width="2" />
          <text :x="f.x" :y="f.y" fill="currentColor" font-weight="600">{{ f.name.slice(0, 30) }}</text>
        </g>
        <text x="8" :y="l.y - 8" fill="currentColor" font-weight="600">
          {{ piece ? '' : l.t.name.length > 15 ? l.t.name.slice(0, 14) + '…' : l.t.name }}
        </text>
        <text v-if="l.from && !piece" x="8" :y="l.y + 14" fill="var(--soft)" font-size="10">
          {{ l.boxes.length && l.from.length > 17 ? l.from.slice(0, 16) + '…' : l.from }}
        </text>
        <g
          v-for="x in l.boxes"
          :key="x.slot.id"
          :transform="`translate(${x.x} ${x.y})`"
          :color="x.slot.state === 'on' ? 'var(--ink)' : 'var(--soft)'"
        >
          <rect
            :width="TILE"
            height="42"
            rx="6"
            :fill="x.slot.state === 'inactive' ? 'var(--sunk)' : 'var(--sheet)'"
            :stroke="x.slot.state === 'on' ? 'var(--ink)' : 'var(--edge)'"
            stroke-width="1.3"
            :stroke-dasharray="x.slot.state === 'inactive' ? '4 3' : undefined"
          />
          <g transform="translate(5 4)">
            <path v-if="x.shape.fill" :d="x.shape.fill" fill="currentColor" opacity="0.14" />
            <path :d="x.shape.line" fill="none" stroke="currentColor" stroke-width="1.4" />
          </g>
          <text
            x="5"
            y="36"
            fill="currentColor"
            :text-decoration="x.slot.state === 'bypassed' ? 'line-through' : undefined"
          >
            {{ x.slot.name.length > 13 ? x.slot.name.slice(0, 12) + '…' : x.slot.name }}
          </text>
        </g>
        <path v-if="l.inside" :d="`M${l.end + 60} ${l.y - 5}l8 5l-8 5z`" :fill="l.colour" />
        <circle
          v-else
          :cx="l.end + 65"
          :cy="l.y"
          r="4.5"
          fill="var(--sheet)"
          :stroke="l.colour"
          stroke-width="2"
        />
        <text :x="l.end + 76" :y="l.y + 4" fill="currentColor">{{ piece ? '' : l.out }}</text>
        <g v-for="s in l.sends" :key="s.label">
          <path v-if="s.inside" :d="`M${l.end + 60} ${s.y - 4}l7 4l-7 4z`" :fill="l.colour" />
          <circle
            v-else
            :cx="l.end + 65"
            :cy="s.y"
            r="4"
            :fill="s.spare ? l.colour : 'var(--sheet)'"
            :stroke="l.colour"
            stroke-width="1.5"
          />
          <text :x="l.end + 76" :y="s.y + 4" fill="currentColor">
            {{ s.label }}
            <tspan fill="var(--soft)">{{ s.level }}{{ s.spare ? ', copied' : '' }}</tspan>
          </text>
        </g>
      </g>
    </svg>
  </div>
</template>
