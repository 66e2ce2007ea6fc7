<script setup lang="ts">
/** Every way out of the computer and back, as it is patched now, with what was measured of it. */
import { computed, ref } from 'vue';
import {
  NAME_LENGTH,
  createDevice,
  createSession,
  cutText,
  followSignal,
  portJack,
  restOf,
  setupOf,
  simulatedLine,
  type Device,
  type Measured,
  type Port,
  type Studio,
  type StudioLoop,
  type UnitUse,
} from '../../../core/index.ts';
import { jobs } from '../../audio/jobs.ts';
import { useUi } from '../../ui/window.ts';
import { usePorts } from '../ports/index.ts';
import { useAudio } from '../transport/index.ts';
import { measuredText } from './words.ts';

const props = defineProps<{ studio: Studio }>();
const ui = useUi();
const ports = usePorts();
const audio = useAudio();
const emit = defineEmits<{ change: [label: string, loops: StudioLoop[]] }>();
interface Row {
  key: string;
  out: Port;
  back: Port;
  uses: UnitUse[];
  way: string;
  simulated: boolean;
  measured: Measured | null;
}
const rows = computed<Row[]>(() =>
  props.studio.ports
    .filter((p) => p.side === 'out')
    .flatMap((out) =>
      followSignal(props.studio, portJack(out.id)).reaches.flatMap(({ jack, through }): Row[] => {
        const back = props.studio.ports.find((p) => portJack(p.id) === jack);
        if (!back) return [];
        const units = through.map((id) => props.studio.units.find((u) => u.id === id)!);
        const uses = units.map((unit, i) => ({ id: String(i + 1), unit, positions: restOf(unit.panel) }));
        const key = `${out.id} ${through.join(' ')} ${back.id}`;
        return [
          {
            key,
            out,
            back,
            uses,
            way: [out.name, ...units.map((u) => u.name), back.name].join(' → '),
            simulated: units.every((u) => u.simulated !== null),
            measured: props.studio.loops.find((l) => l.id === idOf(key))?.measured ?? null,
          },
        ];
      }),
    ),
);
/** An id that the same way always has. */
const idOf = (key: string) => `loop-${key.replace(/[^\w.-]+/g, '-')}`.slice(0, 64);
const RATE = 48000;
const busy = ref('');
async function measure(row: Row) {
  try {
    await measureWay(row);
  } catch (e) {
    ui.fail(e);
  } finally {
    busy.value = '';
  }
}
/** Over real ports where the studio is connected and the way is among them, else simulated. */
async function measureOf(studio: Studio, device: Device, row: Row): Promise<Measured> {
  const apart = createSession({ setupId: studio.id, setup: setupOf(studio), sampleRate: RATE });
  const taken = await audio.measureApart(apart, device);
  if (!taken && !row.simulated) {
    throw new Error(`“${row.way}” has a real unit, and its ports are not on the devices that are connected.`);
  }
  return (await (taken ? jobs.realLoop(device, taken) : jobs.loop(device, RATE)).done).now;
}
const isReachable = (row: Row) => row.simulated || !!ports.connectionOf(props.studio);
async function measureWay(row: Row) {
  busy.value = row.key;
  const { studio } = props;
  const line = simulatedLine(studio, row.out.name, row.uses, row.back.name);
  const params = { sendPort: row.out.name, returnPort: row.back.name };
  const device = createDevice('outboard', params, { hardware: { units: row.uses, measured: null, line } });
  const measured = await measureOf(studio, device, row);
  if (props.studio.id !== studio.id) {
    throw new Error(`“${studio.name}” is not open any more, so what was measured of ${row.way} is not kept.`);
  }
  const loop: StudioLoop = {
    id: idOf(row.key),
    name: cutText(row.way, NAME_LENGTH),
    send: [row.out.id],
    back: [row.back.id],
    measured,
  };
  emit('change', `Measure ${row.way}`, [...props.studio.loops.filter((l) => l.id !== loop.id), loop]);
}
</script>

<template>
  <section aria-label="Loops">
    <h2 class="mb-1 text-lead font-semibold">Loops</h2>
    <p v-if="!rows.length" class="text-soft">
      Nothing that leaves the computer comes back yet. Wire a unit behind the bay, or plug a cable.
    </p>
    <table v-else class="w-full text-body">
      <tbody>
        <tr v-for="r in rows" :key="r.key" class="border-t border-rule">
          <td class="py-1 pr-3 font-semibold">{{ r.way }}</td>
          <td class="pr-3">
            <template v-if="r.measured"
              >{{ measuredText(r.measured)
              }}<strong v-if="r.measured.faults.length" class="text-warn">
                · {{ r.measured.faults.join('; ') }}</strong
              ></template
            ><span v-else class="text-soft">not measured</span>
          </td>
          <td class="text-right">
            <button
              v-if="isReachable(r)"
              type="button"
              class="btn px-2 py-0.5"
              :disabled="busy !== ''"
              :aria-label="`Measure ${r.way}`"
              @click="measure(r)"
            >
              {{ busy === r.key ? 'Measuring …' : 'Measure' }}
            </button>
            <span v-else class="text-note text-soft">has a real unit</span>
          </td>
        </tr>
      </tbody>
    </table>
  </section>
</template>
