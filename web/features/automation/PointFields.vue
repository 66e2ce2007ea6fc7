<script setup lang="ts">
/** The point at hand, in figures. */
import { Trash2 } from '@lucide/vue';
import { computed } from 'vue';
import type { LanePoint, ParamSpec } from '../../../core/index.ts';
import ValueField from '../../ui/ValueField.vue';

const props = defineProps<{
  point: LanePoint;
  /** which of how many, and its bar and beat */
  place: string;
  spec: ParamSpec;
  /** s that the curve is wide */
  span: number;
}>();
const emit = defineEmits<{
  move: [over: Partial<LanePoint>, sliding: boolean];
  hold: [on: boolean];
  remove: [];
}>();
const isSwitch = computed(() => props.spec.kind === 'switch');
const isOn = computed(() => props.point.value >= 0.5);
const time = computed((): ParamSpec => ({
  id: 'at',
  label: 'At',
  group: '',
  kind: 'number',
  unit: 's',
  min: 0,
  max: Math.max(props.span, props.point.at),
  default: 0,
  taper: 'linear',
  step: 0.01,
}));
</script>

<template>
  <span class="whitespace-nowrap text-soft">{{ place }}</span>
  <ValueField
    class="w-[150px]"
    compact
    :spec="time"
    :value="point.at"
    name="Time of the point"
    @change="(v, sliding) => emit('move', { at: v as number }, sliding)"
  />
  <label v-if="isSwitch" class="flex items-center gap-1"
    ><input
      type="checkbox"
      class="accent-[var(--rope)]"
      :checked="isOn"
      @change="emit('move', { value: isOn ? 0 : 1 }, false)"
    />
    {{ spec.label }} on</label
  >
  <template v-else>
    <ValueField
      class="w-[170px]"
      compact
      :spec="spec"
      :value="point.value"
      name="Value of the point"
      @change="(v, sliding) => emit('move', { value: v as number }, sliding)"
    />
    <label class="flex items-center gap-1" title="The value stays until the next point"
      ><input
        type="checkbox"
        class="accent-[var(--rope)]"
        :checked="point.hold === true"
        @change="emit('hold', !point.hold)"
      />
      Hold</label
    >
  </template>
  <button
    type="button"
    class="btn btn-plain min-h-6 px-1 py-0"
    aria-label="Take the point away"
    @click="emit('remove')"
  >
    <Trash2 :size="13" aria-hidden="true" />
  </button>
</template>
