<script setup lang="ts">
/** Which line a device takes its key from, and where on it. */
import { computed } from 'vue';
import { onDevice, type Device, type Track } from '../../../core/index.ts';
import { useSession } from '../../document/doc.ts';
import { chosenIn } from '../../ui/events.ts';

const props = defineProps<{ track: Track; device: Device }>();
const session = useSession();
const from = computed(() => (props.device.key.kind === 'track' ? props.device.key : null));
const lines = computed(() =>
  session.doc!.tracks.filter((t) => t.id !== props.track.id && t.role !== 'master'),
);
function setKey(key: Device['key']) {
  session.edit(`Key of ${props.device.name}`, onDevice(props.track.id, props.device.id, { key }));
}
function setLine(e: Event) {
  const track = chosenIn(e);
  setKey(track ? { kind: 'track', track, tap: from.value?.tap ?? 'pre' } : { kind: 'own' });
}
function setTap(e: Event) {
  if (from.value) setKey({ ...from.value, tap: chosenIn(e) as 'pre' | 'post' });
}
</script>

<template>
  <label class="label" :for="'key-' + device.id">Key input</label>
  <select
    :id="'key-' + device.id"
    class="field h-[24px] py-0 text-body"
    :value="from?.track ?? ''"
    @change="setLine"
  >
    <option value="">Its own input</option>
    <option v-for="t in lines" :key="t.id" :value="t.id">{{ t.name }}</option>
  </select>
  <select
    v-if="from"
    class="field h-[24px] py-0 text-body"
    aria-label="Key tap"
    :value="from.tap"
    @change="setTap"
  >
    <option value="pre">pre-fader</option>
    <option value="post">post-fader</option>
  </select>
</template>
