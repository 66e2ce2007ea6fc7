<script setup lang="ts">
/**
 * Measures a line as it plays: levels, loudness, noise, tempo and key, in words; the tempo can become the
 * session's.
 */
import { Gauge } from '@lucide/vue';
import { computed, ref, shallowRef, watch } from 'vue';
import {
  formatDb,
  keyText,
  pitchCorrectionsIn,
  setSongKey,
  type SongKey,
  type SoundFigures,
  type Track,
} from '../../../core/index.ts';
import { NOTE_NAMES } from '../../../core/devices/notes.ts';
import { jobs, plain } from '../../audio/jobs.ts';
import { useSession } from '../../document/doc.ts';
import { useUi } from '../../ui/window.ts';

const props = defineProps<{ track: Track }>();
const session = useSession();
const ui = useUi();
const found = shallowRef<SoundFigures | null>(null);
const busy = ref(false);
let running: { cancel: () => void } | null = null;
watch(
  () => props.track.id,
  () => {
    running?.cancel();
    found.value = null;
    busy.value = false;
  },
);
async function measure() {
  busy.value = true;
  const id = props.track.id;
  const job = jobs.figures(plain(session.doc!), id);
  running = job;
  try {
    const r = await job.done;
    if (props.track.id === id) found.value = r;
  } catch (e) {
    if (props.track.id === id) ui.fail(e);
  } finally {
    if (props.track.id === id) busy.value = false;
  }
}
const silent = computed(() => !!found.value && found.value.peak < -120);
const num = (v: number, unit: string) => `${v.toFixed(1).replace('-', '−')} ${unit}`;
const key = computed(() => {
  const k = found.value?.key;
  return k && k.clear > 0.5
    ? `${NOTE_NAMES[k.tonic]} ${k.mode}${k.clear - k.next < 0.05 ? ', not sure' : ''}`
    : 'none that is clear';
});
/** A key that is clear enough to be handed on. */
const songKey = computed(() => {
  const k = found.value?.key;
  return k && k.clear > 0.5 ? { tonic: k.tonic, mode: k.mode } : null;
});
const pulling = computed(() => pitchCorrectionsIn(session.doc!).length);
const keyOffer = computed(() => {
  const whom = pulling.value === 1 ? 'the pitch correction' : `${pulling.value} pitch corrections`;
  return pulling.value
    ? `The song is in it: give it to ${whom}`
    : 'The song is in it: keep it for what is dropped';
});
const isSongKey = computed(() => {
  const known = session.doc!.key;
  return !!known && known.tonic === songKey.value?.tonic && known.mode === songKey.value.mode;
});
function takeKey(key: SongKey) {
  session.edit(`Key ${keyText(key)}, as measured on ${props.track.name}`, setSongKey(key));
}
const tempo = computed(() =>
  found.value?.tempo && found.value.tempo.clear > 0.1 ? found.value.tempo : null,
);
const choices = computed(() =>
  tempo.value
    ? [tempo.value.bpm, ...tempo.value.others].filter((b) => Math.abs(b - session.doc!.tempo) > 0.05)
    : [],
);
function take(bpm: number) {
  session.edit(`Tempo ${bpm} bpm, as measured on ${props.track.name}`, (s) => ({ ...s, tempo: bpm }));
}
</script>

<template>
  <div class="text-note">
    <button type="button" class="btn px-2 py-0.5" :disabled="busy" @click="measure">
      <Gauge :size="13" aria-hidden="true" /> {{ busy ? 'Measuring …' : 'Measure this line' }}
    </button>
    <p v-if="silent" class="mt-1 text-soft">Nothing sounds on this line.</p>
    <dl
      v-else-if="found"
      class="mt-2 grid max-w-[440px] grid-cols-[auto_1fr_auto_1fr] gap-x-2 gap-y-0.5"
      data-testid="figures"
    >
      <dt class="text-soft">Loudness</dt>
      <dd>{{ Number.isFinite(found.loudness) ? num(found.loudness, 'LUFS') : '—' }}</dd>
      <dt class="text-soft">Peak, true</dt>
      <dd>{{ formatDb(found.peak) }}, {{ num(found.truePeak, 'dBTP') }}</dd>
      <dt class="text-soft">RMS, crest</dt>
      <dd>{{ formatDb(found.rms) }}, {{ num(found.crest, 'dB') }}</dd>
      <dt class="text-soft">Noise</dt>
      <dd>{{ found.floor === null ? 'no pauses' : num(found.floor, 'dBFS') }}</dd>
      <dt class="text-soft">Key</dt>
      <dd>{{ key }}</dd>
      <dt class="text-soft">Tempo</dt>
      <dd>{{ tempo ? num(tempo.bpm, 'bpm') : 'none that is clear' }}</dd>
    </dl>
    <p v-if="songKey && !silent" class="mt-1">
      <span v-if="isSongKey" class="text-soft">The song is in {{ keyText(songKey) }}.</span>
      <button v-else type="button" class="btn px-1.5 py-0" @click="takeKey(songKey)">{{ keyOffer }}</button>
    </p>
    <p v-if="choices.length && !silent" class="mt-1 flex flex-wrap items-center gap-1">
      <span class="text-soft">Session’s tempo:</span
      ><button
        v-for="b in choices"
        :key="b"
        type="button"
        class="btn px-1.5 py-0"
        :aria-label="`Set the session’s tempo to ${b} bpm`"
        @click="take(b)"
      >
        {{ b }}
      </button>
    </p>
  </div>
</template>
