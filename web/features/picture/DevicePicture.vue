<script setup lang="ts">
/** The large live pictures, one for each kind of device, and the spectrum before and after for all. */
import { computed, onBeforeUnmount, onMounted, ref } from 'vue';
import { DEVICE_TYPES, METER_READINGS, responseCurve, type Device } from '../../../core/index.ts';
import { bandName, corners } from '../../../core/devices/multiband.ts';
import { voiceOf } from '../../../core/devices/doubler.ts';
import { delayMs } from '../../../core/devices/delay.ts';
import { trimMatrix } from '../../../core/devices/trim.ts';
import { useAudio, FREQS, frequencyGrid, useSpectrum, noteName, readingText } from '../transport/index.ts';
import { prepare, themeColour, useFrame } from '../../ui/frame.ts';

const props = defineProps<{ device: Device; tempo: number; sampleRate: number }>();
const audio = useAudio();
const canvas = ref<HTMLCanvasElement | null>(null);
let point = -60;
let reduction = 0;
const kind = computed(() => DEVICE_TYPES[props.device.type].picture);
const view = ref<'own' | 'spectrum'>('own');
const spectrum = useSpectrum(() => props.sampleRate);
onMounted(() => audio.watchSlot(props.device.id));
onBeforeUnmount(() => audio.watchSlot(null));
const num = (k: string) => props.device.params[k] as number;
const minus = (t: string | number) => String(t).replace('-', '−');

function grid(
  g: CanvasRenderingContext2D,
  w: number,
  h: number,
  xs: [number, string][],
  ys: [number, string][],
) {
  g.font = '10px "Source Sans 3 Variable", sans-serif';
  g.lineWidth = 1;
  g.strokeStyle = themeColour('rule');
  g.fillStyle = themeColour('soft');
  for (const [px, t] of xs) {
    g.beginPath();
    g.moveTo(px, 0);
    g.lineTo(px, h);
    g.stroke();
    g.fillText(t, px + 2, h - 3);
  }
  for (const [py, t] of ys) {
    g.beginPath();
    g.moveTo(0, py);
    g.lineTo(w, py);
    g.stroke();
    g.fillText(t, 2, py - 2);
  }
}

function transfer(g: CanvasRenderingContext2D, w: number, h: number) {
  const side = w - 46;
  const x = (v: number) => ((v + 60) / 66) * side;
  const y = (v: number) => h - ((v + 60) / 66) * h;
  grid(
    g,
    side,
    h,
    [-48, -36, -24, -12, 0].map((v) => [x(v), String(v).replace('-', '−')]),
    [-48, -36, -24, -12, 0].map((v) => [y(v), String(v).replace('-', '−')]),
  );
  g.strokeStyle = themeColour('edge');
  g.setLineDash([3, 3]);
  g.beginPath();
  g.moveTo(x(-60), y(-60));
  g.lineTo(x(6), y(6));
  g.stroke();
  g.setLineDash([]);
  const curve = (v: number) => DEVICE_TYPES[props.device.type].curve!(v, props.device.params);
  for (const t of [props.device.params.threshold, props.device.params.ceiling]) {
    if (typeof t === 'number') {
      g.strokeStyle = themeColour('warn');
      g.beginPath();
      g.moveTo(x(t), 0);
      g.lineTo(x(t), h);
      g.stroke();
    }
  }
  g.strokeStyle = themeColour('rope');
  g.lineWidth = 2;
  g.beginPath();
  for (let v = -60; v <= 6; v += 0.5) {
    const py = y(Math.max(-70, curve(v)));
    if (v === -60) g.moveTo(x(v), py);
    else g.lineTo(x(v), py);
  }
  g.stroke();
  const s = audio.slots.get(props.device.id);
  const live = audio.playing && s ? s : null;
  point += 0.35 * ((live ? Math.max(-60, live.level) : -60) - point);
  reduction += 0.4 * ((live ? live.reduction : 0) - reduction);
  if (point > -59) {
    g.fillStyle = themeColour('ink');
    g.beginPath();
    g.arc(x(Math.min(6, point)), y(Math.max(-60, Math.min(6, curve(point)))), 5, 0, 7);
    g.fill();
  }
  reductionBar(g, w, h);
}

/** Gain reduction as a bar at the right edge, 24 dB high, with its number. */
function reductionBar(g: CanvasRenderingContext2D, w: number, h: number) {
  g.fillStyle = themeColour('rule');
  g.fillRect(w - 34, 14, 14, h - 32);
  g.fillStyle = themeColour('warn');
  g.fillRect(w - 34, 14, 14, Math.min(1, -reduction / 24) * (h - 32));
  g.fillStyle = themeColour('soft');
  g.fillText('GR', w - 34, 10);
  g.fillText(reduction.toFixed(1).replace('-', '−'), w - 38, h - 5);
}

function taps(g: CanvasRenderingContext2D, w: number, h: number) {
  const p = props.device.params;
  const ms = delayMs(p, props.tempo);
  const fb = (p.feedback as number) / 100;
  const wet = (p.mix as number) / 100;
  const span = Math.max(500, Math.min(8000, ms * 6));
  const x = (t: number) => 14 + (t / span) * (w - 20);
  const tick = [50, 100, 250, 500, 1000, 2000].find((q) => span / q <= 9) ?? 2000;
  grid(
    g,
    w,
    h,
    Array.from(
      { length: Math.floor(span / tick) },
      (_, i) =>
        [
          x((i + 1) * tick),
          (i + 1) * tick >= 1000 ? ((i + 1) * tick) / 1000 + ' s' : (i + 1) * tick + ' ms',
        ] as [number, string],
    ),
    [],
  );
  const mid = h / 2 - 6;
  g.strokeStyle = themeColour('edge');
  g.beginPath();
  g.moveTo(0, mid);
  g.lineTo(w, mid);
  g.stroke();
  const bar = (t: number, gl: number, gr: number, colour: string) => {
    g.fillStyle = themeColour(colour);
    g.fillRect(x(t) - 2, mid - gl * (mid - 8), 4, gl * (mid - 8));
    g.fillRect(x(t) - 2, mid, 4, gr * (mid - 8));
  };
  bar(0, 1 - wet, 1 - wet, 'soft');
  for (let k = 0, a = wet; k < 40 && a > 0.01; k++, a *= fb) {
    const t = ms * (k + 1);
    if (t > span) break;
    if (p.pingPong) bar(t, k % 2 ? 0 : a, k % 2 ? a : 0, 'rope');
    else bar(t, a, a, 'rope');
  }
  g.fillStyle = themeColour('soft');
  g.fillText('left', w - 28, 12);
  g.fillText('right', w - 32, h - 18);
}

function decay(g: CanvasRenderingContext2D, w: number, h: number) {
  const p = props.device.params;
  const rt = p.decay as number;
  const pre = (p.preDelay as number) / 1000;
  const damp = (p.damping as number) / 100;
  const span = Math.max(0.5, Math.min(14, rt * 1.15 + pre));
  const x = (t: number) => (t / span) * w;
  const y = (db: number) => 6 + (-db / 66) * (h - 18);
  const tick = [0.1, 0.25, 0.5, 1, 2].find((q) => span / q <= 8) ?? 2;
  grid(
    g,
    w,
    h,
    Array.from(
      { length: Math.floor(span / tick) },
      (_, i) => [x((i + 1) * tick), ((i + 1) * tick).toFixed(tick < 0.5 ? 2 : 1) + ' s'] as [number, string],
    ),
    [-20, -40, -60].map((d) => [y(d), '−' + -d]),
  );
  for (const [time, colour, fill] of [
    [rt, 'rope', true],
    [rt * (1 - 0.9 * damp), 'soft', false],
  ] as const) {
    g.beginPath();
    g.moveTo(x(pre), y(0));
    g.lineTo(x(pre + time * 1.1), y(-66));
    g.strokeStyle = themeColour(colour);
    g.lineWidth = 2;
    g.stroke();
    if (fill) {
      g.lineTo(x(pre), y(-66));
      g.globalAlpha = 0.12;
      g.fillStyle = themeColour(colour);
      g.fill();
      g.globalAlpha = 1;
    }
  }
  g.fillStyle = themeColour('rope');
  g.fillText('1 kHz', x(pre + rt * 0.4) + 6, y(-24));
  g.fillStyle = themeColour('soft');
  g.fillText('8 kHz', x(pre + rt * (1 - 0.9 * damp) * 0.62) + 6, y(-38));
}

function level(g: CanvasRenderingContext2D, w: number, h: number) {
  const m = trimMatrix(props.device.params);
  g.font = '12px "Source Sans 3 Variable", sans-serif';
  const ys = [h * 0.3, h * 0.7];
  const x1 = 54;
  const x2 = w - 60;
  ['left', 'right'].forEach((t, i) => {
    g.fillStyle = themeColour('ink');
    g.fillText(t, 10, ys[i] + 4);
    g.fillText(t, x2 + 8, ys[i] + 4);
  });
  m.forEach((v, i) => {
    if (v === 0) return;
    const from = ys[i % 2];
    const to = ys[i < 2 ? 0 : 1];
    g.strokeStyle = themeColour(v < 0 ? 'bad' : 'rope');
    g.lineWidth = Math.max(1, Math.min(10, Math.abs(v) * 3));
    g.beginPath();
    g.moveTo(x1, from);
    g.bezierCurveTo(w / 2, from, w / 2, to, x2, to);
    g.stroke();
    const db = (20 * Math.log10(Math.abs(v))).toFixed(1).replace('-', '−');
    g.fillStyle = themeColour('soft');
    g.fillText(
      `${v < 0 ? 'turned, ' : ''}${db} dB`,
      w / 2 - 22,
      (from + to) / 2 + (from === to ? -8 : i === 1 ? -2 : 12),
    );
  });
}

function follow() {
  const s = audio.slots.get(props.device.id);
  const live = audio.playing && s ? s : null;
  reduction += 0.4 * ((live ? live.reduction : 0) - reduction);
}

function curveOver(
  g: CanvasRenderingContext2D,
  w: number,
  h: number,
  values: ArrayLike<number>,
  range: number,
  colour: string,
) {
  g.strokeStyle = themeColour(colour);
  g.lineWidth = 2;
  g.beginPath();
  for (let i = 0; i < values.length; i++) {
    const px = (i / (values.length - 1)) * w;
    const py = h / 2 - (Math.max(-range * 1.2, values[i]) / range) * (h / 2 - 8);
    if (i === 0) g.moveTo(px, py);
    else g.lineTo(px, py);
  }
  g.stroke();
}

function bands(g: CanvasRenderingContext2D, w: number, h: number) {
  frequencyGrid(g, w, h);
  spectrum.draw(g, w, h);
  const fr = corners(props.device.params, props.sampleRate);
  const n = fr.length + 1;
  const x = (f: number) => (Math.log(f / 20) / Math.log(1000)) * w;
  const edges = [0, ...fr.map(x), w];
  for (let b = 1; b <= n; b++) {
    const [a, z] = [edges[b - 1], edges[b]];
    const red = audio.playing ? (audio.scope.readings?.[b - 1] ?? 0) : 0;
    const y = h / 2 - (num(`b${b}.gain`) / 24) * (h / 2 - 8);
    g.fillStyle = themeColour('warn');
    g.fillRect(a + 3, y, z - a - 6, Math.min(h, (-red / 24) * (h / 2)));
    g.strokeStyle = themeColour(props.device.params[`b${b}.on`] ? 'rope' : 'edge');
    g.lineWidth = 2;
    g.beginPath();
    g.moveTo(a + 2, y);
    g.lineTo(z - 2, y);
    g.stroke();
    if (b < n) {
      g.strokeStyle = themeColour('edge');
      g.lineWidth = 1;
      g.beginPath();
      g.moveTo(z, 0);
      g.lineTo(z, h);
      g.stroke();
    }
    g.fillStyle = themeColour('ink');
    g.fillText(bandName(b, n), a + 4, 11);
    g.fillStyle = themeColour('soft');
    g.fillText(minus(red.toFixed(1)), a + 4, 23);
  }
}

function sibilance(g: CanvasRenderingContext2D, w: number, h: number) {
  const side = w - 46;
  frequencyGrid(g, side, h);
  spectrum.draw(g, side, h);
  follow();
  const x = (Math.log(num('frequency') / 20) / Math.log(1000)) * side;
  g.strokeStyle = themeColour('warn');
  g.setLineDash([4, 3]);
  g.beginPath();
  g.moveTo(x, 0);
  g.lineTo(x, h);
  g.stroke();
  g.setLineDash([]);
  // how far down the highs are now, and the furthest that they may go
  const at = (db: number) => h * 0.25 - (db / 24) * h * 0.5;
  const wide = props.device.params.mode === 'wide';
  const from = wide ? 0 : Math.max(0, x - 30);
  const to = Math.min(side, x + 10);
  for (const [db, colour] of [
    [num('range'), 'edge'],
    [reduction, 'rope'],
  ] as const) {
    g.strokeStyle = themeColour(colour);
    g.lineWidth = 2;
    g.beginPath();
    g.moveTo(0, at(wide ? db : 0));
    if (!wide) g.bezierCurveTo(from, at(0), from, at(0), from, at(0));
    g.bezierCurveTo((from + to) / 2, at(wide ? db : 0), (from + to) / 2, at(db), to, at(db));
    g.lineTo(side, at(db));
    g.stroke();
  }
  reductionBar(g, w, h);
}

function voices(g: CanvasRenderingContext2D, w: number, h: number) {
  g.font = '11px "Source Sans 3 Variable", sans-serif';
  const p = props.device.params;
  if (props.device.type === 'chorus') {
    const span = Math.max(1, Math.min(20, 2 / num('rate')));
    const y = (ms: number) => h - 16 - (ms / Math.max(10, num('delay') + num('depth') + 2)) * (h - 30);
    for (const [phase, colour] of [
      [0, 'rope'],
      [Math.PI / 2, 'soft'],
    ] as const) {
      g.strokeStyle = themeColour(colour);
      g.lineWidth = 2;
      g.beginPath();
      for (let i = 0; i <= 120; i++) {
        const t = (i / 120) * span;
        const ms =
          num('delay') +
          Math.min(num('depth'), num('delay') - 0.2) * Math.sin(2 * Math.PI * num('rate') * t + phase);
        if (i === 0) g.moveTo(0, y(ms));
        else g.lineTo((i / 120) * w, y(ms));
      }
      g.stroke();
    }
    g.fillStyle = themeColour('soft');
    g.fillText(`delay over ${span.toFixed(1)} s, left and right`, 6, h - 4);
    return;
  }
  const n = Number(p.voices);
  const top = 60;
  g.strokeStyle = themeColour('rule');
  g.beginPath();
  g.moveTo(w / 2, 0);
  g.lineTo(w / 2, h - 16);
  g.stroke();
  g.fillStyle = themeColour('ink');
  g.beginPath();
  g.arc(w / 2, h - 24, 6, 0, 7);
  g.fill();
  for (let k = 0; k < n; k++) {
    const v = voiceOf(p, k);
    const px = w / 2 + v.place * (w / 2 - 40);
    const py = h - 24 - (v.ms / top) * (h - 60);
    g.strokeStyle = themeColour('edge');
    g.lineWidth = 1;
    g.beginPath();
    g.moveTo(w / 2, h - 24);
    g.lineTo(px, py);
    g.stroke();
    g.fillStyle = themeColour('rope');
    g.beginPath();
    g.arc(px, py, 3 + num('mix') / 25, 0, 7);
    g.fill();
    g.fillStyle = themeColour('soft');
    g.fillText(
      `${minus((v.cents >= 0 ? '+' : '') + v.cents.toFixed(1))} ct, ${v.ms.toFixed(0)} ms`,
      Math.max(2, Math.min(w - 76, px - 34)),
      py - 9,
    );
  }
  g.fillText('left', 4, h - 4);
  g.fillText('right', w - 28, h - 4);
}

function field(g: CanvasRenderingContext2D, w: number, h: number) {
  const cx = w / 2;
  const cy = h - 34;
  const r = Math.min(w / 2 - 20, h - 50);
  const a = (Math.min(200, num('width')) / 200) * (Math.PI / 2);
  g.strokeStyle = themeColour('rule');
  g.lineWidth = 1;
  g.beginPath();
  g.arc(cx, cy, r, Math.PI, 0);
  g.closePath();
  g.stroke();
  g.fillStyle = themeColour('spectrum');
  g.beginPath();
  g.moveTo(cx, cy);
  g.arc(cx, cy, r, -Math.PI / 2 - a, -Math.PI / 2 + a);
  g.closePath();
  g.fill();
  g.strokeStyle = themeColour('rope');
  g.lineWidth = 2;
  g.stroke();
  const c = audio.playing ? (audio.scope.readings?.[0] ?? 0) : 0;
  const bar = w - 40;
  g.fillStyle = themeColour('rule');
  g.fillRect(20, h - 18, bar, 6);
  g.fillStyle = themeColour(c < 0 ? 'bad' : 'meter-a');
  g.fillRect(20 + bar / 2, h - 18, (c * bar) / 2, 6);
  g.font = '10px "Source Sans 3 Variable", sans-serif';
  g.fillStyle = themeColour('soft');
  g.fillText('−1', 4, h - 12);
  g.fillText('+1', w - 16, h - 12);
  g.fillText(`correlation ${readingText('correlation', c)}`, w / 2 - 38, h - 22);
}

const sung: [number, number][] = [];
function note(g: CanvasRenderingContext2D, w: number, h: number) {
  const r = audio.playing ? audio.scope.readings : null;
  sung.push(r?.length === 3 ? [r[0], r[1]] : [0, 0]);
  if (sung.length > 160) sung.shift();
  const heard = sung.flat().filter((v) => v > 0);
  const mid = heard.length ? heard.reduce((a, b) => a + b, 0) / heard.length : 60;
  const low = Math.round(mid) - 7;
  const high = low + 14;
  const y = (v: number) => h - ((v - low) / (high - low)) * h;
  g.font = '10px "Source Sans 3 Variable", sans-serif';
  for (let n = low + 1; n < high; n++) {
    g.strokeStyle = themeColour('rule');
    g.lineWidth = 1;
    g.beginPath();
    g.moveTo(34, y(n));
    g.lineTo(w, y(n));
    g.stroke();
    g.fillStyle = themeColour('soft');
    if (h / 14 > 10 || n % 2 === 0) g.fillText(noteName(n), 3, y(n) + 3);
  }
  for (const [k, colour] of [
    [0, 'soft'],
    [1, 'rope'],
  ] as const) {
    g.strokeStyle = themeColour(colour);
    g.lineWidth = 2;
    g.beginPath();
    let on = false;
    sung.forEach((s, i) => {
      const px = 34 + (i / 160) * (w - 34);
      if (s[k] <= 0) {
        on = false;
        return;
      }
      if (on) g.lineTo(px, y(s[k]));
      else g.moveTo(px, y(s[k]));
      on = true;
    });
    g.stroke();
  }
  if (!heard.length) {
    g.fillStyle = themeColour('soft');
    g.fillText('The sung note (grey) and the played one come while a voice plays.', 40, 14);
  }
}

function loop(g: CanvasRenderingContext2D, w: number, h: number) {
  const p = props.device.params;
  follow();
  g.font = '12px "Source Sans 3 Variable", sans-serif';
  const mid = h * 0.36;
  const box = { x: w * 0.3, y: h * 0.56, w: w * 0.4, h: h * 0.26 };
  g.strokeStyle = themeColour('edge');
  g.lineWidth = 2;
  g.beginPath();
  g.moveTo(6, mid);
  g.lineTo(w - 6, mid);
  g.stroke();
  g.strokeStyle = themeColour('rope');
  g.beginPath();
  g.moveTo(w * 0.16, mid);
  g.lineTo(w * 0.16, box.y + box.h / 2);
  g.lineTo(box.x, box.y + box.h / 2);
  g.moveTo(box.x + box.w, box.y + box.h / 2);
  g.lineTo(w * 0.84, box.y + box.h / 2);
  g.lineTo(w * 0.84, mid);
  g.stroke();
  g.strokeRect(box.x, box.y, box.w, box.h);
  g.fillStyle = themeColour('ink');
  const unit = DEVICE_TYPES.outboard.byId.unit
    .choices!.find((c) => c.id === p.unit)!
    .label.replace(' (simulated)', '');
  g.fillText(unit, box.x + 8, box.y + box.h / 2 + 4, box.w - 12);
  g.fillStyle = themeColour('soft');
  g.fillText(String(p.sendPort), 6, mid - 8, w * 0.45);
  g.fillText(String(p.returnPort), w * 0.66, mid - 8, w * 0.33);
  g.fillText(
    num('roundTrip') > 0 ? `round trip ${num('roundTrip')} ms` : 'round trip not measured yet',
    box.x,
    h - 6,
  );
}

function meters(g: CanvasRenderingContext2D, w: number, h: number) {
  g.font = '12px "Source Sans 3 Variable", sans-serif';
  METER_READINGS.forEach((label, i) => {
    const v = audio.playing ? (audio.scope.readings?.[i] ?? -160) : -160;
    const y = 14 + (i * (h - 16)) / METER_READINGS.length;
    const bar = w - 190;
    g.fillStyle = themeColour('soft');
    g.fillText(label, 8, y + 4);
    g.fillStyle = themeColour('rule');
    g.fillRect(92, y - 3, bar, 7);
    g.fillStyle = themeColour(
      label === 'correlation' ? (v < 0 ? 'bad' : 'meter-a') : v > -1 ? 'meter-c' : 'meter-a',
    );
    if (label === 'correlation') {
      if (audio.playing) g.fillRect(92 + bar / 2, y - 3, (v * bar) / 2, 7);
    } else g.fillRect(92, y - 3, Math.max(0, Math.min(1, (v + 60) / 60)) * bar, 7);
    g.fillStyle = themeColour('ink');
    g.fillText(label === 'correlation' && !audio.playing ? '—' : readingText(label, v), w - 88, y + 4);
  });
}

function response(g: CanvasRenderingContext2D, w: number, h: number) {
  frequencyGrid(g, w, h);
  spectrum.draw(g, w, h);
  curveOver(g, w, h, responseCurve([{ ...props.device, state: 'on' }], FREQS, props.sampleRate), 18, 'rope');
}

const painters: Record<string, (g: CanvasRenderingContext2D, w: number, h: number) => void> = {
  transfer,
  taps,
  decay,
  level,
  response,
  bands,
  sibilance,
  voices,
  field,
  note,
  loop,
  meter: meters,
};
useFrame(() => {
  const c = canvas.value;
  if (!c) return;
  const { g, w, h } = prepare(c);
  if (view.value === 'spectrum') {
    frequencyGrid(g, w, h);
    spectrum.draw(g, w, h);
  } else painters[kind.value]?.(g, w, h);
});
const names: Record<string, string> = {
  transfer: 'Transfer curve and gain reduction',
  taps: 'Echoes over time',
  decay: 'Decay at 1 kHz and 8 kHz',
  level: 'How the sides are mixed',
  response: 'Frequency response over the live spectrum',
  bands: 'Bands over the live spectrum with their gain reduction',
  sibilance: 'Sibilance over the live spectrum',
  voices: 'Copies by delay and place',
  field: 'Width and correlation',
  note: 'Sung and played note',
  loop: 'The loop through the ports',
  meter: 'Levels, loudness and correlation',
  none: '',
};
</script>

<template>
  <div class="relative h-full min-h-[120px] rounded border border-rule bg-paper">
    <canvas
      ref="canvas"
      class="h-full w-full"
      role="img"
      :aria-label="`${view === 'own' ? names[kind] : 'Spectrum before and after'} of ${device.name}`"
    />
    <button
      v-if="!['response', 'bands', 'sibilance', 'meter'].includes(kind)"
      type="button"
      class="absolute left-7 top-1 min-h-6 rounded bg-sheet px-1.5 text-[11px] text-soft hover:bg-sunk"
      :aria-pressed="view === 'spectrum'"
      title="Spectrum before (dotted) and after (filled) this device"
      @click="view = view === 'own' ? 'spectrum' : 'own'"
    >
      {{ view === 'own' ? 'spectrum' : 'its picture' }}
    </button>
  </div>
</template>
