<script setup lang="ts">
/** One value that a handle moves: from where to where, and how. */
import { ArrowLeftRight, X } from '@lucide/vue';
import { computed } from 'vue';
import {
  changeTie,
  onHandle,
  tieTarget,
  type Handle,
  type Rack,
  type Tie,
  type Track,
} from '../../../core/index.ts';
import { TIE_CURVE } from '../../ui/specs.ts';
import { chosenIn } from '../../ui/events.ts';
import ValueField from '../../ui/ValueField.vue';
import { useRack } from './edit.ts';

const props = defineProps<{ track: Track; rack: Rack; handle: Handle; tie: Tie }>();
const { ids, edit } = useRack(props);
const target = computed(() => tieTarget(props.rack, props.tie));

/** The value stays; the handle moves to where it is in the new range. */
function change(over: Partial<Tie>, key?: string) {
  const { handle, tie } = props;
  const put = changeTie(...ids.value, handle.id, tie.id, over);
  edit(`Tie of ${handle.name}`, put, key ? key + tie.id : undefined);
}
const isSwitch = computed(() => target.value?.spec.kind === 'switch');
/** A switch that is on when the handle is up, or off. */
const wayRound = (e: Event) => {
  const isOn = Number(chosenIn(e));
  change({ from: 1 - isOn, to: isOn });
};
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
    <select
      v-if="isSwitch"
      class="field col-span-4 h-[24px] py-0 text-note"
      :value="String(tie.to)"
      :aria-label="`What ${handle.name} makes of ${target?.label}`"
      @change="wayRound"
    >
      <option value="1">on while the handle is up, off while it is down</option>
      <option value="0">off while the handle is up, on while it is down</option>
    </select>
    <template v-else-if="target">
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
