<script setup lang="ts">
/**
 * Two curves laid over each other: the first dashed, the second solid, so that they are told apart without
 * colour.
 */
import { ref } from 'vue';
import { prepare, themeColour, useFrame } from '../../ui/frame.ts';

const props = defineProps<{
  title: string;
  a: ArrayLike<number> | null;
  b: ArrayLike<number> | null;
  low: number;
  high: number;
  left: string;
  right: string;
  unit: string;
}>();
const canvas = ref<HTMLCanvasElement | null>(null);
useFrame(() => {
  if (!canvas.value) return;
  const { g, w, h } = prepare(canvas.value);
  const y = (v: number) =>
    h - ((Math.max(props.low, Math.min(props.high, v)) - props.low) / (props.high - props.low)) * h;
  g.font = '10px "Source Sans 3 Variable", sans-serif';
  g.lineWidth = 1;
  const step = (props.high - props.low) / 4;
  for (let k = 0; k <= 4; k++) {
    const v = props.low + k * step;
    g.strokeStyle = themeColour(v === 0 ? 'edge' : 'rule');
    g.beginPath();
    g.moveTo(0, y(v));
    g.lineTo(w, y(v));
    g.stroke();
    g.fillStyle = themeColour('soft');
    if (k > 0) g.fillText(`${v > 0 ? '+' : ''}${Math.round(v)}`.replace('-', '−'), 2, y(v) + 10);
  }
  const draw = (c: ArrayLike<number> | null, colour: string, dash: number[]) => {
    if (!c) return;
    g.strokeStyle = themeColour(colour);
    g.lineWidth = 2;
    g.setLineDash(dash);
    g.beginPath();
    for (let i = 0; i < c.length; i++) {
      const x = (i / (c.length - 1)) * w;
      if (i === 0) g.moveTo(x, y(c[i]));
      else g.lineTo(x, y(c[i]));
    }
    g.stroke();
    g.setLineDash([]);
  };
  draw(props.a, 'soft', [5, 4]);
  draw(props.b, 'rope', []);
});
</script>

<template>
  <figure class="min-w-0">
    <figcaption class="mb-1 truncate text-[12px] font-semibold">{{ title }}</figcaption>
    <canvas
      ref="canvas"
      class="block h-[130px] w-full rounded border border-rule bg-paper"
      role="img"
      :aria-label="`${title}: both curves`"
    />
    <div class="flex justify-between text-[11px] text-soft">
      <span>{{ left }}</span><span>{{ unit }}</span
      ><span>{{ right }}</span>
    </div>
  </figure>
</template>
