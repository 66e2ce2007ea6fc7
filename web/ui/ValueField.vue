<script setup lang="ts">
/**
 * One value: a thread to slide, arrow keys for steps (Shift fine), typed entry with units, double-click or
 * Backspace for the default.
 */
import { computed, nextTick, ref, useId } from 'vue';
import {
  colourOf,
  formatValue,
  fromPosition,
  parseValue,
  tidy,
  toPosition,
  type ParamSpec,
  type ParamValue,
} from '../../core/index.ts';

const props = withDefaults(
  defineProps<{
    spec: ParamSpec;
    value: ParamValue;
    label?: string;
    name?: string;
    compact?: boolean;
    disabled?: boolean;
    mark?: { colour: string; text: string; go: () => void };
  }>(),
  { compact: false, disabled: false, label: undefined, name: undefined, mark: undefined },
);
const emit = defineEmits<{ change: [value: ParamValue, sliding: boolean] }>();
const id = useId();
const swatch = (c: string) => colourOf(c).day;
const typing = ref(false);
const text = ref('');
const error = ref('');
const shownLabel = computed(() => props.label ?? props.spec.label);
const full = computed(() => props.name ?? shownLabel.value);
const shown = computed(() => formatValue(props.spec, props.value));
const pos = computed(() => toPosition(props.spec, props.value as number));

const set = (v: number, sliding = true) => {
  const t = tidy(props.spec, v);
  if (t !== props.value) emit('change', t, sliding);
};
const slide = (e: Event) =>
  set(fromPosition(props.spec, Number((e.target as HTMLInputElement).value) / 1000));
function keys(e: KeyboardEvent) {
  const up = e.key === 'ArrowUp' || e.key === 'ArrowRight';
  const down = e.key === 'ArrowDown' || e.key === 'ArrowLeft';
  if (up || down) {
    e.preventDefault();
    const step = (e.shiftKey ? 0.002 : 0.01) * (up ? 1 : -1);
    let v = tidy(props.spec, fromPosition(props.spec, pos.value + step));
    if (v === props.value) {
      v = tidy(props.spec, (props.value as number) + (up ? 1 : -1) * (props.spec.step ?? 0.01));
    }
    set(v);
  } else if (e.key === 'Backspace' || e.key === 'Delete') {
    e.preventDefault();
    emit('change', props.spec.default, false);
  } else if (e.key === 'Enter' || /^[\d.\-−+]$/.test(e.key)) {
    e.preventDefault();
    begin(e.key === 'Enter' ? '' : e.key);
  } else if (e.key === 'Home') {
    e.preventDefault();
    set(props.spec.min!);
  } else if (e.key === 'End') {
    e.preventDefault();
    set(props.spec.max!);
  }
}
const input = ref<HTMLInputElement | null>(null);
function begin(start = '') {
  if (props.disabled) return;
  typing.value = true;
  text.value = start || shown.value;
  error.value = '';
  void nextTick(() => {
    input.value?.focus();
    if (!start) input.value?.select();
  });
}
function commit(leave = false) {
  if (!typing.value) return;
  const r = parseValue(props.spec, text.value);
  if ('error' in r) {
    if (leave && text.value === '') {
      typing.value = false;
      return;
    }
    error.value = r.error;
    if (leave) {
      typing.value = false;
      setTimeout(() => {
        error.value = '';
      }, 5000);
    }
    return;
  }
  typing.value = false;
  error.value = '';
  if (r.value !== props.value) emit('change', r.value, false);
}
</script>

<template>
  <div class="relative min-w-0" :class="compact ? 'flex items-center gap-1' : ''">
    <div
      v-if="spec.kind === 'number'"
      class="flex items-baseline justify-between gap-1"
      :class="compact ? 'order-2' : ''"
    >
      <span v-if="!compact || mark" class="flex min-w-0 items-center"
        ><button
          v-if="mark"
          type="button"
          class="grid h-6 w-6 shrink-0 place-items-center"
          :aria-label="`${full}: ${mark.text}`"
          :title="mark.text"
          @click="mark.go()"
        >
          <span
            class="h-2.5 w-2.5 rounded-full border border-ink"
            :style="{ background: swatch(mark.colour) }"
          /></button
        ><label v-if="!compact" :for="id" class="label truncate" :title="spec.help">{{
          shownLabel
        }}</label></span
      >
      <input
        v-if="typing"
        ref="input"
        v-model="text"
        class="field h-[20px] w-[72px] px-1 text-right text-body"
        :aria-label="`${full}, type a value`"
        :aria-invalid="!!error"
        @keydown.enter="commit()"
        @keydown.esc.stop="
          typing = false;
          error = '';
        "
        @blur="commit(true)"
      />
      <button
        v-else
        type="button"
        class="min-h-6 min-w-6 rounded px-1 text-right text-body whitespace-nowrap hover:bg-sunk"
        :disabled="disabled"
        :aria-label="`${full}: ${shown}, type a value`"
        @click="begin()"
      >
        {{ shown }}
      </button>
    </div>
    <input
      v-if="spec.kind === 'number'"
      :id="id"
      type="range"
      class="thread"
      min="0"
      max="1000"
      :value="Math.round(pos * 1000)"
      :style="{ '--fill': pos * 100 + '%' }"
      :disabled="disabled"
      :aria-label="full"
      :aria-valuetext="shown"
      @input="slide"
      @keydown="keys"
      @dblclick="emit('change', spec.default, false)"
    />
    <template v-else-if="spec.kind === 'choice'">
      <label v-if="!compact" :for="id" class="label block truncate" :title="spec.help">{{
        shownLabel
      }}</label>
      <select
        :id="id"
        class="field h-[24px] w-full py-0 text-body"
        :value="value"
        :disabled="disabled"
        :aria-label="full"
        @change="emit('change', ($event.target as HTMLSelectElement).value, false)"
      >
        <option v-for="c in spec.choices" :key="c.id" :value="c.id">{{ c.label }}</option>
      </select>
    </template>
    <template v-else-if="spec.kind === 'text'">
      <label v-if="!compact" :for="id" class="label block truncate" :title="spec.help">{{
        shownLabel
      }}</label>
      <input
        :id="id"
        class="field h-[24px] w-full px-1 py-0 text-body"
        :value="value"
        :disabled="disabled"
        maxlength="200"
        :aria-label="full"
        @change="emit('change', ($event.target as HTMLInputElement).value.trim(), false)"
        @keydown.enter="($event.target as HTMLInputElement).blur()"
      />
    </template>
    <label v-else class="flex items-center gap-1.5 text-body" :title="spec.help">
      <input
        type="checkbox"
        class="accent-[var(--rope)]"
        :checked="value === true"
        :disabled="disabled"
        :aria-label="full"
        @change="emit('change', ($event.target as HTMLInputElement).checked, false)"
      />
      <span v-if="!compact">{{ shownLabel }}</span>
    </label>
    <p
      v-if="error"
      role="alert"
      class="absolute left-0 top-full z-40 w-max max-w-[260px] rounded border border-bad bg-sheet px-2 py-1 text-note text-bad"
    >
      {{ error }}
    </p>
  </div>
</template>
