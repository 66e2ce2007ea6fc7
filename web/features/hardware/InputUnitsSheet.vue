<script setup lang="ts">
/** What stands between a microphone and the port that a line listens to: its preamp and more, with their positions. */
import { computed } from 'vue';
import { restOf, setInputUnits, type Id, type UnitUse } from '../../../core/index.ts';
import { useSession } from '../../document/doc.ts';
import { chosenIn } from '../../ui/events.ts';
import Sheet from '../../ui/Sheet.vue';
import UnitCard from './UnitCard.vue';

const props = defineProps<{ track: Id }>();
const emit = defineEmits<{ close: [] }>();
const session = useSession();
const line = computed(() => session.doc?.tracks.find((t) => t.id === props.track));
const input = computed(() => (line.value?.input.kind === 'hardware' ? line.value.input : null));
const units = computed<UnitUse[]>(() => input.value?.units ?? []);
const free = computed(() => {
  const taken = new Set(units.value.map((u) => u.unit.id));
  return (session.doc?.setup?.studio?.units ?? []).filter((u) => !taken.has(u.id));
});
const put = (label: string, next: UnitUse[], key?: string) =>
  session.edit(label, setInputUnits(props.track, next), key);
function add(id: string) {
  const unit = free.value.find((u) => u.id === id);
  if (!unit) return;
  const place = String(Math.max(0, ...units.value.map((u) => Number(u.id))) + 1);
  put(`${unit.name} before the input`, [...units.value, { id: place, unit, positions: restOf(unit.panel) }]);
}
const set = (place: string, control: string, position: number, sliding: boolean) =>
  put(
    'Set a control before the input',
    units.value.map((u) =>
      u.id === place ? { ...u, positions: { ...u.positions, [control]: position } } : u,
    ),
    sliding ? `${props.track}${place}${control}` : undefined,
  );
</script>

<template>
  <Sheet :title="`Before the input of ${line?.name ?? 'this line'}`" :width="760" @close="emit('close')">
    <div class="flex flex-col gap-3 text-body">
      <p v-if="!input" class="text-soft">This line does not listen to hardware.</p>
      <template v-else>
        <p class="text-soft">
          The sound passes these units before “{{ input.port }}”. They are remembered, set by hand and ticked
          off on the patch list; what a line plays from its sounds does not go through them.
        </p>
        <UnitCard
          v-for="u in units"
          :key="u.id"
          :unit="u.unit"
          :positions="u.positions"
          @set="(control, position, sliding) => set(u.id, control, position, sliding)"
        >
          <template #actions
            ><button
              type="button"
              class="btn px-2 py-0.5 text-note"
              @click="
                put(
                  'One unit less before the input',
                  units.filter((x) => x.id !== u.id),
                )
              "
            >
              Not through {{ u.unit.name }}
            </button></template
          >
        </UnitCard>
        <label v-if="free.length" class="flex items-center gap-2"
          >Add
          <select
            class="field py-0.5"
            aria-label="Unit before the input"
            :value="''"
            @change="add(chosenIn($event))"
          >
            <option value="">a unit …</option>
            <option v-for="u in free" :key="u.id" :value="u.id">{{ u.name }}, {{ u.family }}</option>
          </select></label
        >
        <p v-else-if="!session.doc?.setup?.studio" class="text-soft">
          This session is in no studio: choose one under “Hardware of this session”.
        </p>
      </template>
    </div>
    <template #actions
      ><button type="button" class="btn btn-main" @click="emit('close')">Done</button></template
    >
  </Sheet>
</template>
