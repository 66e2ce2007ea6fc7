<script setup lang="ts">
/** One handle of a rack: colour, name, value, controller number, and what it moves. */
import { Trash2 } from '@lucide/vue';
import { computed } from 'vue';
import {
  COLOURS,
  addTie,
  colourOf,
  controllerName,
  formatValue,
  onHandle,
  removeHandle,
  tieTarget,
  switchTargets,
  tieTargets,
  turnHandle,
  type Handle,
  type Rack,
  type Tie,
  type Track,
} from '../../../core/index.ts';
import { chosenIn } from '../../ui/events.ts';
import { HANDLE_VALUE } from '../../ui/specs.ts';
import ValueField from '../../ui/ValueField.vue';
import { useSession } from '../../document/doc.ts';
import { useUi } from '../../ui/window.ts';
import { controllerNumber, learning } from './controller.ts';
import { useRack } from './edit.ts';
import { useRackView } from './view.ts';
import { hearHandles } from './listening.ts';
import HandleButton from './HandleButton.vue';
import TieRow from './TieRow.vue';

const props = defineProps<{ track: Track; rack: Rack; handle: Handle }>();
const open = defineModel<boolean>('open', { required: true });
const ui = useUi();
const { ids, edit } = useRack(props);

const change = (label: string, over: Partial<Handle>) =>
  edit(`${label} of ${props.handle.name}`, onHandle(...ids.value, props.handle.id, over));
function turn(value: number) {
  const { id, name } = props.handle;
  edit(name, turnHandle(ids.value[0], id, value), 'turn' + id);
  hearHandles(useSession().doc!, (h) => h.id === id);
}
const rename = (e: Event) => change('Name', { name: chosenIn(e).trim() || props.handle.name });
const leave = (e: KeyboardEvent) => (e.target as HTMLElement).blur();
function nextColour() {
  const at = COLOURS.findIndex((c) => c.id === props.handle.colour);
  change('Colour', { colour: COLOURS[(at + 1) % COLOURS.length].id });
}
/** An empty field takes the number off; what is no number is said, and the old one stands again. */
function setNumber(e: Event) {
  const field = e.target as HTMLInputElement;
  const number = field.value.trim() === '' ? undefined : controllerNumber(field.value);
  if (number === null) field.value = String(props.handle.cc ?? '');
  else change('Controller', { cc: number ?? null });
}

function setButton(e: Event) {
  const kind = (chosenIn(e) || undefined) as Handle['button'];
  change('Button', { button: kind });
}

const isLearning = computed(() => learning.value?.handle === props.handle.id);
const controllerText = computed(() =>
  props.handle.cc === null
    ? 'Move a knob of the controller: its number is taken'
    : controllerName(props.handle.cc),
);
function learn() {
  const [track, rack] = ids.value;
  learning.value = isLearning.value ? null : { track, rack, handle: props.handle.id };
  if (learning.value) useRackView().controller = true;
}

function valueNow(tie: Tie): string {
  const target = tieTarget(props.rack, tie);
  return target ? `${target.label} ${formatValue(target.spec, target.value)}` : 'gone';
}
const movesText = computed(() => props.handle.ties.map(valueNow).join(' · ') || 'moves nothing yet');
const free = computed(() =>
  [...tieTargets(props.rack), ...switchTargets(props.rack)].filter(
    (target) => !props.handle.ties.some((t) => t.slot === target.slot && t.param === target.param),
  ),
);
function tieTo(e: Event) {
  const field = e.target as HTMLSelectElement;
  const target = free.value.find((t) => `${t.slot}/${t.param}` === field.value);
  field.value = '';
  if (!target) return;
  edit(`Tie ${target.label} to ${props.handle.name}`, addTie(...ids.value, props.handle, target));
}
</script>

<template>
  <div class="border-t border-rule py-1" role="group" :aria-label="`Handle ${handle.name}`">
    <div class="grid grid-cols-[24px_minmax(80px,130px)_minmax(120px,1fr)_132px_24px] items-center gap-1.5">
      <button
        type="button"
        class="grid h-6 w-6 place-items-center"
        :aria-label="`Colour of ${handle.name}: ${colourOf(handle.colour).label}; next`"
        @click="nextColour"
      >
        <span
          class="h-4 w-4 rounded-full border border-ink"
          :style="{ background: ui.swatch(handle.colour) }"
        />
      </button>
      <input
        class="field h-[24px] px-1 py-0 text-body font-semibold"
        :value="handle.name"
        :aria-label="`Name of the handle ${handle.name}`"
        @change="rename"
        @keydown.enter="leave"
      />
      <HandleButton v-if="handle.button" :handle="handle" @turn="turn" />
      <ValueField
        v-else
        compact
        :spec="HANDLE_VALUE"
        :value="handle.value"
        :name="handle.name"
        @change="(v) => turn(v as number)"
      />
      <span class="flex items-center gap-1"
        ><input
          class="field h-[24px] w-[46px] px-1 py-0 text-note"
          inputmode="numeric"
          placeholder="CC"
          :value="handle.cc ?? ''"
          :aria-label="`Controller number of ${handle.name}`"
          @change="setNumber"
          @keydown.enter="leave"
        />
        <button
          type="button"
          class="btn px-1.5 py-0 text-note"
          :aria-pressed="isLearning"
          :title="controllerText"
          @click="learn"
        >
          {{ isLearning ? 'move …' : 'learn' }}
        </button></span
      >
      <button
        type="button"
        class="btn btn-plain px-1 py-0"
        :aria-label="`Remove the handle ${handle.name}`"
        @click="edit(`Remove ${handle.name}`, removeHandle(...ids, handle.id))"
      >
        <Trash2 :size="13" aria-hidden="true" />
      </button>
    </div>
    <button
      type="button"
      class="ml-[30px] min-h-6 text-left text-note text-soft underline"
      :aria-expanded="open"
      @click="open = !open"
    >
      {{ movesText }}
    </button>
    <div v-if="open" class="ml-[30px]">
      <label class="flex items-center gap-1.5 text-note"
        >Moved by
        <select
          class="field h-[24px] py-0 text-note"
          :aria-label="`How ${handle.name} is moved`"
          :value="handle.button ?? ''"
          @change="setButton"
        >
          <option value="">a knob</option>
          <option value="toggle">a button: each press flips it</option>
          <option value="hold">a button: on while it is held</option>
        </select></label
      >
      <TieRow v-for="t in handle.ties" :key="t.id" :track="track" :rack="rack" :handle="handle" :tie="t" />
      <select
        class="field mt-1 h-[24px] max-w-full py-0 text-note"
        :aria-label="`Tie a value to ${handle.name}`"
        value=""
        @change="tieTo"
      >
        <option value="">Tie another value …</option>
        <option v-for="t in free" :key="t.slot + t.param" :value="`${t.slot}/${t.param}`">
          {{ t.label }}{{ t.hint ? ` (${t.hint})` : '' }}
        </option>
      </select>
    </div>
  </div>
</template>
