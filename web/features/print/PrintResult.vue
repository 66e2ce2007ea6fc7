<script setup lang="ts">
/** What was printed: each file with its picture and figures, heard and saved; the proof that the stems add up. */
import { zip, type AsyncZippable } from 'fflate';
import { computed, onBeforeUnmount, ref } from 'vue';
import { safeName, type PrintFileMade } from '../../../core/index.ts';
import { save } from '../../ui/save.ts';
import { useUi } from '../../ui/window.ts';
import type { Done } from './plan.ts';
import { clock, level, proofText } from './words.ts';

const props = defineProps<{ done: Done }>();
const ui = useUi();
const proof = computed(() => proofText(props.done.proof));
const playing = ref('');
let player: HTMLAudioElement | null = null;
let heard = '';
const blobOf = (bytes: Uint8Array, type: string) => new Blob([bytes as Uint8Array<ArrayBuffer>], { type });
function hush() {
  player?.pause();
  player = null;
  URL.revokeObjectURL(heard);
  playing.value = '';
}
function listen(file: PrintFileMade) {
  const was = playing.value;
  hush();
  if (was === file.id) return;
  heard = URL.createObjectURL(blobOf(file.bytes, 'audio/wav'));
  player = new Audio(heard);
  player.onended = hush;
  player.play().catch((e: unknown) => ui.fail(e));
  playing.value = file.id;
}
const zipping = ref(false);
/** Sound hardly shrinks: it is stored as it is. */
function saveAll() {
  zipping.value = true;
  const entries: AsyncZippable = {};
  for (const f of props.done.files) entries[f.name] = [f.bytes, { level: 0 }];
  zip(entries, (error, bytes) => {
    zipping.value = false;
    if (error) ui.fail(error);
    else save(blobOf(bytes, 'application/zip'), `${safeName(props.done.session.name)}.zip`);
  });
}
const path = (outline: number[]) => outline.map((p, i) => `M${i} ${20 - 19 * p}V${20 + 19 * p}`).join('');
onBeforeUnmount(hush);
</script>

<template>
  <section aria-label="What was printed" class="mt-5">
    <div class="mb-2 flex flex-wrap items-center gap-3">
      <h2 class="text-lead font-semibold">Printed</h2>
      <span :class="proof.isGood ? 'text-good' : 'text-warn'" role="status">{{ proof.text }}</span>
      <span class="flex-1" />
      <button type="button" class="btn btn-main" :disabled="zipping" @click="saveAll">
        {{ zipping ? 'Packing …' : 'All as a zip' }}
      </button>
    </div>
    <p v-if="done.gain" class="text-soft">
      Everything was {{ done.gain > 0 ? 'raised' : 'lowered' }} by {{ level(Math.abs(done.gain)) }} dB.
    </p>
    <p v-if="done.collided.length" class="text-warn">
      Told apart by a number, since the pattern gives them one name: {{ done.collided.join(', ') }}.
    </p>
    <table class="w-full text-body">
      <thead>
        <tr class="text-left text-note text-soft">
          <th class="font-normal">File</th>
          <th class="font-normal"><span class="sr-only">Picture</span></th>
          <th class="text-right font-normal">LUFS</th>
          <th class="text-right font-normal">dBTP</th>
          <th class="text-right font-normal">Length</th>
          <th class="pl-3 font-normal">Width</th>
          <th><span class="sr-only">Actions</span></th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="f in done.files" :key="f.id" class="border-t border-rule">
          <td class="py-1 pr-2">{{ f.name }}</td>
          <td class="w-[260px]">
            <svg viewBox="0 0 400 40" preserveAspectRatio="none" class="h-8 w-full" aria-hidden="true">
              <path :d="path(f.outline)" stroke="var(--rope)" stroke-width="1" fill="none" />
            </svg>
          </td>
          <td class="text-right tabular-nums">{{ level(f.loudness.integrated) }}</td>
          <td class="text-right tabular-nums" :class="{ 'text-bad': f.loudness.truePeak > 0 }">
            {{ level(f.loudness.truePeak) }}
          </td>
          <td class="text-right tabular-nums">{{ clock(f.frames / f.sampleRate) }}</td>
          <td class="pl-3">{{ f.channels === 1 ? 'mono' : 'stereo' }}</td>
          <td class="text-right whitespace-nowrap">
            <button
              type="button"
              class="btn px-2 py-0.5"
              :aria-label="`${playing === f.id ? 'Stop' : 'Listen to'} ${f.title}`"
              @click="listen(f)"
            >
              {{ playing === f.id ? 'Stop' : 'Listen' }}
            </button>
            <button
              type="button"
              class="btn ml-1 px-2 py-0.5"
              :aria-label="`Save ${f.title}`"
              @click="save(blobOf(f.bytes, 'audio/wav'), f.name)"
            >
              Save
            </button>
          </td>
        </tr>
      </tbody>
    </table>
  </section>
</template>
