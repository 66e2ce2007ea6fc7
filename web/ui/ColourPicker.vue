<script setup lang="ts">
/** One of the twelve colours, each with its name. */
import { useId } from 'vue';
import { COLOURS, colourOf } from '../../core/index.ts';
import { useUi } from './window.ts';

const colour = defineModel<string>({ required: true });
const ui = useUi();
const id = useId();
</script>

<template>
  <fieldset class="flex flex-wrap items-center gap-1">
    <legend class="label float-left mr-2">Colour</legend>
    <label
      v-for="c in COLOURS"
      :key="c.id"
      class="relative grid h-7 w-7 place-items-center rounded border focus-within:outline focus-within:outline-2 focus-within:outline-rope"
      :class="colour === c.id ? 'border-ink' : 'border-transparent'"
      :title="c.label"
      ><input
        v-model="colour"
        type="radio"
        class="absolute inset-0 h-full w-full cursor-pointer opacity-0"
        :name="id"
        :value="c.id" /><span class="sr-only">{{ c.label }}</span
      ><span class="h-5 w-5 rounded-sm" :style="{ background: ui.swatch(c.id) }" aria-hidden="true"
    /></label>
    <span class="ml-1 text-note text-soft">{{ colourOf(colour).label }}</span>
  </fieldset>
</template>
