<script setup lang="ts">
/** One value that a handle moves: from where to where, and how. */
import { ArrowLeftRight, X } from '@lucide/vue';
import { computed } from 'vue';
import {
  onHandle,
  tieTarget,
  turnHandle,
  type Handle,
  type Rack,
  type Tie,
  type Track,
} from '../../../core/index.ts';
import { TIE_CURVE } from '../../ui/specs.ts';
import ValueField from '../../ui/ValueField.vue';
import { useRack } from './edit.ts';

const props = defineProps<{ track: Track; rack: Rack; handle: Handle; tie: Tie }>();
const { ids, edit } = useRack(props);
const target = computed(() => tieTarget(props.rack, props.tie));

/** The value follows at once, from where the handle stands. */
function change(over: Partial<Tie>, key?: string) {
  const { handle, tie } = props;
  const ties = handle.ties.map((t) => (t.id === tie.id ? { ...t, ...over } : t));
  const put = onHandle(...ids.value, handle.id, { ties });
  const turn = turnHandle(...ids.value, handle.id, handle.value);
  edit(`Tie of ${handle.name}`, (s) => turn(put(s)), key ? key + tie.id : undefined);
}
function untie() {
  const ties = props.handle.ties.filter((t) => t.id !== props.tie.id);
  edit(`Untie of ${props.handle.name}`, onHandle(...ids.value, props.handle.id, { ties }));
}
</script>

<template>
  <div
    class="tie grid grid-cols-[minmax(90px,1fr)_104px_104px_96px_24px_24px] items-center gap-x-3 py-1.5 text-note"
    role="group"
    :aria-label="`${handle.name} moves ${target?.label}`"
  >
    <span class="truncate" :title="target?.label">{{ target?.label ?? 'gone' }}</span>
    <template v-if="target">
      <ValueField
        :spec="target.spec"
        :value="tie.from"
        label="from"
        :name="`${target.label} at 0 %`"
        @change="(v, sliding) => change({ from: v as number }, sliding ? 'from' : undefined)"
      />
      <ValueField
        :spec="target.spec"
        :value="tie.to"
        label="to"
        :name="`${target.label} at 100 %`"
        @change="(v, sliding) => change({ to: v as number }, sliding ? 'to' : undefined)"
      />
      <ValueField
        :spec="TIE_CURVE"
        :value="tie.curve"
        :name="`Curve of ${target.label}`"
        @change="(v, sliding) => change({ curve: v as number }, sliding ? 'curve' : undefined)"
      />
      <button
        type="button"
        class="btn btn-plain px-0.5 py-0"
        :aria-label="`Turn ${target.label} round`"
        title="Inverse"
        @click="change({ from: tie.to, to: tie.from })"
      >
        <ArrowLeftRight :size="13" aria-hidden="true" />
      </button>
    </template>
    <button
      type="button"
      class="btn btn-plain px-0.5 py-0"
      :aria-label="`Untie ${target?.label}`"
      @click="untie"
    >
      <X :size="13" aria-hidden="true" />
    </button>
  </div>
</template>

<style scoped>
/* the numbers stand close above these sliders: both must be easy to hit */
.tie :deep(.thread) {
  height: 24px;
}
</style>
