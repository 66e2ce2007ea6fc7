<script setup lang="ts">
/** Which devices of this computer the ports of a studio are: chosen, connected, with what comes and goes. */
import { computed, onMounted, reactive, ref } from 'vue';
import { loopsOfSession, type Studio } from '../../../core/index.ts';
import { useSession } from '../../document/doc.ts';
import { chosenIn } from '../../ui/events.ts';
import Sheet from '../../ui/Sheet.vue';
import type { Connection } from './connection.ts';
import { canAsk } from './opening.ts';
import PortLevels from './PortLevels.vue';
import { usePorts } from './store.ts';

const props = defineProps<{ studio: Studio }>();
const emit = defineEmits<{ close: [] }>();
const ports = usePorts();
const session = useSession();
const connected = computed(() => ports.connectionOf(props.studio));
const isOfSession = computed(() => session.doc?.setup?.studio?.id === props.studio.id);
const asking = ref(false);

/** What is chosen and not connected yet: by the devices' ids, with the number of the first port. */
const output = ref('');
const outputFirst = ref(1);
const inputs = reactive<Record<string, { used: boolean; first: number }>>({});
onMounted(async () => {
  await ports.look();
  fill();
});
function fill() {
  const known = connected.value;
  output.value = (known && idOf(known.output, ports.outputs)) ?? ports.outputs[0]?.deviceId ?? '';
  outputFirst.value = known?.output.first ?? 1;
  for (const d of ports.inputs) {
    const was = known?.inputs.find((i) => i.id === d.deviceId || i.label === d.label);
    inputs[d.deviceId] = { used: known ? !!was : ports.inputs.length === 1, first: was?.first ?? 1 };
  }
}
const idOf = ({ id, label }: Connection['output'], list: MediaDeviceInfo[]) =>
  (list.find((d) => d.deviceId === id) ?? list.find((d) => d.label === label))?.deviceId;
async function ask() {
  asking.value = true;
  await ports.ask();
  asking.value = false;
  fill();
}
const numbers = (side: 'in' | 'out') =>
  props.studio.ports.filter((p) => p.side === side).sort((a, b) => a.number - b.number);
function connect() {
  const device = ports.outputs.find((d) => d.deviceId === output.value);
  if (!device) return;
  ports.put(props.studio, {
    output: { id: device.deviceId, label: device.label, first: outputFirst.value },
    inputs: ports.inputs
      .filter((d) => inputs[d.deviceId]?.used)
      .map((d) => ({ id: d.deviceId, label: d.label, first: inputs[d.deviceId].first })),
  });
}
/** Loops of the open session, and where each of them goes. */
const loops = computed(() => {
  const s = session.doc;
  if (!s || !isOfSession.value || !connected.value) return [];
  return loopsOfSession(s).map(({ track, device, send, back }) => ({
    id: device.id,
    text: `“${device.name}” on ${track.name}, ${send} to ${back}`,
    isLive: ports.isOpen && ports.isLive(s, device),
  }));
});
</script>

<template>
  <Sheet :title="`Real ports of ${studio.name}`" :width="720" @close="emit('close')">
    <div class="flex flex-col gap-4 text-body">
      <p class="text-soft">
        Loops go out and come back over the inputs and outputs of this computer, heard live and printed in
        real time. What is connected is kept in this browser. Without it everything plays simulated, as
        before.
      </p>
      <p v-if="!canAsk()" class="text-warn" role="status">
        This page may not ask for inputs: browsers allow it on localhost and over https only.
      </p>
      <div v-else-if="!ports.inputs.length" class="flex flex-col items-start gap-2">
        <p v-if="ports.refused" class="text-warn" role="status">{{ ports.refused }}</p>
        <p v-else>The browser names this computer’s inputs and outputs once it may use the inputs.</p>
        <button type="button" class="btn btn-main" :disabled="asking" @click="ask">
          {{ asking ? 'Asking …' : 'Allow the inputs' }}
        </button>
      </div>
      <template v-else>
        <section aria-label="Output">
          <h3 class="mb-1 font-semibold">Out of the computer</h3>
          <div class="flex flex-wrap items-center gap-2">
            <select v-model="output" class="field min-w-[220px] py-0.5" aria-label="Output device">
              <option v-for="d in ports.outputs" :key="d.deviceId" :value="d.deviceId">{{ d.label }}</option>
            </select>
            <label class="flex items-center gap-2"
              >its first channel is
              <select v-model.number="outputFirst" class="field py-0.5" aria-label="First output port">
                <option v-for="p in numbers('out')" :key="p.id" :value="p.number">{{ p.name }}</option>
              </select></label
            >
          </div>
          <p class="mt-1 text-note text-soft">
            The mix goes to the ports that feed the monitors; where none does, to the first two that no loop
            is sent to. Browsers give most outputs two channels.
          </p>
        </section>
        <section aria-label="Inputs">
          <h3 class="mb-1 font-semibold">Back into the computer</h3>
          <div
            v-for="d in ports.inputs"
            :key="d.deviceId"
            class="flex flex-wrap items-center gap-2 border-t border-rule py-1"
          >
            <label v-if="inputs[d.deviceId]" class="flex min-w-[220px] items-center gap-2"
              ><input v-model="inputs[d.deviceId].used" type="checkbox" class="accent-[var(--rope)]" />
              {{ d.label }}</label
            >
            <label v-if="inputs[d.deviceId]?.used" class="flex items-center gap-2"
              >its first channel is
              <select
                class="field py-0.5"
                :aria-label="`First port of ${d.label}`"
                :value="inputs[d.deviceId].first"
                @change="inputs[d.deviceId].first = Number(chosenIn($event))"
              >
                <option v-for="p in numbers('in')" :key="p.id" :value="p.number">{{ p.name }}</option>
              </select></label
            >
          </div>
        </section>
      </template>
      <section v-if="connected" aria-label="What is connected" class="flex flex-col gap-2">
        <h3 class="font-semibold">Connected</h3>
        <p role="status">
          <template v-if="!isOfSession">
            {{ connected.output.label }}. It is opened when a session in this studio plays.
          </template>
          <template v-else-if="!ports.isOpen">Opened as soon as the session plays.</template>
          <template v-else-if="ports.isOutputLost"
            >“{{ connected.output.label }}” is gone; the mix plays on this computer’s own output.</template
          >
          <template v-else
            >“{{ connected.output.label }}” is open at a buffer of {{ ports.buffer }} frames.</template
          >
        </p>
        <ul v-if="loops.length">
          <li v-for="l in loops" :key="l.id" class="border-t border-rule py-1">
            {{ l.text }}:
            <span :class="l.isLive ? 'text-good' : 'text-soft'">{{
              l.isLive ? 'over real ports' : 'not over these devices'
            }}</span>
          </li>
        </ul>
        <PortLevels v-if="isOfSession && ports.peaks" />
      </section>
    </div>
    <template #actions
      ><button v-if="connected" type="button" class="btn" @click="ports.put(studio, null)">Disconnect</button
      ><button
        type="button"
        class="btn btn-main"
        :disabled="!output || !ports.inputs.length"
        @click="connect"
      >
        {{ connected ? 'Connect again' : 'Connect' }}
      </button></template
    >
  </Sheet>
</template>
