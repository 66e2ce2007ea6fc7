<script setup lang="ts">
/** How this browser shows and does things. */
import { useUi } from '../../ui/window.ts';
import { useFitView } from '../fit/index.ts';
import { pickUp } from '../rack/index.ts';

const ui = useUi();
const fit = useFitView();
</script>

<template>
  <section aria-labelledby="ways">
    <h2 id="ways" class="mb-1 font-semibold">In this browser</h2>
    <div class="grid grid-cols-[150px_minmax(0,1fr)] items-center gap-x-3 gap-y-2 text-body">
      <span id="theme-is">Theme</span>
      <span class="flex gap-3" role="radiogroup" aria-labelledby="theme-is"
        ><label
          v-for="[id, label] in [
            ['day', 'Day'],
            ['night', 'Night'],
          ]"
          :key="id"
          class="flex items-center gap-1.5"
          ><input v-model="ui.theme" type="radio" name="theme" class="accent-[var(--rope)]" :value="id" />{{
            label
          }}</label
        ></span
      >
      <span>Fit</span>
      <label class="flex items-center gap-1.5"
        ><input v-model="fit.isOn" type="checkbox" class="accent-[var(--rope)]" /> What fits the line’s sound
        is ticked by itself in a drop</label
      >
      <label for="pick-up">Knobs of a controller</label>
      <select id="pick-up" v-model="pickUp" class="field">
        <option value="jump">take a handle at once</option>
        <option value="pass">take a handle when they pass it</option>
        <option value="scale">move a handle along in proportion</option>
      </select>
    </div>
  </section>
</template>
