<script setup lang="ts">
/**
 * The look before a drop: what is added, what each loose end is tied to and why, what is adapted, what is
 * renamed. Nothing happens until Drop.
 */
import { HelpMark } from '../guide/index.ts';
import { computed } from 'vue';
import { MIN_LEVEL, PARTS, isPiece, togglePart, type Parts, type Track } from '../../../core/index.ts';
import { useDrop } from './store.ts';
import { useSession } from '../../document/doc.ts';
import Sheet from '../../ui/Sheet.vue';
import TermNote from '../../ui/TermNote.vue';
import { FlowPicture } from '../picture/index.ts';
import DropChanges from './DropChanges.vue';
import DropListen from './DropListen.vue';
import DropTies from './DropTies.vue';

const drop = useDrop();
const session = useSession();
const plan = computed(() => drop.plan!);
const preset = computed(() => drop.preset!);
const onto = computed(() =>
  drop.place.kind === 'onto'
    ? session.doc!.tracks.find((t) => t.id === (drop.place as { track: string }).track)
    : null,
);
const has = computed(
  () =>
    new Set([...preset.value.content.parts, ...Object.values(preset.value.content.trackParts ?? {}).flat()]),
);
// an input, a folder and sounds belong to lines of their own
const offered = computed(() =>
  PARTS.filter((p) => has.value.has(p.id) && (!onto.value || !['input', 'folder', 'clips'].includes(p.id))),
);
const devices = (t: Track) => `with ${t.chain.length} ${t.chain.length === 1 ? 'device' : 'devices'}`;
const adds = computed(() => [
  ...plan.value.tracks.map((t) => `a line “${t.name}” ${devices(t)}`),
  ...plan.value.spares.map((t) => `a ${t.role} “${t.name}”${t.chain.length ? ` ${devices(t)}` : ', empty'}`),
]);
/** The parts that go onto a line, in words. */
const partsText = computed(() => {
  const labels = plan.value.parts.map((id) => PARTS.find((p) => p.id === id)!.label.toLowerCase());
  return `to ${many.value > 1 ? `${many.value} lines` : `“${onto.value?.name}”`}: ${labels.join(', ') || 'nothing'}`;
});
const many = computed(() => 1 + drop.also.filter((id) => id !== onto.value?.id).length);
const chosen = computed(() => session.together);
const undecided = computed(
  () =>
    plan.value.ends.filter((e) => e.chosen === 'open').length +
    plan.value.ports.filter((p) => p.chosen === null).length,
);
const part = (id: Parts[number]) => {
  drop.parts = togglePart(plan.value.parts, id);
};
const target = computed({
  get: () => {
    if (drop.place.kind !== 'onto') return '';
    if (drop.also.length) return '*';
    return drop.place.track;
  },
  set: (id: string) => {
    drop.parts = null;
    drop.also = id === '*' ? chosen.value : [];
    const track = id === '*' ? chosen.value[0] : id;
    drop.place = track ? { kind: 'onto', track, chain: 'replace' } : { kind: 'new' };
  },
});
const chainMode = computed({
  get: () => (drop.place.kind === 'onto' ? drop.place.chain : 'replace'),
  set: (chain: 'replace' | 'append' | 'before' | 'at') => {
    if (drop.place.kind === 'onto') drop.place = { ...drop.place, chain };
  },
});
/** Whether there are sends that would be heard at once. */
const hasSends = computed(
  () =>
    plan.value.parts.includes('sends') &&
    preset.value.content.tracks.some((t) => t.sends.some((s) => s.level > MIN_LEVEL)),
);
const title = computed(() =>
  drop.borrowed
    ? `Borrow ${preset.value.name}`
    : `Drop “${preset.value.name}”, version ${preset.value.version}`,
);
const openText = computed(() => {
  const count = undecided.value;
  return `${count === 1 ? 'One loose end is' : `${count} loose ends are`} left open; it can be tied later.`;
});
</script>

<template>
  <Sheet v-if="drop.preset && drop.plan" :title="title" :width="900" @close="drop.cancel()">
    <div class="flex flex-col gap-3 text-body">
      <FlowPicture :content="preset.content" :tempo="session.doc!.tempo" :piece="isPiece(preset.kind)" />
      <div class="flex flex-wrap items-center gap-x-4 gap-y-1">
        <label class="flex items-center gap-2"
          ><span class="font-semibold">Where</span>
          <select v-model="target" class="field max-w-[240px] py-0.5" aria-label="Where to drop">
            <option value="">
              {{ preset.content.tracks.length > 1 ? 'As new lines' : 'As a new line' }}
            </option>
            <option v-if="chosen.length > 1 && preset.content.tracks.length === 1" value="*">
              Onto the {{ chosen.length }} chosen lines
            </option>
            <template v-if="preset.content.tracks.length === 1"
              ><option v-for="t in session.doc!.tracks" :key="t.id" :value="t.id">
                Onto {{ t.name }}
              </option></template
            >
          </select></label
        >
        <label v-if="onto && plan.parts.includes('chain')" class="flex items-center gap-2"
          ><span>Chain</span>
          <select v-model="chainMode" class="field py-0.5" aria-label="How the chain goes in">
            <option value="replace">
              replaces {{ many > 1 ? 'their devices' : `its ${onto.chain.length} devices` }}
            </option>
            <option value="append">after its devices</option>
            <option value="before">before its devices</option>
            <option v-if="chainMode === 'at'" value="at">at the chosen spot</option>
          </select></label
        >
        <HelpMark class="ml-auto" about="Drop" />
      </div>
      <DropListen v-if="onto && many === 1 && plan.parts.includes('chain')" :line="onto" />
      <fieldset class="flex flex-wrap items-center gap-x-3 gap-y-1">
        <legend class="float-left mr-3 font-semibold">Parts</legend>
        <label v-for="p in offered" :key="p.id" class="flex items-center gap-1" :title="p.help"
          ><input
            type="checkbox"
            class="accent-[var(--rope)]"
            :checked="plan.parts.includes(p.id)"
            @change="part(p.id)"
          />
          {{ p.label }}</label
        >
        <label v-if="hasSends" class="flex items-center gap-1 border-l border-rule pl-3"
          ><input v-model="drop.silentSends" type="checkbox" class="accent-[var(--rope)]" /> Sends start at
          −∞</label
        >
      </fieldset>

      <section aria-label="Added">
        <h3 class="font-semibold">Added</h3>
        <ul class="list-disc pl-5" :class="{ 'columns-2': adds.length > 6 }">
          <li v-for="a in adds" :key="a">{{ a }}</li>
          <li v-if="onto">{{ partsText }}</li>
        </ul>
        <TermNote v-if="plan.spares.length" word="spare" />
      </section>

      <DropTies :plan="plan" :preset="preset" />
      <DropChanges :plan="plan" />
      <section v-if="preset.note" aria-label="Note">
        <h3 class="font-semibold">What to touch first</h3>
        <p>{{ preset.note }}</p>
      </section>
      <p
        v-for="p in plan.problems"
        :key="p.message"
        role="alert"
        class="rounded border border-bad px-2 py-1 text-bad"
      >
        {{ p.message }}
      </p>
    </div>
    <template #actions>
      <span v-if="undecided" class="mr-auto text-body text-warn">{{ openText }}</span>
      <button type="button" class="btn" @click="drop.cancel()">Cancel</button>
      <button
        type="button"
        class="btn btn-main"
        :disabled="plan.problems.length > 0 || plan.parts.length === 0"
        @click="drop.apply()"
      >
        Drop
      </button>
    </template>
  </Sheet>
</template>
