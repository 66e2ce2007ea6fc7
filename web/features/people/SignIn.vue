<script setup lang="ts">
/** The way in, over everything: what was done in the window stays under it. */
import { onMounted, ref } from 'vue';
import { useMe } from '../../document/me.ts';

const me = useMe();
const name = ref(me.person?.name ?? '');
const password = ref('');
const failed = ref('');
const busy = ref(false);
const first = ref<HTMLInputElement | null>(null);
onMounted(() => first.value?.focus());

async function enter() {
  busy.value = true;
  failed.value = '';
  try {
    await me.enter(name.value, password.value);
  } catch (e) {
    failed.value = (e as Error).message;
    password.value = '';
  } finally {
    busy.value = false;
  }
}
</script>

<template>
  <div
    class="fixed inset-0 z-[60] grid place-items-center bg-paper p-4"
    role="dialog"
    aria-modal="true"
    aria-labelledby="sign-in"
  >
    <form class="sheet w-full max-w-[360px] p-5" @submit.prevent="enter">
      <h1 id="sign-in" class="mb-1 text-title font-semibold">Sign in to Rope Shelf</h1>
      <p class="mb-3 text-body text-soft">
        {{
          me.person
            ? 'What you did in this window is kept, and saved when you are in.'
            : 'On this server everybody has a shelf of their own.'
        }}
      </p>
      <label class="mb-2 block text-body"
        >Name<input
          ref="first"
          v-model="name"
          class="field mt-0.5 w-full"
          name="username"
          autocomplete="username"
          required
      /></label>
      <label class="mb-3 block text-body"
        >Password<input
          v-model="password"
          class="field mt-0.5 w-full"
          type="password"
          name="password"
          autocomplete="current-password"
          required
      /></label>
      <p v-if="failed" class="mb-3 text-body text-bad" role="alert">{{ failed }}</p>
      <button type="submit" class="btn btn-main w-full justify-center" :disabled="busy">
        {{ busy ? 'Signing in …' : 'Sign in' }}
      </button>
    </form>
  </div>
</template>
