<script setup lang="ts">
/** One finding: what it is, why it matters, and the ways out. */
import type { Finding } from '../../../core/index.ts';
import { useSession } from '../../document/doc.ts';
import { useCheck } from './store.ts';

defineProps<{ finding: Finding }>();
const emit = defineEmits<{ go: []; silence: [] }>();
const session = useSession();
const check = useCheck();
</script>

<template>
  <article class="flex items-start gap-3 border-t border-rule py-2 text-body" :aria-label="finding.title">
    <div class="min-w-0 flex-1">
      <h3 class="font-semibold">{{ finding.title }}</h3>
      <p>{{ finding.message }}</p>
      <p class="text-soft">{{ finding.why }}</p>
    </div>
    <button
      v-if="finding.fix"
      type="button"
      class="btn px-2 py-0.5"
      :title="finding.safe ? 'Cannot take away anything that was meant' : 'Changes the sound: look first'"
      @click="check.fix(finding)"
    >
      {{ finding.fix }}
    </button>
    <button type="button" class="btn px-2 py-0.5" @click="emit('go')">
      Go to {{ session.nameOf(finding.track) }}
    </button>
    <button type="button" class="btn btn-plain px-2 py-0.5" @click="emit('silence')">Silence …</button>
  </article>
</template>
