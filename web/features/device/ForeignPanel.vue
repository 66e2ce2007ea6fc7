<script setup lang="ts">
/** A device of another program: what is known of it, and the values that its file names. */
import { computed } from 'vue';
import type { Device, Track } from '../../../core/index.ts';

const props = defineProps<{ track: Track; device: Device }>();
const facts = computed(() => {
  const foreign = props.device.foreign;
  const state = foreign?.state;
  return [
    ['Format', foreign?.format],
    ['Identifier', foreign?.identifier || '—'],
    ['Maker', foreign?.vendor || '—'],
    ['State', state ? `${state.path} (sha-256 ${state.sha256.slice(0, 16)}…)` : 'none'],
  ];
});
</script>

<template>
  <div class="grid grid-cols-2 gap-6 overflow-auto p-4 text-body">
    <div>
      <p class="mb-2">
        This device belongs to another program and cannot run here. Sound passes through it unchanged; its
        state is kept byte for byte and goes out again with an export.
      </p>
      <dl class="grid grid-cols-[110px_1fr] gap-y-0.5">
        <template v-for="[label, value] in facts" :key="label">
          <dt class="text-soft">{{ label }}</dt>
          <dd class="break-all">{{ value }}</dd>
        </template>
      </dl>
    </div>
    <table class="self-start text-note">
      <tbody>
        <tr v-for="p in device.foreign?.params" :key="p.id">
          <td class="pr-4 text-soft">{{ p.name }}</td>
          <td>{{ p.value }} {{ p.unit }}</td>
        </tr>
      </tbody>
    </table>
  </div>
</template>
