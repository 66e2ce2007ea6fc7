<script setup lang="ts">
/** What was printed: each file with its picture and figures, heard and saved; the proof that the stems add up. */
import { computed, onBeforeUnmount, ref } from 'vue';
import type { PrintFiles, PrintLevel } from '../../../core/index.ts';
import { useUi } from '../../ui/window.ts';
import { clock, level, megabytes, proofText } from './words.ts';

const props = defineProps<{
  title: string;
  printed: PrintFiles;
  /** where each file is, for listening and saving */
  urls: string[];
  /** what its level was meant to be, if that is known */
  meant?: PrintLevel;
  /** what became of the session since */
  since?: 'same' | 'changed' | 'gone';
}>();
const ui = useUi();
const proof = computed(() => proofText(props.printed.proof));
/** LU under the loudness that was asked for, because the ceiling came first */
const short = computed(() => {
  const [mix] = props.printed.files;
  if (props.meant?.kind !== 'loudness' || !mix) return 0;
  const missing = props.meant.target - mix.loudness.integrated;
  return Number.isFinite(missing) && missing > 0.1 ? missing : 0;
});
const playing = ref('');
let player: HTMLAudioElement | null = null;
function hush() {
  player?.pause();
  player = null;
  playing.value = '';
}
function listen(id: string, url: string) {
  const was = playing.value;
  hush();
  if (was === id) return;
  player = new Audio(url);
  player.onended = hush;
  player.play().catch((e: unknown) => ui.fail(e));
  playing.value = id;
}
const path = (outline: number[]) => outline.map((p, i) => `M${i} ${20 - 19 * p}V${20 + 19 * p}`).join('');
onBeforeUnmount(hush);
</script>

<template>
  <section :aria-label="title" class="mt-5">
    <div class="mb-2 flex flex-wrap items-center gap-3">
      <h2 class="text-lead font-semibold">{{ title }}</h2>
      <span :class="proof.isGood ? 'text-good' : 'text-warn'" role="status">{{ proof.text }}</span>
      <span class="flex-1" />
      <slot />
    </div>
    <p v-if="since === 'changed'" class="text-warn">
      The session was changed since: these files are as it was when they were printed.
    </p>
    <p v-else-if="since === 'gone'" class="text-soft">The session is not there any more.</p>
    <p v-if="printed.gain" class="text-soft">
      Everything was {{ printed.gain > 0 ? 'raised' : 'lowered' }} by {{ level(Math.abs(printed.gain)) }} dB.
    </p>
    <p v-if="short" class="text-warn">
      The mix is {{ level(short) }} LU under the loudness that was asked for: the ceiling came first, and
      nothing is limited unasked.
    </p>
    <p v-if="printed.collided.length" class="text-warn">
      Told apart by a number, since the pattern gives them one name: {{ printed.collided.join(', ') }}.
    </p>
    <table class="w-full text-body">
      <thead>
        <tr class="text-left text-note text-soft">
          <th class="font-normal">File</th>
          <th class="font-normal"><span class="sr-only">Picture</span></th>
          <th class="text-right font-normal">LUFS</th>
          <th class="text-right font-normal">dBTP</th>
          <th class="text-right font-normal">Length</th>
          <th class="text-right font-normal">MB</th>
          <th class="pl-3 font-normal">Width</th>
          <th><span class="sr-only">Actions</span></th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="(f, i) in printed.files" :key="f.id" class="border-t border-rule">
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
          <td class="text-right tabular-nums">{{ megabytes(f.size) }}</td>
          <td class="pl-3">{{ f.channels === 1 ? 'mono' : 'stereo' }}</td>
          <td class="text-right whitespace-nowrap">
            <button
              type="button"
              class="btn px-2 py-0.5"
              :aria-label="`${playing === f.id ? 'Stop' : 'Listen to'} ${f.title}`"
              @click="listen(f.id, urls[i])"
            >
              {{ playing === f.id ? 'Stop' : 'Listen' }}
            </button>
            <a
              class="btn ml-1 inline-block px-2 py-0.5"
              :href="urls[i]"
              :download="f.name"
              :aria-label="`Save ${f.title}`"
              >Save</a
            >
          </td>
        </tr>
      </tbody>
    </table>
  </section>
</template>
