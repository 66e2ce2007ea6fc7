<script setup lang="ts">
/**
 * EQ curve over the live spectrum; each band that is on is a point to drag (arrow keys too), the wheel sets
 * Q.
 */
import { useResizeObserver } from '@vueuse/core';
import { computed, onBeforeUnmount, onMounted, ref } from 'vue';
import { frequencyGrid, responseCurve, type Device, type ParamValue } from '../../../core/index.ts';
import { useAudio, FREQS, useSpectrum } from '../transport/index.ts';
import { prepare, themeColour, useFrame } from '../../ui/frame.ts';

const props = defineProps<{ device: Device; sampleRate: number; band: number }>();
const emit = defineEmits<{
  set: [values: Record<string, ParamValue>, sliding: boolean];
  pick: [band: number];
}>();
const audio = useAudio();
const canvas = ref<HTMLCanvasElement | null>(null);
const box = ref<HTMLElement | null>(null);
const size = ref({ w: 400, h: 180 });
const RANGE = 18;
const LOW = 20;
const HIGH = 20000;
const spectrum = useSpectrum(() => props.sampleRate);
const x = (f: number) => (Math.log(f / LOW) / Math.log(HIGH / LOW)) * size.value.w;
const y = (db: number) => size.value.h / 2 - (db / RANGE) * (size.value.h / 2 - 6);
const curve = computed(() => responseCurve([{ ...props.device, state: 'on' }], FREQS, props.sampleRate));
const bands = computed(() =>
  Array.from({ length: 8 }, (_, i) => i + 1)
    .filter((n) => props.device.params[`b${n}.on`])
    .map((n) => {
      const p = (k: string) => props.device.params[`b${n}.${k}`];
      const pass = ['highPass', 'lowPass', 'notch', 'bandPass'].includes(String(p('type')));
      return { n, f: p('freq') as number, gain: pass ? 0 : (p('gain') as number), pass, q: p('q') as number };
    }),
);

onMounted(() => audio.watchSlot(props.device.id));
onBeforeUnmount(() => audio.watchSlot(null));
useResizeObserver(box, () => {
  if (box.value) size.value = { w: box.value.clientWidth, h: box.value.clientHeight };
});

useFrame(() => {
  const c = canvas.value;
  if (!c) return;
  const { g, w, h } = prepare(c);
  frequencyGrid(g, themeColour, w, h);
  for (const d of [-12, -6, 0, 6, 12]) {
    g.strokeStyle = themeColour(d === 0 ? 'edge' : 'rule');
    g.beginPath();
    g.moveTo(0, y(d));
    g.lineTo(w, y(d));
    g.stroke();
    g.fillStyle = themeColour('soft');
    g.fillText((d > 0 ? '+' : '') + String(d).replace('-', '−'), 2, y(d) - 2);
  }
  spectrum.draw(g, w, h);
  g.strokeStyle = themeColour('rope');
  g.lineWidth = 2;
  g.beginPath();
  for (let i = 0; i < 220; i++) {
    const px = (i / 219) * w;
    const py = y(Math.max(-60, curve.value[i]));
    if (i === 0) g.moveTo(px, py);
    else g.lineTo(px, py);
  }
  g.stroke();
});

function move(n: number, pass: boolean, clientX: number, clientY: number) {
  const r = box.value!.getBoundingClientRect();
  const f = LOW * Math.pow(HIGH / LOW, Math.min(1, Math.max(0, (clientX - r.left) / r.width)));
  const gain = Math.max(-24, Math.min(24, ((r.height / 2 - (clientY - r.top)) / (r.height / 2 - 6)) * RANGE));
  emit(
    'set',
    {
      [`b${n}.freq`]: f >= 1000 ? Math.round(f / 10) * 10 : Math.round(f),
      ...(pass ? {} : { [`b${n}.gain`]: Math.round(gain * 10) / 10 }),
    },
    true,
  );
}
function press(e: PointerEvent, n: number, pass: boolean) {
  const el = e.currentTarget as HTMLElement;
  el.setPointerCapture(e.pointerId);
  emit('pick', n);
  el.onpointermove = (m) => move(n, pass, m.clientX, m.clientY);
  el.onpointerup = el.onpointercancel = () => {
    el.onpointermove = null;
  };
}
function keys(e: KeyboardEvent, b: { n: number; f: number; gain: number; pass: boolean }) {
  const fine = e.shiftKey ? 0.25 : 1;
  const f = (k: number) => Math.min(24000, Math.max(16, Math.round(b.f * Math.pow(2, (k * fine) / 12))));
  const g = (k: number) => Math.min(24, Math.max(-24, Math.round((b.gain + k * fine * 0.5) * 10) / 10));
  const moves: Record<string, Record<string, ParamValue>> = {
    ArrowLeft: { [`b${b.n}.freq`]: f(-1) },
    ArrowRight: { [`b${b.n}.freq`]: f(1) },
    ...(b.pass
      ? {}
      : {
          ArrowUp: { [`b${b.n}.gain`]: g(1) },
          ArrowDown: { [`b${b.n}.gain`]: g(-1) },
          Backspace: { [`b${b.n}.gain`]: 0 },
        }),
  };
  if (moves[e.key]) {
    e.preventDefault();
    emit('set', moves[e.key], true);
  }
}
const wheel = (e: WheelEvent, b: { n: number; q: number }) =>
  emit(
    'set',
    {
      [`b${b.n}.q`]: Math.min(
        24,
        Math.max(0.1, Math.round(b.q * Math.pow(1.1, -Math.sign(e.deltaY)) * 100) / 100),
      ),
    },
    true,
  );
</script>

<template>
  <div ref="box" class="relative h-full min-h-[120px] overflow-hidden rounded border border-rule bg-paper">
    <canvas
      ref="canvas"
      class="absolute inset-0 h-full w-full"
      role="img"
      :aria-label="`Frequency response of ${device.name} over the live spectrum`"
    />
    <button
      v-for="b in bands"
      :key="b.n"
      type="button"
      class="eq-point"
      :class="b.n === band ? 'border-ink bg-rope text-rope-ink' : 'border-rope bg-sheet text-ink'"
      :style="{ left: x(b.f) + 'px', top: Math.max(10, Math.min(size.h - 10, y(b.gain))) + 'px' }"
      :aria-label="`Band ${b.n}, ${Math.round(b.f)} Hz${b.pass ? '' : `, ${b.gain} dB`}; arrow keys move it`"
      @pointerdown="press($event, b.n, b.pass)"
      @keydown="keys($event, b)"
      @focus="emit('pick', b.n)"
      @wheel.prevent="wheel($event, b)"
    >
      {{ b.n }}
    </button>
  </div>
</template>
