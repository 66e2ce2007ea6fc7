<script setup lang="ts">
/**
 * The patch list of a session: moves in order and panels to set, each ticked off by hand; readable while standing, and
 * printed with one sheet of paper for each unit.
 */
import { ArrowLeft, Printer } from '@lucide/vue';
import { computed } from 'vue';
import { useRoute } from 'vue-router';
import { useSession } from '../../document/doc.ts';
import { useSheets } from '../../ui/sheets.ts';
import { useOpened } from '../transport/index.ts';
import EmptyNote from '../../ui/EmptyNote.vue';
import AfterPatch from './AfterPatch.vue';
import { usePatching, type PanelRow } from './patching.ts';

const route = useRoute();
const session = useSession();
const sheets = useSheets();
const { failed } = useOpened();
const { studio, plan, moves, panels, problems, stands, done, turn, plugged } = usePatching();
const home = computed(() => `/session/${route.params.id as string}`);
const left = computed(() => moves.value.filter((m) => !done(m.tick)).length);
const leftOf = (p: PanelRow) => p.controls.filter((c) => !done(c.tick)).length;
const print = () => window.print();
const EMPTY =
  'No line leaves the computer. An Outboard loop leads its line through units; what has to be plugged stands here then.';
</script>

<template>
  <main class="patch-list min-h-0 flex-1 overflow-auto">
    <p v-if="failed" class="p-8 text-center" role="alert">{{ failed }}</p>
    <div v-else-if="session.doc" class="mx-auto max-w-[980px] p-5">
      <div class="mb-4 flex flex-wrap items-center gap-2">
        <RouterLink :to="home" class="btn btn-plain no-print px-1.5" aria-label="Back to the lines"
          ><ArrowLeft :size="16" aria-hidden="true"
        /></RouterLink>
        <h1 class="text-title font-semibold">
          Patch list of {{ session.doc.name }}<template v-if="studio">, {{ studio.name }}</template>
        </h1>
        <span class="flex-1" />
        <button type="button" class="btn no-print" @click="sheets.open('ports', {})">
          Studio of this session …
        </button>
        <button v-if="studio" type="button" class="btn no-print" @click="print">
          <Printer :size="15" aria-hidden="true" /> Print
        </button>
      </div>
      <p v-if="!studio" class="rounded border border-dashed border-edge p-8 text-center text-soft">
        This session is in no studio yet. Choose one under “Studio of this session”, and its loops are planned
        here.
      </p>
      <template v-else>
        <section aria-label="Moves">
          <h2 class="mb-2 text-lead font-semibold">
            {{ moves.length ? `${left} of ${moves.length} moves to make` : 'Nothing to plug' }}
          </h2>
          <p v-if="!moves.length && stands.length" class="text-soft">
            Everything that the session needs is patched already.
          </p>
          <EmptyNote v-else-if="!moves.length" :text="EMPTY">
            <RouterLink :to="home" class="btn">To the lines</RouterLink>
          </EmptyNote>
          <ol class="flex flex-col">
            <li v-for="(m, i) in moves" :key="m.tick" class="border-t border-rule py-2">
              <label
                class="flex items-baseline gap-3 text-lead"
                :class="{ 'text-soft line-through': done(m.tick) }"
                ><input
                  type="checkbox"
                  class="h-5 w-5 accent-[var(--rope)]"
                  :checked="done(m.tick)"
                  @change="turn([m.tick], !done(m.tick))"
                /><span class="w-7 text-soft">{{ i + 1 }}</span
                ><strong>{{ m.text }}</strong></label
              >
            </li>
          </ol>
          <p v-for="c in plan?.conflicts ?? []" :key="c.message" role="alert" class="mt-2 text-bad">
            {{ c.message }}
          </p>
          <p v-for="p in problems" :key="p" class="mt-2 text-warn">{{ p }}</p>
          <button
            v-if="moves.length"
            type="button"
            class="btn btn-main no-print mt-3"
            :disabled="left > 0"
            @click="plugged"
          >
            All of it is plugged
          </button>
          <span v-if="moves.length && left" class="no-print ml-3 text-soft">Tick every move first.</span>
          <ul v-if="stands.length" class="mt-3 text-body">
            <li v-for="s in stands" :key="s.from + s.to">
              <span :class="s.stands ? 'text-good' : 'text-warn'">{{
                s.stands ? '✓ stands' : '○ not yet'
              }}</span>
              {{ s.label }}
            </li>
          </ul>
        </section>
        <section
          v-for="p in panels"
          :key="p.key"
          class="sheet-of-paper mt-6"
          :aria-label="`Panel of ${p.unit.name}`"
        >
          <div class="mb-1 flex flex-wrap items-baseline gap-3">
            <h2 class="text-lead font-semibold">{{ p.unit.name }}</h2>
            <span class="text-soft">{{ p.unit.family }} · {{ p.where }}</span>
            <span class="flex-1" />
            <span role="status">{{
              leftOf(p) ? `${leftOf(p)} of ${p.controls.length} to set` : 'all set'
            }}</span>
            <button
              v-if="leftOf(p)"
              type="button"
              class="btn no-print px-2 py-0.5"
              @click="
                turn(
                  p.controls.map((c) => c.tick),
                  true,
                )
              "
            >
              All of {{ p.unit.name }} is set
            </button>
          </div>
          <ul class="grid grid-cols-2 gap-x-8 md:grid-cols-3">
            <li v-for="c in p.controls" :key="c.control.id" class="border-t border-rule py-1.5">
              <label class="flex items-baseline gap-3 text-lead" :class="{ 'text-soft': done(c.tick) }"
                ><input
                  type="checkbox"
                  class="h-5 w-5 accent-[var(--rope)]"
                  :checked="done(c.tick)"
                  :aria-label="`${p.unit.name} ${c.control.label} at ${c.text}`"
                  @change="turn([c.tick], !done(c.tick))"
                /><span class="flex-1">{{ c.control.label }}</span
                ><strong class="tabular-nums">{{ c.text }}</strong></label
              >
            </li>
          </ul>
        </section>
        <AfterPatch />
      </template>
    </div>
  </main>
</template>
