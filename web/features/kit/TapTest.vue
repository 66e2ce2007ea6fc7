<script setup lang="ts">
/**
 * Every part struck alone: where it comes out, in dB, with the expected place marked and a verdict; each row
 * can be heard.
 */
import { Drum } from '@lucide/vue';
import { computed, ref, watch } from 'vue';
import { instrumentAt, tappable, type TapVerdict, type TapRow, type Id } from '../../../core/index.ts';
import { useKit } from './store.ts';
import { useSession } from '../../document/doc.ts';

const props = defineProps<{ start: string }>();
const session = useSession();
const kit = useKit();
const choices = computed(() => tappable(session.doc!));
const slot = ref(props.start || choices.value[0]?.slot || '');
watch(choices, (c) => {
  if (!c.some((x) => x.slot === slot.value)) slot.value = c[0]?.slot ?? '';
});
const result = computed(() => (kit.tap?.result.slot === slot.value ? kit.tap.result : null));
const stale = computed(() => !!kit.tap && kit.tap.session !== session.doc);
const WORDS: Record<TapVerdict, string> = {
  right: 'in its place',
  silent: 'silent',
  main: 'leaks to the main output',
  swapped: 'swapped',
  shifted: 'shifted by one',
  wrong: 'on the wrong line',
  doubled: 'on two lines',
  half: 'only one half',
  unnamed: 'on a line of another name',
  clips: 'clips',
  low: 'low',
};
const doubtful = (v: TapVerdict) => v === 'low' || v === 'unnamed';
const bad = (v: TapVerdict) => v !== 'right' && !doubtful(v);
const COLOURS = { bad: 'text-bad', doubtful: 'text-warn', right: 'text-soft' };
const MARKS = { bad: '✕', doubtful: '!', right: '✓' };
function kindOf(v: TapVerdict): keyof typeof MARKS {
  if (bad(v)) return 'bad';
  return doubtful(v) ? 'doubtful' : 'right';
}
const counts = computed(() => {
  const r = result.value?.rows ?? [];
  return {
    right: r.filter((x) => x.verdict === 'right').length,
    bad: r.filter((x) => bad(x.verdict)).length,
    low: r.filter((x) => x.verdict === 'low').length,
    unnamed: r.filter((x) => x.verdict === 'unnamed').length,
  };
});
const db = (v: number | undefined) => (v === undefined || v <= -80 ? '·' : v.toFixed(0).replace('-', '−'));
const shade = (v: number | undefined) => (v === undefined || v <= -80 ? 0 : Math.min(1, (v + 80) / 80));
const hear = (part: string) => {
  const p = instrumentAt(session.doc!, slot.value).parts.find((x) => x.id === part);
  if (p) kit.hit(slot.value, p.strike);
};
watch(
  () => props.start,
  (s) => {
    if (s && choices.value.some((c) => c.slot === s)) {
      slot.value = s;
      void kit.test(s);
    }
  },
  { immediate: true },
);
function cellText(r: TapRow, line: { id: Id; name: string }): string {
  const cell = r.cells[line.id];
  const expected = line.id === r.expected ? ', expected here' : '';
  return `${r.name} on ${line.name}: peak ${db(cell?.peak)} dBFS, RMS ${db(cell?.rms)}${expected}`;
}
</script>

<template>
  <section
    v-if="choices.length"
    class="mb-5 rounded border border-rule bg-sheet p-3 text-body"
    aria-label="Tap test"
  >
    <div class="flex flex-wrap items-center gap-3">
      <h2 class="text-head font-semibold">Tap test</h2>
      <select v-if="choices.length > 1" v-model="slot" class="field py-0.5" aria-label="Instrument to try">
        <option v-for="c in choices" :key="c.slot" :value="c.slot">{{ c.name }}</option></select
      ><span v-else class="text-soft">{{ choices[0].name }}</span>
      <button v-if="!kit.busy" type="button" class="btn px-2 py-0.5" @click="kit.test(slot)">
        <Drum :size="14" aria-hidden="true" />
        {{ result ? 'Hit every part again' : 'Hit every part' }}</button
      ><button v-else type="button" class="btn px-2 py-0.5" @click="kit.stop()">
        {{ kit.busy.what }} {{ Math.round(kit.busy.share * 100) }} %, stop
      </button>
      <span v-if="result" role="status" class="text-soft"
        >{{ counts.right }} right<template v-if="counts.low">, {{ counts.low }} low</template
        ><template v-if="counts.unnamed">, {{ counts.unnamed }} on lines of other names</template
        ><template v-if="counts.bad"
          >, <strong class="text-bad">{{ counts.bad }} wrong</strong></template
        >{{ stale ? '; the session changed since' : '' }}</span
      >
      <span v-else class="text-soft">Plays each part alone and measures where it comes out.</span>
    </div>
    <div v-if="result" class="mt-2 overflow-auto">
      <table class="text-note" aria-label="Where every part lands">
        <thead>
          <tr>
            <th class="sticky left-0 bg-sheet" />
            <th v-for="l in result.lines" :key="l.id" class="h-[164px] min-w-[30px] align-bottom font-normal">
              <span
                class="inline-block max-h-[160px] truncate [writing-mode:vertical-rl] rotate-180"
                :class="{ 'text-soft': l.bleed }"
                :title="`${l.name}, ${l.out}${l.bleed ? ', hears everything' : ''}`"
                >{{ l.name }} <span class="text-soft">{{ l.out }}</span></span
              >
            </th>
            <th class="align-bottom font-normal">
              <span class="inline-block [writing-mode:vertical-rl] rotate-180">Master</span>
            </th>
            <th class="pl-3 text-left align-bottom font-normal text-soft">Verdict</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="r in result.rows" :key="r.part" :aria-label="`${r.name}: ${WORDS[r.verdict]}`">
            <th class="sticky left-0 bg-sheet pr-2 text-left font-semibold whitespace-nowrap">
              <button
                type="button"
                class="flex min-h-6 items-center gap-1"
                :aria-label="`Hear ${r.name} ${r.out}`"
                @click="hear(r.part)"
              >
                <Drum :size="12" aria-hidden="true" /> {{ r.name }}
                <span class="font-normal text-soft">{{ r.out }}</span>
              </button>
            </th>
            <td
              v-for="l in result.lines"
              :key="l.id"
              class="border border-rule text-center tabular-nums"
              :class="[
                l.id === r.expected ? 'outline-2 -outline-offset-2 outline-rope' : '',
                l.id === r.landed && l.id !== r.expected ? 'font-bold text-bad' : '',
              ]"
              :style="{
                background:
                  l.bleed && l.id !== r.expected
                    ? 'transparent'
                    : `color-mix(in srgb, var(--rope) ${Math.round(shade(r.cells[l.id]?.peak) * 34)}%, transparent)`,
              }"
              :title="cellText(r, l)"
            >
              {{ db(r.cells[l.id]?.peak) }}
            </td>
            <td class="border border-rule text-center tabular-nums text-soft">
              {{ db(r.cells[result.master]?.peak) }}
            </td>
            <td class="pl-3 whitespace-nowrap" :class="COLOURS[kindOf(r.verdict)]">
              <strong>{{ MARKS[kindOf(r.verdict)] }} {{ WORDS[r.verdict] }}</strong
              >{{ r.text ? `: ${r.text}` : '' }}
            </td>
          </tr>
        </tbody>
      </table>
      <p class="mt-1 text-note text-soft">
        Peaks in dBFS at the input of each line, at the instrument’s own main output and at the master.
        Framed: where the part’s name says. Lines in pale letters hear all parts.
      </p>
    </div>
  </section>
</template>
