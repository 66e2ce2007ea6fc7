<script setup lang="ts">
/** The strands of a rack side by side, and the blend between the first two. */
import TermNote from '../../ui/TermNote.vue';
import { Plus, Trash2 } from '@lucide/vue';
import {
  BLEND_SPEC,
  STRAND_LEVEL,
  STRAND_PAN,
  addStrand,
  onRack,
  onStrand,
  removeStrand,
  type Handle,
  type Rack,
  type Strand,
  type Track,
} from '../../../core/index.ts';
import { chosenIn } from '../../ui/events.ts';
import ValueField from '../../ui/ValueField.vue';
import { useRack } from './edit.ts';

const props = defineProps<{ track: Track; rack: Rack }>();
const emit = defineEmits<{ handle: [handle: Handle] }>();
const { ids, edit, mark } = useRack(props, (handle) => emit('handle', handle));

const change = (s: Strand, label: string, over: Partial<Strand>, key?: string) =>
  edit(`${label} of ${s.name}`, onStrand(...ids.value, s.id, over), key ? key + s.id : undefined);
const rename = (s: Strand, e: Event) => change(s, 'Name', { name: chosenIn(e).trim() || s.name });
const blend = (over: Partial<Rack['blend']>, key?: string) =>
  edit('Blend', onRack(...ids.value, { blend: { ...props.rack.blend, ...over } }), key);
const setMode = (e: Event) => blend({ mode: chosenIn(e) as Rack['blend']['mode'] });
const leave = (e: KeyboardEvent) => (e.target as HTMLElement).blur();
</script>

<template>
  <div class="min-w-0">
    <div class="mb-1 flex items-center gap-2">
      <h3 class="text-note font-semibold">Strands</h3>
      <button type="button" class="btn px-2 py-0 text-note" @click="edit('Add a strand', addStrand(...ids))">
        <Plus :size="13" aria-hidden="true" /> Add a strand
      </button>
    </div>
    <TermNote word="strand" />
    <div
      v-for="(s, i) in rack.strands"
      :key="s.id"
      class="grid grid-cols-[minmax(80px,1fr)_52px_124px_112px_24px] items-center gap-1.5 border-t border-rule py-0.5"
      role="group"
      :aria-label="`Strand ${s.name}`"
    >
      <input
        class="field h-[24px] px-1 py-0 text-body"
        :value="s.name"
        :aria-label="`Name of strand ${i + 1}`"
        @change="rename(s, $event)"
        @keydown.enter="leave"
      />
      <span class="flex gap-1"
        ><button
          type="button"
          class="switch"
          :aria-pressed="s.mute"
          :aria-label="`Mute ${s.name}`"
          @click="change(s, 'Mute', { mute: !s.mute })"
        >
          M</button
        ><button
          type="button"
          class="switch"
          :aria-pressed="s.solo"
          :aria-label="`Solo ${s.name}`"
          @click="change(s, 'Solo', { solo: !s.solo })"
        >
          S
        </button></span
      >
      <ValueField
        compact
        :spec="STRAND_LEVEL"
        :value="s.level"
        :name="`Level of ${s.name}`"
        :mark="mark(s.id, 'level')"
        @change="(v, sliding) => change(s, 'Level', { level: v as number }, sliding ? 'level' : undefined)"
      />
      <ValueField
        compact
        :spec="STRAND_PAN"
        :value="s.pan"
        :name="`Pan of ${s.name}`"
        :mark="mark(s.id, 'pan')"
        @change="(v, sliding) => change(s, 'Pan', { pan: v as number }, sliding ? 'pan' : undefined)"
      />
      <button
        type="button"
        class="btn btn-plain px-1 py-0"
        :disabled="rack.strands.length === 1"
        :aria-label="`Remove ${s.name}`"
        @click="edit(`Remove ${s.name}`, removeStrand(...ids, s.id))"
      >
        <Trash2 :size="13" aria-hidden="true" />
      </button>
    </div>
    <fieldset v-if="rack.strands.length > 1" class="mt-2 flex items-end gap-3">
      <legend class="text-note font-semibold">
        Blend of {{ rack.strands[0].name }} and {{ rack.strands[1].name }}
      </legend>
      <select
        class="field h-[24px] py-0 text-body"
        aria-label="How the two are blended"
        :value="rack.blend.mode"
        @change="setMode"
      >
        <option value="off">by their levels only</option>
        <option value="power">equal power</option>
        <option value="linear">linear</option>
      </select>
      <ValueField
        v-if="rack.blend.mode !== 'off'"
        class="w-[190px]"
        :spec="BLEND_SPEC"
        :value="rack.blend.position"
        :label="`${rack.strands[0].name} to ${rack.strands[1].name}`"
        name="Blend"
        :mark="mark(rack.id, 'blend')"
        @change="(v, sliding) => blend({ position: v as number }, sliding ? 'blend' : undefined)"
      />
    </fieldset>
    <p class="mt-2 text-note text-soft">
      Devices go into a strand on the line above: drag them there, or use the + at its end. All strands are
      lined up in time, whatever is in them.
    </p>
  </div>
</template>
