<script setup lang="ts">
/**
 * The parts of a parts player as a list: sound, port, channel, width, colour, first insert; a second player
 * comes by itself when there are more than sixteen.
 */
import { Plus, Trash2 } from '@lucide/vue';
import { computed, ref } from 'vue';
import { ADDABLE, planPlayer, playerRows, type Id, type PlayerRow } from '../../../core/index.ts';
import { TONES } from '../../../core/devices/tones.ts';
import { useKit } from './store.ts';
import { useSession } from '../../document/doc.ts';
import { useUi } from '../../ui/window.ts';
import Sheet from '../../ui/Sheet.vue';
import ColourMenu from '../../ui/ColourMenu.vue';

const props = defineProps<{ tracks: Id[] }>();
const emit = defineEmits<{ close: [] }>();
const session = useSession();
const kit = useKit();
const ui = useUi();
const fresh = (name: string, sound: string): PlayerRow => ({
  name,
  sound,
  port: '',
  channel: 0,
  width: 2,
  colour: 'heather',
  insert: '',
});
const start = playerRows(session.doc!, props.tracks);
const rows = ref<PlayerRow[]>(start.length ? start : [fresh('Strings', 'strings'), fresh('Horns', 'horns')]);
const midi = ref(!props.tracks.length);
const name = ref(session.doc!.tracks.find((t) => t.id === props.tracks[0])?.name ?? 'Parts player');
const plan = computed(() =>
  planPlayer(session.doc!, rows.value, {
    name: name.value.trim() || 'Parts player',
    midi: midi.value,
    at: props.tracks,
  }),
);
const given = (i: number) => plan.value.rows[i];
const inserts = ADDABLE.filter((d) => !d.instrument && !d.pattern);
const add = () => {
  const used = rows.value.length;
  rows.value.push(fresh(`Part ${used + 1}`, TONES[used % TONES.length].id));
};
function apply() {
  if (kit.layOutPlayer(plan.value)) {
    ui.say(
      `${rows.value.length} parts on ${plan.value.players.length === 1 ? 'one player' : `${plan.value.players.length} players`}.`,
      'done',
      [session.undoing()],
    );
    emit('close');
  }
}
</script>

<template>
  <Sheet :title="tracks.length ? `Parts of “${name}”` : 'A parts player'" :width="960" @close="emit('close')">
    <div class="mb-2 flex flex-wrap items-center gap-x-5 gap-y-1 text-body">
      <label v-if="!tracks.length" class="flex items-center gap-2"
        >Name <input v-model="name" class="field w-[200px] py-0.5" aria-label="Name of the player" /></label
      ><label class="flex items-center gap-1.5"
        ><input v-model="midi" type="checkbox" class="accent-[var(--rope)]" /> A MIDI line for each
        part</label
      ><span class="flex-1" /><span class="text-soft">{{
        plan.players.map((p) => `${p.name}: port ${p.port}`).join(' · ')
      }}</span>
    </div>
    <table class="w-full text-body" aria-label="Parts">
      <thead>
        <tr class="text-left text-note text-soft">
          <th class="font-normal">Part</th>
          <th class="w-[150px] font-normal">Sound</th>
          <th class="w-[110px] font-normal">Channel</th>
          <th class="w-[130px] font-normal">Gets</th>
          <th class="w-[90px] font-normal">Width</th>
          <th class="w-[120px] font-normal">Colour</th>
          <th class="w-[150px] font-normal">Insert on its line</th>
          <th class="w-8" />
        </tr>
      </thead>
      <tbody>
        <template v-for="(r, i) in rows" :key="i">
          <tr v-if="i > 0 && i % 16 === 0">
            <td colspan="8" class="pt-2 text-note text-soft">
              More than sixteen parts: a further player on port {{ given(i)?.port ?? '?' }}
            </td>
          </tr>
          <tr class="border-t border-rule">
            <td class="pr-1">
              <input
                v-model="r.name"
                class="field w-full py-0.5"
                :aria-label="`Name of part ${i + 1}`"
                maxlength="80"
              />
            </td>
            <td class="pr-1">
              <select v-model="r.sound" class="field w-full py-0.5" :aria-label="`Sound of part ${i + 1}`">
                <option v-for="t in TONES" :key="t.id" :value="t.id">{{ t.label }}</option>
              </select>
            </td>
            <td class="pr-1">
              <select
                v-model.number="r.channel"
                class="field w-full py-0.5"
                :aria-label="`Channel of part ${i + 1}`"
              >
                <option :value="0">next free</option>
                <option v-for="n in 16" :key="n" :value="n">{{ n }}</option>
              </select>
            </td>
            <td class="tabular-nums" :class="{ 'text-warn': r.channel && given(i)?.channel !== r.channel }">
              {{ given(i) ? `port ${given(i).port}, channel ${given(i).channel}` : '—' }}
            </td>
            <td class="pr-1">
              <select
                v-model.number="r.width"
                class="field w-full py-0.5"
                :aria-label="`Width of part ${i + 1}`"
              >
                <option :value="1">mono</option>
                <option :value="2">stereo</option>
              </select>
            </td>
            <td class="pr-1">
              <ColourMenu v-model="r.colour" :label="`Colour of part ${i + 1}`" />
            </td>
            <td class="pr-1">
              <select v-model="r.insert" class="field w-full py-0.5" :aria-label="`Insert of part ${i + 1}`">
                <option value="">none</option>
                <option v-for="d in inserts" :key="d.type" :value="d.type">{{ d.label }}</option>
              </select>
            </td>
            <td>
              <button
                type="button"
                class="btn btn-plain px-1 py-0.5"
                :aria-label="`Remove part ${i + 1}`"
                :disabled="rows.length === 1"
                @click="rows.splice(i, 1)"
              >
                <Trash2 :size="14" aria-hidden="true" />
              </button>
            </td>
          </tr>
        </template>
      </tbody>
    </table>
    <button type="button" class="btn mt-2 px-2 py-0.5 text-body" @click="add">
      <Plus :size="14" aria-hidden="true" /> Add a part
    </button>
    <p
      v-for="p in plan.problems"
      :key="p"
      role="alert"
      class="mt-2 rounded border border-bad px-2 py-1 text-body text-bad"
    >
      {{ p }}
    </p>
    <template #actions
      ><button type="button" class="btn" @click="emit('close')">Cancel</button
      ><button type="button" class="btn btn-main" :disabled="plan.problems.length > 0" @click="apply">
        Lay it out
      </button></template
    >
  </Sheet>
</template>
