<script setup lang="ts">
/** The first stop of the Tab key on every screen: straight to one of its parts. Seen only while it has the focus. */
import { nextTick, ref } from 'vue';
import { goTo, panels, type Panel } from '../ui/panels.ts';
import { vOneStop } from '../ui/one-stop.ts';

const shown = ref<Panel[]>([]);
const START = { name: 'main part', el: document.body };
/** What there is to skip to is looked for when somebody comes by. */
function look() {
  shown.value = panels().filter((panel) => panel.name !== 'head');
}
function skip(panel: Panel | undefined) {
  void nextTick(() => {
    if (panel) goTo(panel);
  });
}
</script>

<template>
  <nav
    v-one-stop
    class="skip no-print fixed left-2 top-1 z-[80] flex gap-1 rounded border border-edge bg-sheet p-1"
    aria-label="Skip to"
    @focusin="look"
  >
    <button
      v-for="(panel, i) in shown.length ? shown : [START]"
      :key="i"
      type="button"
      class="btn px-2 py-0.5"
      @click="skip(panel)"
    >
      Skip to the {{ panel.name }}
    </button>
  </nav>
</template>

<style scoped>
.skip:not(:focus-within) {
  clip-path: inset(50%);
  height: 1px;
  overflow: hidden;
  width: 1px;
}
</style>
