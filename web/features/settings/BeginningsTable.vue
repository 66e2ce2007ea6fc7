<script setup lang="ts">
/** What every new device, rack, line and session begins with. */
import { onMounted } from 'vue';
import { chosenIn } from '../../ui/events.ts';
import { GROUPS, ownValues, useBeginnings, type Beginning } from './beginnings.ts';

const { load, isLoaded, offered, choose, defaults } = useBeginnings();
onMounted(load);

const valuesOf = (b: Beginning): string[] =>
  b.type ? ownValues(b.type, defaults.all[b.name]?.params ?? {}) : [];
const emptyText = (b: Beginning) => (b.type ? 'as it came' : 'empty');
/** A preset that is not on the list any more is still what it begins with. */
const isElsewhere = (b: Beginning) => {
  const preset = defaults.presetOf(b.name);
  return !!preset && !offered(b).some((p) => p.id === preset);
};
function valueOf(b: Beginning): string {
  if (!defaults.has(b.name)) return '';
  return b.type ? 'own' : (defaults.presetOf(b.name) ?? '');
}
const pick = (b: Beginning, e: Event) => {
  const chosen = chosenIn(e);
  if (chosen !== 'own') void choose(b, chosen);
};
</script>

<template>
  <section aria-labelledby="begins">
    <h2 id="begins" class="mb-1 font-semibold">What everything new begins with</h2>
    <p class="mb-2 text-note text-soft">
      For every session from now on; what is in sessions already stays as it is. A device’s own settings are
      also taken from its menu: <em>Begins with these settings</em>.
    </p>
    <div v-for="g in GROUPS" :key="g.title" class="mb-4">
      <h3 class="text-note font-semibold">{{ g.title }}</h3>
      <ul class="text-body">
        <li
          v-for="b in g.rows"
          :key="b.name"
          class="grid min-h-8 grid-cols-[150px_240px_minmax(0,1fr)] items-center gap-3 border-t border-rule py-0.5"
        >
          <label :for="`begins-${b.name}`">{{ b.label }}</label>
          <select
            :id="`begins-${b.name}`"
            class="field py-0"
            :value="valueOf(b)"
            :disabled="!isLoaded"
            @change="pick(b, $event)"
          >
            <option value="">{{ emptyText(b) }}</option>
            <option v-if="b.type && defaults.has(b.name)" value="own">settings of its own</option>
            <option v-if="isElsewhere(b)" :value="defaults.presetOf(b.name)">
              a preset that is not listed here
            </option>
            <option v-for="p in offered(b)" :key="p.id" :value="p.id">
              {{ p.name }}{{ p.category ? ` (${p.category.replace('/', ', ')})` : '' }}
            </option>
          </select>
          <span class="truncate text-note text-soft" :title="valuesOf(b).join(', ')">{{
            valuesOf(b).join(', ')
          }}</span>
        </li>
      </ul>
    </div>
  </section>
</template>
