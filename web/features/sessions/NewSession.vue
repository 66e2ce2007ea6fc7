<script setup lang="ts">
/** A new session: empty, or from a starter, whose settings stand in the form and can be changed. */
import { computed, onMounted, reactive, ref, shallowRef } from 'vue';
import { useRouter } from 'vue-router';
import type { PresetEntry } from '../../../contract/index.ts';
import { api } from '../../api/index.ts';
import { chosenIn } from '../../ui/events.ts';
import Sheet from '../../ui/Sheet.vue';
import { useUi } from '../../ui/window.ts';
import { useDefaults } from '../defaults/index.ts';

const EMPTY = { tempo: 120, sampleRate: 48000, bitDepth: 24 as 16 | 24 | 32 };
/** presets of a kind in the list */
const OFFERED = 200;
const RATES = [44100, 48000, 88200, 96000];

const emit = defineEmits<{ close: [] }>();
const ui = useUi();
const router = useRouter();
const defaults = useDefaults();
const form = reactive({ name: '', ...EMPTY, preset: '' });
const starters = shallowRef<PresetEntry[]>([]);
const rigs = shallowRef<PresetEntry[]>([]);
const isStarter = computed(() => starters.value.some((s) => s.id === form.preset));
const error = ref('');
const isDefault = computed(() => defaults.presetOf('session:new') === form.preset);

onMounted(async () => {
  try {
    const [starting, several] = await Promise.all([
      api.presets({ kind: 'starter', limit: OFFERED }),
      api.presets({ kind: 'rig', limit: OFFERED }),
      defaults.load(),
    ]);
    starters.value = starting.items;
    rigs.value = several.items;
    const first = defaults.presetOf('session:new') ?? '';
    await beginWith(starting.items.some((s) => s.id === first) ? first : '');
  } catch (e) {
    error.value = (e as Error).message;
  }
});
async function beginWith(preset: string) {
  form.preset = preset;
  const chosen = preset ? (await api.preset(preset)).preset : null;
  // a rig says at least what it was saved at
  const { tempo, sampleRate, bitDepth } = { ...EMPTY, ...chosen?.reference, ...chosen?.content.session };
  Object.assign(form, { tempo, sampleRate, bitDepth });
}
const pick = (e: Event) => beginWith(chosenIn(e)).catch(ui.fail);
const starterText = (s: PresetEntry) =>
  `${s.name} (${[s.category.replace('/', ', '), `${s.summary.tracks} lines`].filter(Boolean).join(', ')})`;
function makeDefault() {
  const name = starters.value.find((s) => s.id === form.preset)?.name;
  void defaults.set('session:new', form.preset, `“${name}”`);
}

async function create() {
  error.value = '';
  const name = form.name.trim();
  if (!name) {
    error.value = 'Give the session a name.';
    return;
  }
  try {
    const made = await api.createSession({ ...form, name, preset: form.preset || undefined });
    await router.push(`/session/${made.id}`);
  } catch (e) {
    error.value = (e as Error).message;
  }
}
</script>

<template>
  <Sheet title="New session" :width="420" @close="emit('close')">
    <form id="new-session" class="grid grid-cols-3 gap-3" @submit.prevent="create">
      <label class="col-span-3 flex flex-col"
        ><span class="label">Name</span
        ><input v-model="form.name" class="field" maxlength="200" placeholder="Lantern Room"
      /></label>
      <label class="col-span-3 flex flex-col"
        ><span class="label">Begins with</span
        ><select class="field" aria-label="Begins with" :value="form.preset" @change="pick">
          <option value="">nothing: an empty session</option>
          <optgroup v-if="starters.length" label="Starters">
            <option v-for="s in starters" :key="s.id" :value="s.id">{{ starterText(s) }}</option>
          </optgroup>
          <optgroup v-if="rigs.length" label="Rigs, in an empty session">
            <option v-for="s in rigs" :key="s.id" :value="s.id">{{ starterText(s) }}</option>
          </optgroup>
        </select></label
      >
      <p class="col-span-3 text-note text-soft">
        <template v-if="form.preset && isDefault"
          >New sessions begin with it.
          <button type="button" class="underline" @click="defaults.clear('session:new')">
            Begin empty from now on
          </button></template
        ><button v-else-if="isStarter" type="button" class="underline" @click="makeDefault">
          Begin every new session with it
        </button>
      </p>
      <label class="flex flex-col"
        ><span class="label">Tempo (bpm)</span
        ><input v-model.number="form.tempo" class="field" type="number" min="10" max="999" step="any"
      /></label>
      <label class="flex flex-col"
        ><span class="label">Sample rate</span
        ><select v-model.number="form.sampleRate" class="field">
          <option v-for="r in RATES" :key="r" :value="r">{{ r / 1000 }} kHz</option>
        </select></label
      >
      <label class="flex flex-col"
        ><span class="label">Bit depth</span
        ><select v-model.number="form.bitDepth" class="field">
          <option :value="16">16</option>
          <option :value="24">24</option>
          <option :value="32">32</option>
        </select></label
      >
      <p v-if="error" class="col-span-3 text-bad" role="alert">{{ error }}</p>
    </form>
    <template #actions
      ><button type="button" class="btn" @click="emit('close')">Cancel</button
      ><button type="submit" form="new-session" class="btn btn-main">Make it</button></template
    >
  </Sheet>
</template>
