<script setup lang="ts">
/**
 * The studio that this session is in. Moving to another one shows first what stands for each unit and port there, as a
 * drop does; it is one step, and going back leaves everything as it was.
 */
import { computed, onMounted, ref, shallowRef } from 'vue';
import {
  applyMove,
  planMove,
  setupOf,
  type MoveOptions,
  type MovePlan,
  type Session,
  type Studio,
} from '../../../core/index.ts';
import { api } from '../../api/index.ts';
import { useSession } from '../../document/doc.ts';
import { chosenIn } from '../../ui/events.ts';
import Sheet from '../../ui/Sheet.vue';
import UnitChoices from './UnitChoices.vue';
import { useStudios } from './studios.ts';

const emit = defineEmits<{ close: [] }>();
const session = useSession();
const studios = useStudios();
const chosen = ref(session.doc?.setupId ?? '');
const studio = shallowRef<Studio | null>(null);
const units = shallowRef<NonNullable<MoveOptions['units']>>({});
const ports = shallowRef<NonNullable<MoveOptions['ports']>>({});
const failed = ref('');
const now = computed(() => session.doc?.setup);
onMounted(async () => {
  await studios.load();
  failed.value = studios.failed;
});
async function choose(id: string) {
  chosen.value = id;
  studio.value = null;
  units.value = {};
  ports.value = {};
  if (!id) return;
  try {
    studio.value = (await api.setup(id)).studio;
    failed.value = '';
  } catch (e) {
    failed.value = (e as Error).message;
  }
}
const plan = computed<MovePlan | null>(() =>
  studio.value && session.doc
    ? planMove(session.doc, studio.value, { units: units.value, ports: ports.value })
    : null,
);
const portText = (p: MovePlan['ports'][number]) => (p.side === 'input' ? 'Input from' : 'Output to');
const connect = (p: MovePlan['ports'][number], name: string) =>
  (ports.value = { ...ports.value, [`${p.side}/${p.port}`]: name || null });
function move() {
  const going = plan.value;
  if (!going) return;
  if (session.edit(`Move to ${going.studio.name}`, (s) => applyMove(s, going))) emit('close');
}
/** The own studios, and those of shelves that others share. */
const known = computed(() => [...(studios.list ?? []), ...studios.others.flatMap((o) => o.list)]);
/** A later version of the studio that the session is in, with other ports, cables or units. */
const newer = computed(() =>
  known.value.find(
    (x) => x.id === session.doc?.setupId && x.version > (now.value?.studio?.version ?? x.version),
  ),
);
async function takeNewer() {
  try {
    const { studio: latest } = await api.setup(newer.value!.id);
    session.edit(`Version ${latest.version} of ${latest.name}`, (s) => ({
      ...s,
      setup: { ...s.setup, ...setupOf(latest, s.setup?.ticks) },
    }));
  } catch (e) {
    failed.value = (e as Error).message;
  }
}
function forget() {
  const without = (s: Session) => {
    const { setup: _s, ...rest } = s;
    return { ...rest, setupId: null };
  };
  if (session.edit('Forget the studio of this session', without)) emit('close');
}
</script>

<template>
  <Sheet title="Hardware of this session" :width="860" @close="emit('close')">
    <div class="flex flex-col gap-3 text-body">
      <p v-if="now">
        It is in <strong>{{ now.name }}</strong>: {{ now.inputs.length }} inputs and
        {{ now.outputs.length }} outputs by name.
        <template v-if="newer">
          That was version {{ now.studio?.version }}; it is at version {{ newer.version }} by now.
          <button type="button" class="btn ml-2 px-2 py-0.5" @click="takeNewer">
            Take version {{ newer.version }}
          </button>
        </template>
      </p>
      <p v-else class="text-soft">It is in no studio yet: ports are known by the names that its lines use.</p>
      <p v-if="failed" role="alert" class="text-bad">{{ failed }}</p>
      <label class="flex items-center gap-2"
        >Move this session to
        <select
          class="field py-0.5"
          aria-label="Move this session to"
          :value="chosen"
          @change="choose(chosenIn($event))"
        >
          <option value="">a studio …</option>
          <option v-for="s in studios.list ?? []" :key="s.id" :value="s.id">{{ s.name }}</option>
          <optgroup v-for="o in studios.others" :key="o.owner.id" :label="`Shelf of ${o.owner.name}`">
            <option v-for="s in o.list" :key="s.id" :value="s.id">{{ s.name }}</option>
          </optgroup>
        </select></label
      >
      <p v-if="studios.list && !known.length" class="text-soft">
        There is no studio yet: make one under Hardware.
      </p>
      <template v-if="plan">
        <p v-if="plan.back" class="text-good">Back to where it came from: everything is as it was there.</p>
        <template v-else>
          <UnitChoices :units="plan.units" @choose="(path, id) => (units = { ...units, [path]: id })" />
          <section v-if="plan.ports.length" aria-label="Ports there">
            <h3 class="font-semibold">Ports</h3>
            <div
              v-for="p in plan.ports"
              :key="p.side + p.port"
              class="grid grid-cols-[240px_240px_1fr] items-center gap-2 border-t border-rule py-1"
            >
              <span
                >{{ portText(p) }} <strong>{{ p.port }}</strong></span
              >
              <select
                class="field py-0.5"
                :value="p.chosen ?? ''"
                :aria-label="`${portText(p)} ${p.port}: there`"
                @change="connect(p, chosenIn($event))"
              >
                <option v-for="c in p.choices" :key="c" :value="c">{{ c }}</option></select
              ><span class="text-soft">{{ p.reason }}</span>
            </div>
          </section>
          <p v-if="!plan.units.length && !plan.ports.length" class="text-soft">
            Nothing in this session leaves the computer yet; it will be known that it is in
            {{ plan.studio.name }}.
          </p>
        </template>
      </template>
    </div>
    <template #actions
      ><button v-if="now" type="button" class="btn mr-auto" @click="forget">Forget the studio</button
      ><button type="button" class="btn" @click="emit('close')">Cancel</button
      ><button type="button" class="btn btn-main" :disabled="!plan" @click="move">
        {{ plan ? `Move to ${plan.studio.name}` : 'Move' }}
      </button></template
    >
  </Sheet>
</template>
