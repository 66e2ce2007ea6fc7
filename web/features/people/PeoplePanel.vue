<script setup lang="ts">
/** Who is signed in, their password, and whom the shelf is shared with. */
import { HelpMark } from '../guide/index.ts';
import { onMounted, ref } from 'vue';
import type { Person, ShareRight } from '../../../contract/index.ts';
import { api } from '../../api/index.ts';
import { useSession } from '../../document/doc.ts';
import { useMe } from '../../document/me.ts';
import { useAttempt } from '../../ui/attempt.ts';
import { chosenIn } from '../../ui/events.ts';
import { useUi } from '../../ui/window.ts';

const me = useMe();
const ui = useUi();
const session = useSession();
const old = ref('');
const fresh = ref('');
const { busy, attempt } = useAttempt();

onMounted(() => attempt('Looking …', () => me.lookAround()));
const shareWith = (p: Person) => me.shares.given.find((s) => s.kind === 'shelf' && s.person.id === p.id);
const change = (p: Person, right: string) =>
  attempt('Sharing …', async () => {
    const before = shareWith(p);
    if (right) await api.share({ person: p.id, kind: 'shelf', right: right as ShareRight });
    else if (before) await api.endShare(before.id);
    await me.loadShares();
  });
const changePassword = () =>
  attempt('Changing …', async () => {
    await api.changePassword({ old: old.value, password: fresh.value });
    old.value = fresh.value = '';
    ui.say('Your password is another one now. Other browsers have to sign in again.', 'done');
  });
const leave = (everywhere: boolean) =>
  attempt('Signing out …', async () => {
    // what is not sent yet could be sent by nobody afterwards
    await session.flush();
    await me.leave(everywhere);
  });
</script>

<template>
  <section v-if="me.signIn && me.person" aria-labelledby="people">
    <div class="mb-1 flex items-center gap-1">
      <h2 id="people" class="font-semibold">People</h2>
      <HelpMark about="Several people" />
    </div>
    <p class="mb-2 flex flex-wrap items-center gap-2 text-body">
      <span>
        Signed in as <strong>{{ me.person.name }}</strong>.
      </span>
      <button type="button" class="btn px-2 py-0.5" @click="leave(false)">Sign out</button>
      <button type="button" class="btn px-2 py-0.5" @click="leave(true)">Sign out everywhere</button>
      <span v-if="busy" class="text-soft" role="status">{{ busy }}</span>
    </p>
    <h3 class="mb-0.5 text-body font-semibold">My shelf for others</h3>
    <p v-if="!me.others.length" class="mb-2 text-body text-soft">
      Nobody else has an account here. Whoever runs this server adds one: npm run account -- add NAME
    </p>
    <ul v-else class="mb-2 text-body">
      <li v-for="p in me.others" :key="p.id" class="flex items-center gap-2 py-0.5">
        <span class="min-w-0 flex-1 truncate">{{ p.name }}</span>
        <select
          class="field px-1 py-0.5"
          :aria-label="`My shelf for ${p.name}`"
          :value="shareWith(p)?.right ?? ''"
          @change="change(p, chosenIn($event))"
        >
          <option value="">does not see it</option>
          <option value="read">reads it</option>
          <option value="add">reads it and adds versions</option>
        </select>
      </li>
    </ul>
    <form class="flex flex-wrap items-end gap-2 text-body" @submit.prevent="changePassword">
      <label
        >Password now<input
          v-model="old"
          class="field block w-[150px]"
          type="password"
          autocomplete="current-password"
          required
      /></label>
      <label
        >New password<input
          v-model="fresh"
          class="field block w-[150px]"
          type="password"
          autocomplete="new-password"
          minlength="12"
          maxlength="128"
          required
      /></label>
      <button type="submit" class="btn" :disabled="busy !== ''">Change the password</button>
    </form>
    <p class="mt-1 text-note text-soft">12 characters or more: a few words do.</p>
  </section>
</template>
