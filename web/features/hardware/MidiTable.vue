<script setup lang="ts">
/** What hangs on the MIDI ports, and the controllers with the numbers that they send. */
import { MIDI_PORTS, randomIds, type Controller, type MidiPort, type Studio } from '../../../core/index.ts';
import { chosenIn } from '../../ui/events.ts';
import RemoveButton from '../../ui/RemoveButton.vue';

const props = defineProps<{ studio: Studio }>();
const emit = defineEmits<{ change: [label: string, over: Partial<Studio>] }>();
const setPort = (port: MidiPort, what: string) =>
  emit('change', `What hangs on port ${port}`, { midi: { ...props.studio.midi, [port]: what } });
const set = (c: Controller, over: Partial<Controller>) =>
  emit('change', `Change ${c.name}`, {
    controllers: props.studio.controllers.map((x) => (x.id === c.id ? { ...x, ...over } : x)),
  });
const add = () =>
  emit('change', 'Add a controller', {
    controllers: [
      ...props.studio.controllers,
      { id: randomIds('ctl'), name: 'New controller', port: 'A', channel: 1, numbers: [] },
    ],
  });
const remove = (c: Controller) =>
  emit('change', `Remove ${c.name}`, { controllers: props.studio.controllers.filter((x) => x.id !== c.id) });
/** “20–27, 64” as numbers from 0 to 119. */
function numbersIn(text: string): number[] {
  const found = text.split(',').flatMap((part) => {
    const [low, high = low] = part.split(/[–-]/).map((x) => Number(x.trim()));
    if (!Number.isInteger(low) || !Number.isInteger(high) || high < low || high - low > 119) return [];
    return Array.from({ length: high - low + 1 }, (_, i) => low + i);
  });
  return [...new Set(found)].filter((n) => n >= 0 && n <= 119).sort((a, b) => a - b);
}
</script>

<template>
  <section aria-label="MIDI">
    <div class="mb-1 flex items-center gap-3">
      <h2 class="flex-1 text-lead font-semibold">MIDI and controllers</h2>
      <button type="button" class="btn px-2 py-0.5" @click="add">Add a controller</button>
    </div>
    <div class="flex flex-wrap gap-3 text-body">
      <label v-for="port in MIDI_PORTS" :key="port" class="flex items-center gap-2"
        >Port {{ port }}
        <input
          class="field w-[190px] py-0.5"
          maxlength="200"
          :value="studio.midi[port] ?? ''"
          :aria-label="`On MIDI port ${port}`"
          placeholder="nothing"
          @change="setPort(port, chosenIn($event).trim())"
      /></label>
    </div>
    <table v-if="studio.controllers.length" class="mt-2 text-body">
      <tbody>
        <tr v-for="c in studio.controllers" :key="c.id" class="border-t border-rule">
          <td class="py-0.5 pr-2">
            <input
              class="field w-[220px] py-0.5"
              maxlength="200"
              :value="c.name"
              :aria-label="`Name of ${c.name}`"
              @change="set(c, { name: chosenIn($event).trim() || c.name })"
            />
          </td>
          <td class="pr-2">
            <select
              class="field py-0.5"
              :value="c.port"
              :aria-label="`Port of ${c.name}`"
              @change="set(c, { port: chosenIn($event) as MidiPort })"
            >
              <option v-for="port in MIDI_PORTS" :key="port" :value="port">Port {{ port }}</option>
            </select>
          </td>
          <td class="pr-2">
            <input
              class="field w-[200px] py-0.5"
              :value="c.numbers.join(', ')"
              :aria-label="`Numbers of ${c.name}`"
              placeholder="20–27, 64"
              @change="set(c, { numbers: numbersIn(chosenIn($event)) })"
            />
          </td>
          <td>
            <RemoveButton :what="c.name" @remove="remove(c)" />
          </td>
        </tr>
      </tbody>
    </table>
  </section>
</template>
