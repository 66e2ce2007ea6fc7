<script setup lang="ts">
/**
 * Where a line's sound or notes come from: nothing, an output of an instrument and which half, a MIDI port
 * and channel, another line, a hardware port.
 */
import { computed } from 'vue';
import {
  DEVICE_TYPES,
  MIDI_PORTS,
  keyName,
  tappable,
  type Input,
  type Take,
  type Track,
  onTrack,
} from '../../../core/index.ts';
import { useSession } from '../../document/doc.ts';

const props = defineProps<{ track: Track }>();
const session = useSession();
const input = computed(() => props.track.input);
const set = (to: Input) =>
  session.edit(`Input of ${props.track.name}`, onTrack(props.track.id, { input: to }));
const plays = computed(() => props.track.role === 'instrument');
const instruments = computed(() => tappable(session.doc!).filter((x) => x.track.id !== props.track.id));
const others = computed(() =>
  session.doc!.tracks.filter((t) => t.id !== props.track.id && t.role !== 'master' && t.role !== 'midi'),
);
const outputs = computed(() => {
  const x = input.value;
  if (x.kind !== 'deviceOutput') return 0;
  const d = session.doc!.tracks.find((t) => t.id === x.track)?.chain.find((s) => s.id === x.slot);
  return Math.max(x.output, d?.kind === 'device' ? (DEVICE_TYPES[d.type].instrument?.outputs ?? 0) : 0);
});
const kind = computed(() => {
  if (input.value.kind === 'deviceOutput') return `out:${input.value.slot}`;
  if (input.value.kind === 'track') return `track:${input.value.track}`;
  return input.value.kind;
});
function choose(v: string) {
  if (v === 'none') set({ kind: 'none' });
  else if (v === 'midi') set({ kind: 'midi', port: 'A', channel: 0 });
  else if (v === 'hardware') set({ kind: 'hardware', port: session.doc!.setup?.inputs[0] ?? 'In 1' });
  else if (v.startsWith('track:')) set({ kind: 'track', track: v.slice(6), tap: 'post' });
  else {
    const x = instruments.value.find((i) => i.slot === v.slice(4));
    if (x) {
      set({
        kind: 'deviceOutput',
        track: x.track.id,
        slot: x.slot,
        output: 1,
        take: props.track.channels === 1 ? 'left' : 'stereo',
      });
    }
  }
}
const filter = computed(() =>
  input.value.kind === 'midi' ? (input.value.filter ?? { low: 0, high: 127, controllers: true }) : null,
);
function keep(change: object) {
  if (input.value.kind !== 'midi') return;
  const f = { ...filter.value!, ...change };
  if (f.low > f.high) [f.low, f.high] = [f.high, f.low];
  const { filter: _f, ...rest } = input.value;
  set(f.low === 0 && f.high === 127 && f.controllers ? rest : { ...rest, filter: f });
}
const num = (e: Event) =>
  Math.min(127, Math.max(0, Math.round(Number((e.target as HTMLInputElement).value) || 0)));
</script>

<template>
  <div class="flex flex-col gap-1" role="group" aria-label="Input">
    <label class="flex items-center justify-between gap-2"
      ><span class="label">Input</span>
      <select
        class="field h-[24px] max-w-[130px] py-0"
        aria-label="Input"
        :value="kind"
        @change="choose(($event.target as HTMLSelectElement).value)"
      >
        <option value="none">nothing</option>
        <option v-if="plays" value="midi">MIDI</option>
        <optgroup v-if="!plays && instruments.length" label="Outputs of">
          <option v-for="i in instruments" :key="i.slot" :value="`out:${i.slot}`">{{ i.name }}</option>
        </optgroup>
        <option
          v-if="input.kind === 'deviceOutput' && !instruments.some((i) => `out:${i.slot}` === kind)"
          :value="kind"
        >
          an instrument that is gone
        </option>
        <option value="hardware">hardware</option>
        <optgroup v-if="!plays && others.length" label="Another line">
          <option v-for="t in others" :key="t.id" :value="`track:${t.id}`">{{ t.name }}</option>
        </optgroup>
      </select></label
    >
    <div v-if="input.kind === 'deviceOutput'" class="flex justify-end gap-1">
      <select
        class="field h-[24px] px-1 py-0"
        aria-label="Output of the instrument"
        :value="input.output"
        @change="set({ ...input, output: Number(($event.target as HTMLSelectElement).value) })"
      >
        <option v-for="n in outputs" :key="n" :value="n">{{ n }}</option>
      </select>
      <select
        class="field h-[24px] px-1 py-0"
        aria-label="Side of the output"
        :value="input.take"
        @change="set({ ...input, take: ($event.target as HTMLSelectElement).value as Take })"
      >
        <option value="stereo">stereo</option>
        <option value="left">left</option>
        <option value="right">right</option>
        <option value="sum">sum</option>
      </select>
    </div>
    <div v-else-if="input.kind === 'hardware'" class="flex justify-end">
      <input
        class="field h-[24px] w-[130px] px-1 py-0"
        aria-label="Hardware input"
        list="input-ports"
        :value="input.port"
        maxlength="80"
        @change="set({ kind: 'hardware', port: ($event.target as HTMLInputElement).value.trim() || 'In 1' })"
      /><datalist id="input-ports">
        <option v-for="x in session.doc!.setup?.inputs ?? []" :key="x" :value="x" />
      </datalist>
    </div>
    <template v-else-if="input.kind === 'midi'">
      <div class="flex justify-end gap-1">
        <select
          class="field h-[24px] px-1 py-0"
          aria-label="MIDI port in"
          :value="input.port"
          @change="set({ ...input, port: ($event.target as HTMLSelectElement).value as 'A' })"
        >
          <option v-for="p in MIDI_PORTS" :key="p" :value="p">port {{ p }}</option></select
        ><select
          class="field h-[24px] px-1 py-0"
          aria-label="MIDI channel in"
          :value="input.channel"
          @change="set({ ...input, channel: Number(($event.target as HTMLSelectElement).value) })"
        >
          <option :value="0">all</option>
          <option v-for="n in 16" :key="n" :value="n">ch {{ n }}</option>
        </select>
      </div>
      <div class="flex items-center justify-end gap-1 text-note">
        <span class="text-soft" :title="`${keyName(filter!.low)} to ${keyName(filter!.high)}`">keys</span
        ><input
          type="number"
          min="0"
          max="127"
          class="field h-[22px] w-[46px] px-1 py-0"
          aria-label="Lowest key let in"
          :value="filter!.low"
          @change="keep({ low: num($event) })"
        />–<input
          type="number"
          min="0"
          max="127"
          class="field h-[22px] w-[50px] px-1 py-0"
          aria-label="Highest key let in"
          :value="filter!.high"
          @change="keep({ high: num($event) })"
        />
      </div>
      <label class="flex items-center justify-end gap-1.5 text-note"
        ><input
          type="checkbox"
          class="accent-[var(--rope)]"
          :checked="filter!.controllers"
          @change="keep({ controllers: !filter!.controllers })"
        />
        controllers too</label
      >
    </template>
  </div>
</template>
