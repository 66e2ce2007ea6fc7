<script setup lang="ts">
/** The mix, and versions of it with other lines and levels. */
import { ref } from 'vue';
import { sources, type MixVersion, type PrintPlan, type Session } from '../../../core/index.ts';
import { chosenIn } from '../../ui/events.ts';
import LinesOf from './LinesOf.vue';
import RemoveButton from '../../ui/RemoveButton.vue';

const props = defineProps<{ session: Session; plan: PrintPlan }>();
const emit = defineEmits<{ change: [label: string, over: Partial<PrintPlan>] }>();
const choosing = ref<{ version: MixVersion; what: 'muted' | 'raised' } | null>(null);
const by = ref(1);
const nameOf = (id: string) => props.session.tracks.find((t) => t.id === id)?.name ?? 'a line that is gone';
const put = (label: string, version: MixVersion) =>
  emit('change', label, {
    versions: props.plan.versions.map((v) => (v.id === version.id ? version : v)),
  });
function add() {
  const numbers = props.plan.versions.map((v) => Number(v.id.replace(/\D+/g, '')) || 0);
  const id = `version-${Math.max(0, ...numbers) + 1}`;
  const version = { id, name: `Version ${props.plan.versions.length + 2}`, muted: [], levels: {} };
  emit('change', 'Add a version of the mix', { versions: [...props.plan.versions, version] });
}
const remove = (version: MixVersion) =>
  emit('change', `Without ${version.name}`, {
    versions: props.plan.versions.filter((v) => v.id !== version.id),
  });
const raisedText = (v: MixVersion) =>
  Object.entries(v.levels)
    .map(([id, db]) => `${nameOf(id)} ${db > 0 ? '+' : '−'}${Math.abs(db)} dB`)
    .join(', ');
function keep(lines: string[]) {
  const { version, what } = choosing.value!;
  choosing.value = null;
  if (what === 'muted') put('What a version leaves out', { ...version, muted: lines });
  else {
    const levels = Object.fromEntries(lines.map((id) => [id, version.levels[id] ?? by.value]));
    put('Levels of a version', { ...version, levels });
  }
}
</script>

<template>
  <section aria-label="The mix and its versions">
    <h2 class="mb-1 text-lead font-semibold">The mix and its versions</h2>
    <label class="flex items-center gap-2"
      ><input
        type="checkbox"
        class="accent-[var(--rope)]"
        :checked="plan.mix"
        @change="emit('change', plan.mix ? 'Without the mix' : 'With the mix', { mix: !plan.mix })"
      />The mix</label
    >
    <div
      v-for="v in plan.versions"
      :key="v.id"
      class="flex flex-wrap items-center gap-2 border-t border-rule py-1"
    >
      <input
        class="field w-[150px] py-0.5"
        maxlength="200"
        :value="v.name"
        :aria-label="`Name of the version ${v.name}`"
        @change="put('Rename a version', { ...v, name: chosenIn($event).trim() || v.name })"
      />
      <button
        type="button"
        class="btn px-2 py-0.5"
        :aria-label="`without ${v.muted.map(nameOf).join(', ') || 'nothing'}: ${v.name}`"
        @click="choosing = { version: v, what: 'muted' }"
      >
        without {{ v.muted.map(nameOf).join(', ') || 'nothing' }}
      </button>
      <button
        type="button"
        class="btn px-2 py-0.5"
        :aria-label="`${raisedText(v) || 'levels as they are'}: ${v.name}`"
        @click="choosing = { version: v, what: 'raised' }"
      >
        {{ raisedText(v) || 'levels as they are' }}
      </button>
      <label v-if="raisedText(v)" class="flex items-center gap-1 text-note text-soft"
        >by
        <select
          class="field py-0.5"
          :aria-label="`By how much levels of ${v.name} differ`"
          :value="Object.values(v.levels)[0] ?? by"
          @change="
            ((by = Number(chosenIn($event))),
            put('Levels of a version', {
              ...v,
              levels: Object.fromEntries(Object.keys(v.levels).map((id) => [id, by])),
            }))
          "
        >
          <option v-for="n in [-3, -2, -1, -0.5, 0.5, 1, 2, 3]" :key="n" :value="n">
            {{ n > 0 ? '+' : '−' }}{{ Math.abs(n) }} dB
          </option>
        </select></label
      >
      <span class="flex-1" />
      <RemoveButton :what="`the version ${v.name}`" @remove="remove(v)" />
    </div>
    <button type="button" class="btn mt-1 px-2 py-0.5 text-note" @click="add">Add a version</button>
    <LinesOf
      v-if="choosing"
      :title="
        choosing.what === 'muted'
          ? `${choosing.version.name} without`
          : `Other levels in ${choosing.version.name}`
      "
      :lines="sources(session)"
      :chosen="choosing.what === 'muted' ? choosing.version.muted : Object.keys(choosing.version.levels)"
      @close="choosing = null"
      @keep="keep"
    />
  </section>
</template>
