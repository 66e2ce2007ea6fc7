<script setup lang="ts">
/** The intact report: every value of the preset against the session, and the null test. */
import { CircleCheck, TriangleAlert } from '@lucide/vue';
import { computed, ref } from 'vue';
import GlanceLines from './GlanceLines.vue';
import NullPlot from './NullPlot.vue';
import NullProgress from './NullProgress.vue';
import { useDrop } from './store.ts';
import { VERDICTS } from './words.ts';
import { useSession } from '../../document/doc.ts';
import VirtualRows from '../../ui/VirtualRows.vue';
import Sheet from '../../ui/Sheet.vue';

const drop = useDrop();
const session = useSession();
const f = computed(() => drop.finished!);
const all = ref(false);
// what was kept on purpose is intact and worth a line
const rows = computed(() =>
  f.value.report.rows.filter((r) => all.value || r.verdict !== 'intact' || r.reason),
);
const counts = computed(() => f.value.report.counts);
const sumText = computed(() => {
  const said = (['tied', 'adapted', 'left out'] as const)
    .filter((verdict) => counts.value[verdict])
    .map((verdict) => `, ${counts.value[verdict]} ${verdict}`);
  const lost = counts.value.unexplained;
  const end = lost === 0 ? 'nothing lost' : `${lost} not explained`;
  return `${counts.value.intact} of ${f.value.report.total} values intact${said.join('')}, ${end}.`;
});
const canUndo = computed(
  () =>
    /^Drop /.test(session.undoStack.at(-1)?.label ?? '') &&
    session.undoStack.at(-1)?.after === f.value.session,
);
function undo() {
  session.undo();
  drop.showReport = false;
}
const nullText = computed(() => {
  const n = f.value.nulls;
  if (!n) return '';
  const scope = n.compared ? `Compared: ${n.compared.join(', ')}${withoutText(n.without)}.` : '';
  if (n.residual === -Infinity) {
    return `Null test: −∞ dB. It sounds here exactly as in the preset alone, sample for sample. ${scope}`;
  }
  const where = n.residual <= 0 ? 'under' : 'over';
  const distance = `${Math.abs(n.residual).toFixed(1)} dB ${where} the sound`;
  return `Null test: the difference lies ${distance}. ${causesText(n.causes)} ${scope}`;
});
const withoutText = (what: readonly string[] | undefined) =>
  what?.length ? `; without ${what.join(' and ')}` : '';
/** The first few of what makes the difference, by name. */
function causesText(causes: string[] | undefined): string {
  if (!causes?.length) return 'Nothing in the report explains it: something on the line sounds otherwise.';
  const more = causes.length - CAUSES;
  const rest = more > 0 ? `; and ${more} more` : '';
  return `It comes from ${causes.slice(0, CAUSES).join('; ')}${rest}.`;
}
const CAUSES = 4;
</script>

<template>
  <Sheet
    v-if="drop.showReport && drop.finished"
    :title="`Intact report: “${f.preset.name}”, version ${f.preset.version}`"
    :width="820"
    steady
    @close="drop.showReport = false"
  >
    <div class="flex flex-col gap-3 text-body">
      <label v-if="drop.results.length > 1" class="flex items-center gap-2"
        >Report of
        <select v-model.number="drop.shown" class="field py-0.5" aria-label="Report of">
          <option v-for="(r, i) in drop.results" :key="r.plan.drop" :value="i">
            {{ r.preset.name }}{{ r.plan.target ? ` on ${r.plan.target.name}` : '' }}:
            {{ r.report.intact ? 'intact' : 'look here' }}
          </option>
        </select></label
      >
      <p
        class="flex items-center gap-2 text-head font-semibold"
        :class="f.report.intact ? 'text-good' : 'text-bad'"
        role="status"
      >
        <CircleCheck v-if="f.report.intact" :size="20" aria-hidden="true" /><TriangleAlert
          v-else
          :size="20"
          aria-hidden="true"
        />
        {{ sumText }}
      </p>
      <p v-if="f.preset.note"><strong>What to touch first:</strong> {{ f.preset.note }}</p>
      <NullProgress v-if="f.isProving" :of="f.plan.drop" />
      <div aria-live="polite">
        <template v-if="!f.isProving">
          <p v-if="f.error" class="text-bad">Null test: {{ f.error }}</p>
          <p v-else-if="f.nulls">{{ nullText }}</p>
          <p v-else class="text-soft">No null test was kept with this report.</p>
        </template>
      </div>
      <NullPlot v-if="f.nulls?.picture" :picture="f.nulls.picture" :seconds="f.nulls.seconds" />
      <GlanceLines :rows="f.report.rows" />
      <table class="w-full">
        <thead>
          <tr class="text-left text-soft">
            <th class="py-1 font-normal">Value</th>
            <th class="font-normal">In the preset</th>
            <th class="font-normal">In the session</th>
            <th class="font-normal">Verdict</th>
          </tr>
        </thead>
        <VirtualRows
          as="tbody"
          :items="rows"
          :key-of="(r) => r.path"
          :estimate="28"
          row-class="border-t border-rule align-top"
        >
          <template #default="{ item: r }">
            <td class="py-1 pr-2">{{ r.label }}</td>
            <td class="py-1 pr-2">{{ r.wanted }}</td>
            <td class="py-1 pr-2">{{ r.found }}</td>
            <td class="py-1" :class="r.verdict === 'unexplained' ? 'text-bad font-semibold' : ''">
              {{ r.verdict === 'intact' ? 'intact' : VERDICTS[r.verdict]
              }}<span v-if="r.reason" class="text-soft">: {{ r.reason }}</span>
            </td>
          </template>
          <template #after>
            <tr v-if="!rows.length">
              <td colspan="4" class="border-t border-rule py-1 text-soft">Every value is as it was saved.</td>
            </tr>
          </template>
        </VirtualRows>
      </table>
    </div>
    <template #actions>
      <label class="mr-auto flex items-center gap-2 text-body"
        ><input v-model="all" type="checkbox" class="accent-[var(--rope)]" /> Show all
        {{ f.report.total }} values</label
      >
      <button v-if="canUndo" type="button" class="btn" @click="undo">Undo the drop</button>
      <button type="button" class="btn btn-main" @click="drop.showReport = false">Done</button>
    </template>
  </Sheet>
</template>
