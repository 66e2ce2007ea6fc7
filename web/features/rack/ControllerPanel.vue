<script setup lang="ts">
/**
 * A simulated controller: eight knobs that send controller numbers, as a hardware one would. Stays open
 * beside the work.
 */
import { X } from '@lucide/vue';
import { computed } from 'vue';
import { controllerName, racksIn } from '../../../core/index.ts';
import { useSession } from '../../document/doc.ts';
import { useUi } from '../../ui/window.ts';
import HoldButton from './HoldButton.vue';
import { useRackView } from './view.ts';
import {
  buttons,
  connect,
  controllerMoved,
  controllerNumber,
  knobs,
  learning,
  pickUp,
  ports,
} from './controller.ts';

const ui = useUi();
const view = useRackView();
const session = useSession();
/** names of the handles that each number moves */
const moves = computed(() => {
  const out = new Map<number, string[]>();
  for (const t of session.doc?.tracks ?? []) {
    for (const r of racksIn(t.chain)) {
      for (const h of r.handles) {
        if (h.cc !== null) out.set(h.cc, [...(out.get(h.cc) ?? []), `${h.name} (${t.name})`]);
      }
    }
  }
  return out;
});
function renumber(control: { cc: number }, el: HTMLInputElement) {
  const n = controllerNumber(el.value);
  if (n === null) el.value = String(control.cc);
  else control.cc = n;
}
/** A button sends 127 when it goes down, and 0 when it comes up. */
function press(i: number, isDown: boolean) {
  const button = buttons.value[i];
  if (button.isDown === isDown) return;
  button.isDown = isDown;
  controllerMoved(button.cc, isDown ? 127 : 0);
}
function send(i: number, v: number) {
  knobs.value[i].value = v;
  controllerMoved(knobs.value[i].cc, v);
}
</script>

<template>
  <section
    :style="{ bottom: (session.track ? ui.panelHeight : 4) + 40 + 'px' }"
    class="fixed right-3 z-30 w-[540px] rounded-lg border border-edge bg-sheet p-2"
    aria-label="Simulated controller"
  >
    <header class="mb-1 flex items-center gap-2 text-note">
      <h2 class="font-semibold">Simulated controller</h2>
      <span v-if="learning" class="text-warn" role="status">Move the knob that is to move the handle.</span
      ><span v-else class="text-soft">{{ ports.length ? `also listening to ${ports.join(', ')}` : '' }}</span
      ><span class="flex-1" />
      <button type="button" class="btn px-1.5 py-0 text-note" @click="connect">Use a connected one</button>
      <button
        type="button"
        class="btn btn-plain px-1 py-0"
        aria-label="Close the controller"
        @click="view.controller = false"
      >
        <X :size="14" aria-hidden="true" />
      </button>
    </header>
    <div class="grid grid-cols-4 gap-x-4 gap-y-1">
      <div v-for="(k, i) in knobs" :key="i" class="min-w-0 text-note">
        <div class="flex items-center gap-1">
          <span class="text-soft">CC</span
          ><input
            class="field h-[24px] w-[40px] px-1 py-0 text-note"
            :value="k.cc"
            inputmode="numeric"
            :aria-label="`Number of knob ${i + 1}`"
            @change="renumber(k, $event.target as HTMLInputElement)"
            @keydown.enter="($event.target as HTMLInputElement).blur()"
          /><span class="flex-1 text-right">{{ k.value }}</span>
        </div>
        <input
          type="range"
          class="thread w-full"
          min="0"
          max="127"
          :value="k.value"
          :style="{ '--fill': (k.value / 127) * 100 + '%', height: '24px' }"
          :aria-label="`Knob ${i + 1}, ${controllerName(k.cc)}`"
          @input="send(i, Number(($event.target as HTMLInputElement).value))"
        />
        <p class="truncate text-fine text-soft" :title="moves.get(k.cc)?.join(', ')">
          {{ moves.get(k.cc)?.join(', ') ?? 'moves nothing' }}
        </p>
      </div>
    </div>
    <div class="mt-1 grid grid-cols-4 gap-x-4 border-t border-rule pt-1">
      <div v-for="(b, i) in buttons" :key="i" class="min-w-0 text-note">
        <div class="flex items-center gap-1">
          <span class="text-soft">CC</span
          ><input
            class="field h-[24px] w-[40px] px-1 py-0 text-note"
            :value="b.cc"
            inputmode="numeric"
            :aria-label="`Number of button ${i + 1}`"
            @change="renumber(b, $event.target as HTMLInputElement)"
            @keydown.enter="($event.target as HTMLInputElement).blur()"
          /><HoldButton
            class="flex-1 px-1"
            :is-down="b.isDown"
            :aria-label="`press button ${i + 1}, ${controllerName(b.cc)}`"
            @hold="(isDown) => press(i, isDown)"
            >press</HoldButton
          >
        </div>
        <p class="truncate text-fine text-soft" :title="moves.get(b.cc)?.join(', ')">
          {{ moves.get(b.cc)?.join(', ') ?? 'moves nothing' }}
        </p>
      </div>
    </div>
    <label class="mt-1 flex items-center gap-1.5 border-t border-rule pt-1 text-note"
      >A knob that stands elsewhere than its handle
      <select v-model="pickUp" class="field h-[24px] py-0 text-note" aria-label="Pick-up">
        <option value="jump">takes it at once</option>
        <option value="pass">takes it when it passes it</option>
        <option value="scale">moves it along in proportion</option>
      </select></label
    >
  </section>
</template>
