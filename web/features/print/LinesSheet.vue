<script setup lang="ts">
/** Lines printed to audio with their chains: what happens, how long it takes, how far it is. */
import { computed, onMounted } from 'vue';
import { RING, sessionLength, type Id } from '../../../core/index.ts';
import { useSession } from '../../document/doc.ts';
import Sheet from '../../ui/Sheet.vue';
import { useUi } from '../../ui/window.ts';
import { usePrint } from './store.ts';

const props = defineProps<{ tracks: Id[] }>();
const emit = defineEmits<{ close: [] }>();
const session = useSession();
const print = usePrint();
const lines = computed(() => session.doc!.tracks.filter((t) => props.tracks.includes(t.id)));
const seconds = computed(() => sessionLength(session.doc!) + RING);
const live = computed(() => print.inRealTime(session.doc!, props.tracks));
const title = computed(() =>
  lines.value.length === 1
    ? `Print “${lines.value[0].name}” to audio`
    : `Print ${lines.value.length} lines to audio`,
);
onMounted(() => void print.openLoops(session.doc!).catch((e: unknown) => useUi().fail(e)));
async function go() {
  if (await print.print(props.tracks)) emit('close');
}
function close() {
  if (print.isBusy) print.stop();
  else emit('close');
}
</script>

<template>
  <Sheet :title="title" :width="620" @close="close">
    <div class="flex flex-col gap-3 text-body">
      <p>
        {{ lines.map((t) => t.name).join(', ') }}: {{ seconds.toFixed(1) }} s each, after the chain and before
        fader, pan and sends, which go on as they are. The printed sound takes the place of the clips; the
        chain sleeps and costs nothing. Restoring it is one step.
      </p>
      <p v-if="live.length" role="status">
        {{ live.length === 1 ? 'One line goes' : `${live.length} lines go` }} over real ports: that is printed
        in real time and heard meanwhile, after its loops are measured,
        {{ (live.length * seconds).toFixed(0) }} s in all.
      </p>
      <div v-if="print.busy" role="status">
        <progress class="w-full" max="1" :value="print.busy.share" :aria-label="print.busy.what" />{{
          print.busy.what
        }}: {{ Math.round(print.busy.share * 100) }} %
      </div>
    </div>
    <template #actions
      ><button type="button" class="btn" @click="close">{{ print.isBusy ? 'Stop' : 'Cancel' }}</button
      ><button type="button" class="btn btn-main" :disabled="print.isBusy || !seconds" @click="go">
        Print
      </button></template
    >
  </Sheet>
</template>
