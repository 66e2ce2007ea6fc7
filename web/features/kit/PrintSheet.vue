<script setup lang="ts">
/** What a print of an instrument makes, what the line check says to that beforehand, and how far it is. */
import { computed, onMounted, ref } from 'vue';
import { instrumentAt, linesToPrint, sessionLength, type Finding, type Id } from '../../../core/index.ts';
import SeverityMark from '../../ui/SeverityMark.vue';
import { jobs, plain } from '../../audio/jobs.ts';
import { useKit } from './store.ts';
import { useSession } from '../../document/doc.ts';
import { useUi } from '../../ui/window.ts';
import Sheet from '../../ui/Sheet.vue';

const props = defineProps<{ slotId: Id }>();
const emit = defineEmits<{ close: [] }>();
const session = useSession();
const kit = useKit();
const ui = useUi();
const found = ref<Finding[] | null>(null);
const instrument = instrumentAt(session.doc!, props.slotId);
const lines = linesToPrint(session.doc!, props.slotId);
const seconds = computed(() => sessionLength(session.doc!) + 2);
onMounted(async () => {
  try {
    const all = await jobs.check(plain(session.doc!), null).done;
    found.value = all.filter(
      (f) =>
        f.silenced === undefined &&
        f.severity !== 'advice' &&
        (f.slot === props.slotId || f.track === instrument.track.id || lines.some((t) => t.id === f.track)),
    );
  } catch (e) {
    ui.fail(e);
    found.value = [];
  }
});
async function go() {
  if (await kit.print(props.slotId)) emit('close');
}
function close() {
  kit.stop();
  emit('close');
}
</script>

<template>
  <Sheet :title="`Print “${instrument.track.name}” to audio`" :width="620" @close="close">
    <div class="flex flex-col gap-3 text-body">
      <p>
        {{ lines.length }} {{ lines.length === 1 ? 'line gets' : 'lines get' }} the sound that comes out of
        the instrument, {{ seconds.toFixed(1) }} s each, before their devices and faders:
        {{ lines.map((t) => t.name).join(', ') }}. “{{ instrument.device.name }}” then sleeps and costs
        nothing; restoring it is one step.
      </p>
      <section aria-label="Line check before the print">
        <h3 class="font-semibold">Line check</h3>
        <p v-if="found === null" class="text-soft" role="status">Checking …</p>
        <p v-else-if="!found.length" class="text-soft">Nothing found on what is to be printed.</p>
        <p v-for="f in found ?? []" :key="f.key" class="flex items-start gap-2 py-0.5">
          <SeverityMark :severity="f.severity" :size="14" /> {{ f.message }}
        </p>
      </section>
      <div v-if="kit.busy" role="status">
        <progress class="w-full" max="1" :value="kit.busy.share" :aria-label="kit.busy.what" />{{
          kit.busy.what
        }}: {{ Math.round(kit.busy.share * 100) }} %
      </div>
    </div>
    <template #actions
      ><button type="button" class="btn" @click="close">{{ kit.busy ? 'Stop' : 'Cancel' }}</button
      ><button type="button" class="btn btn-main" :disabled="!!kit.busy || found === null" @click="go">
        {{ found?.length ? 'Print anyway' : 'Print' }}
      </button></template
    >
  </Sheet>
</template>
