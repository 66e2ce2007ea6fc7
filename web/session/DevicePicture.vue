<script setup lang="ts">
/** The large live pictures: transfer curve with the moving point and gain reduction, echo taps, decay, level. */
import { ref } from 'vue';
import { DEVICE_TYPES, type Device } from '../../core/index.ts';
import { staticCurve } from '../../core/devices/compressor.ts';
import { delayMs } from '../../core/devices/delay.ts';
import { trimMatrix } from '../../core/devices/trim.ts';
import { useAudio } from '../stores/audio.ts';
import { prepare, themeColour, useFrame } from '../ui/frame.ts';

const props = defineProps<{ device: Device; tempo: number }>();
const audio = useAudio();
const canvas = ref<HTMLCanvasElement | null>(null);
let point = -60, reduction = 0;

function grid(g: CanvasRenderingContext2D, w: number, h: number, xs: [number, string][], ys: [number, string][]) {
  g.font = '10px "Source Sans 3 Variable", sans-serif';
  g.lineWidth = 1;
  g.strokeStyle = themeColour('rule');
  g.fillStyle = themeColour('soft');
  for (const [px, t] of xs) { g.beginPath(); g.moveTo(px, 0); g.lineTo(px, h); g.stroke(); g.fillText(t, px + 2, h - 3); }
  for (const [py, t] of ys) { g.beginPath(); g.moveTo(0, py); g.lineTo(w, py); g.stroke(); g.fillText(t, 2, py - 2); }
}

function transfer(g: CanvasRenderingContext2D, w: number, h: number) {
  const side = w - 46;
  const x = (v: number) => ((v + 60) / 66) * side, y = (v: number) => h - ((v + 60) / 66) * h;
  grid(g, side, h, [-48, -36, -24, -12, 0].map((v) => [x(v), String(v).replace('-', '−')]), [-48, -36, -24, -12, 0].map((v) => [y(v), String(v).replace('-', '−')]));
  g.strokeStyle = themeColour('edge'); g.setLineDash([3, 3]); g.beginPath(); g.moveTo(x(-60), y(-60)); g.lineTo(x(6), y(6)); g.stroke(); g.setLineDash([]);
  const t = props.device.params.threshold as number;
  g.strokeStyle = themeColour('warn'); g.beginPath(); g.moveTo(x(t), 0); g.lineTo(x(t), h); g.stroke();
  const makeup = props.device.params.makeup as number;
  g.strokeStyle = themeColour('rope'); g.lineWidth = 2; g.beginPath();
  for (let v = -60; v <= 6; v += 0.5) { const py = y(staticCurve(v, props.device.params) + makeup); if (v === -60) g.moveTo(x(v), py); else g.lineTo(x(v), py); }
  g.stroke();
  const s = audio.slots.get(props.device.id);
  const live = audio.playing && s ? s : null;
  point += 0.35 * ((live ? Math.max(-60, live.level) : -60) - point);
  reduction += 0.4 * ((live ? live.reduction : 0) - reduction);
  if (point > -59) { g.fillStyle = themeColour('ink'); g.beginPath(); g.arc(x(Math.min(6, point)), y(Math.min(6, point + reduction + makeup)), 5, 0, 7); g.fill(); }
  g.fillStyle = themeColour('rule'); g.fillRect(w - 34, 14, 14, h - 32);
  g.fillStyle = themeColour('warn'); g.fillRect(w - 34, 14, 14, Math.min(1, -reduction / 24) * (h - 32));
  g.fillStyle = themeColour('soft');
  g.fillText('GR', w - 34, 10);
  g.fillText(reduction.toFixed(1).replace('-', '−'), w - 38, h - 5);
}

function taps(g: CanvasRenderingContext2D, w: number, h: number) {
  const p = props.device.params, ms = delayMs(p, props.tempo), fb = (p.feedback as number) / 100, wet = (p.mix as number) / 100;
  const span = Math.max(500, Math.min(8000, ms * 6));
  const x = (t: number) => 14 + (t / span) * (w - 20);
  const tick = [50, 100, 250, 500, 1000, 2000].find((q) => span / q <= 9) ?? 2000;
  grid(g, w, h, Array.from({ length: Math.floor(span / tick) }, (_, i) => [x((i + 1) * tick), (i + 1) * tick >= 1000 ? ((i + 1) * tick) / 1000 + ' s' : (i + 1) * tick + ' ms'] as [number, string]), []);
  const mid = h / 2 - 6;
  g.strokeStyle = themeColour('edge'); g.beginPath(); g.moveTo(0, mid); g.lineTo(w, mid); g.stroke();
  const bar = (t: number, gl: number, gr: number, colour: string) => { g.fillStyle = themeColour(colour); g.fillRect(x(t) - 2, mid - gl * (mid - 8), 4, gl * (mid - 8)); g.fillRect(x(t) - 2, mid, 4, gr * (mid - 8)); };
  bar(0, 1 - wet, 1 - wet, 'soft');
  for (let k = 0, a = wet; k < 40 && a > 0.01; k++, a *= fb) {
    const t = ms * (k + 1);
    if (t > span) break;
    if (p.pingPong) bar(t, k % 2 ? 0 : a, k % 2 ? a : 0, 'rope'); else bar(t, a, a, 'rope');
  }
  g.fillStyle = themeColour('soft'); g.fillText('left', w - 28, 12); g.fillText('right', w - 32, h - 18);
}

function decay(g: CanvasRenderingContext2D, w: number, h: number) {
  const p = props.device.params, rt = p.decay as number, pre = (p.preDelay as number) / 1000, damp = (p.damping as number) / 100;
  const span = Math.max(0.5, Math.min(14, rt * 1.15 + pre));
  const x = (t: number) => (t / span) * w, y = (db: number) => 6 + (-db / 66) * (h - 18);
  const tick = [0.1, 0.25, 0.5, 1, 2].find((q) => span / q <= 8) ?? 2;
  grid(g, w, h, Array.from({ length: Math.floor(span / tick) }, (_, i) => [x((i + 1) * tick), ((i + 1) * tick).toFixed(tick < 0.5 ? 2 : 1) + ' s'] as [number, string]), [-20, -40, -60].map((d) => [y(d), '−' + -d]));
  for (const [time, colour, fill] of [[rt, 'rope', true], [rt * (1 - 0.9 * damp), 'soft', false]] as const) {
    g.beginPath(); g.moveTo(x(pre), y(0)); g.lineTo(x(pre + time * 1.1), y(-66));
    g.strokeStyle = themeColour(colour); g.lineWidth = 2; g.stroke();
    if (fill) { g.lineTo(x(pre), y(-66)); g.globalAlpha = 0.12; g.fillStyle = themeColour(colour); g.fill(); g.globalAlpha = 1; }
  }
  g.fillStyle = themeColour('rope'); g.fillText('1 kHz', x(pre + rt * 0.4) + 6, y(-24));
  g.fillStyle = themeColour('soft'); g.fillText('8 kHz', x(pre + rt * (1 - 0.9 * damp) * 0.62) + 6, y(-38));
}

function level(g: CanvasRenderingContext2D, w: number, h: number) {
  const m = trimMatrix(props.device.params);
  g.font = '12px "Source Sans 3 Variable", sans-serif';
  const ys = [h * 0.3, h * 0.7], x1 = 54, x2 = w - 60;
  ['left', 'right'].forEach((t, i) => { g.fillStyle = themeColour('ink'); g.fillText(t, 10, ys[i] + 4); g.fillText(t, x2 + 8, ys[i] + 4); });
  m.forEach((v, i) => {
    if (v === 0) return;
    const from = ys[i % 2], to = ys[i < 2 ? 0 : 1];
    g.strokeStyle = themeColour(v < 0 ? 'bad' : 'rope'); g.lineWidth = Math.max(1, Math.min(10, Math.abs(v) * 3)); g.beginPath(); g.moveTo(x1, from); g.bezierCurveTo(w / 2, from, w / 2, to, x2, to); g.stroke();
    const db = (20 * Math.log10(Math.abs(v))).toFixed(1).replace('-', '−');
    g.fillStyle = themeColour('soft'); g.fillText(`${v < 0 ? 'turned, ' : ''}${db} dB`, w / 2 - 22, (from + to) / 2 + (from === to ? -8 : i === 1 ? -2 : 12));
  });
}

useFrame(() => {
  const c = canvas.value;
  if (!c) return;
  const { g, w, h } = prepare(c);
  const kind = DEVICE_TYPES[props.device.type].picture;
  if (kind === 'transfer') transfer(g, w, h); else if (kind === 'taps') taps(g, w, h); else if (kind === 'decay') decay(g, w, h); else if (kind === 'level') level(g, w, h);
});
const names = { transfer: 'Transfer curve and gain reduction', taps: 'Echoes over time', decay: 'Decay at 1 kHz and 8 kHz', level: 'How the sides are mixed', response: '', none: '' };
</script>

<template>
  <div class="h-full min-h-[120px] rounded border border-rule bg-paper"><canvas ref="canvas" class="h-full w-full" role="img" :aria-label="`${names[DEVICE_TYPES[device.type].picture]} of ${device.name}`" /></div>
</template>
