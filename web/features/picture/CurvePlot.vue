<script setup lang="ts">
/**
 * Two curves laid over each other: the first dashed, the second solid, so that they are told apart without
 * colour.
 */
import { Chart, LineController, LineElement, LinearScale, PointElement, type ChartDataset } from 'chart.js';
import { onBeforeUnmount, onMounted, ref, watch } from 'vue';
import { themeColour } from '../../ui/frame.ts';
import { useUi } from '../../ui/window.ts';

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
Chart.register(LineController, LineElement, LinearScale, PointElement);

const canvas = ref<HTMLCanvasElement | null>(null);
const ui = useUi();
let chart: Chart | null = null;

/** A curve as a data set: places run evenly from left to right. */
function dataset(curve: ArrayLike<number> | null, colour: string, dash: number[]): ChartDataset<'line'> {
  const held = (v: number) => Math.max(props.low, Math.min(props.high, v));
  const data = Array.from(curve ?? [], (v, i) => ({ x: i / (curve!.length - 1), y: held(v) }));
  return { data, borderColor: themeColour(colour), borderDash: dash, borderWidth: 2, pointRadius: 0 };
}

const signed = (v: number | string) =>
  `${Number(v) > 0 ? '+' : ''}${Math.round(Number(v))}`.replace('-', '−');

function draw(): void {
  chart?.destroy();
  if (!canvas.value) return;
  chart = new Chart(canvas.value, {
    type: 'line',
    data: { datasets: [dataset(props.a, 'soft', [5, 4]), dataset(props.b, 'rope', [])] },
    options: {
      animation: false,
      responsive: true,
      maintainAspectRatio: false,
      layout: { autoPadding: false },
      events: [],
      scales: {
        x: { type: 'linear', min: 0, max: 1, display: false },
        y: {
          min: props.low,
          max: props.high,
          // The labels stand inside the picture: the axis takes no width of its own.
          afterFit: (axis) => {
            axis.width = 0;
          },
          border: { display: false },
          grid: { color: ({ tick }) => themeColour(tick.value === 0 ? 'edge' : 'rule') },
          ticks: {
            stepSize: (props.high - props.low) / 4,
            color: themeColour('soft'),
            font: { family: '"Source Sans 3 Variable", sans-serif', size: 10 },
            mirror: true,
            labelOffset: 7,
            padding: 5,
            callback: (v) => (Number(v) > props.low ? signed(v) : ''),
          },
        },
      },
    },
  });
}
onMounted(draw);
watch([() => props.a, () => props.b, () => ui.theme], draw, { flush: 'post' });
onBeforeUnmount(() => chart?.destroy());
</script>

<template>
  <figure class="min-w-0">
    <figcaption class="mb-1 truncate text-note font-semibold">{{ title }}</figcaption>
    <div class="relative h-[130px] w-full overflow-hidden rounded border border-rule bg-paper">
      <canvas ref="canvas" role="img" :aria-label="`${title}: both curves`" />
    </div>
    <div class="flex justify-between text-fine text-soft">
      <span>{{ left }}</span><span>{{ unit }}</span
      ><span>{{ right }}</span>
    </div>
  </figure>
</template>
