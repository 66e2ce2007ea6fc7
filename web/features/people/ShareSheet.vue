<script setup lang="ts">
/** Who works on the open session together with its owner. */
import { onMounted } from 'vue';
import type { Person } from '../../../contract/index.ts';
import { api } from '../../api/index.ts';
import { useSession } from '../../document/doc.ts';
import { useMe } from '../../document/me.ts';
import { useAttempt } from '../../ui/attempt.ts';
import Sheet from '../../ui/Sheet.vue';

const emit = defineEmits<{ close: [] }>();
const me = useMe();
const session = useSession();
const { busy, attempt } = useAttempt();
onMounted(() => attempt('Looking …', () => me.lookAround()));
const shareWith = (p: Person) => me.shares.given.find((s) => s.thing === session.id && s.person.id === p.id);
const turn = (p: Person) =>
  attempt('Sharing …', async () => {
    const before = shareWith(p);
    if (before) await api.endShare(before.id);
    else await api.share({ person: p.id, kind: 'session', thing: session.id!, right: 'edit' });
    await me.loadShares();
  });
</script>

<template>
  <Sheet :title="`Work together on “${session.doc?.name}”`" :width="460" @close="emit('close')">
    <p class="mb-2 text-body text-soft">
      Who is ticked finds the session in their list, changes it as you do, and is seen here. Only you can
      delete it.
    </p>
    <p v-if="!me.others.length && !busy" class="text-body">
      Nobody else has an account here. Whoever runs this server adds one: npm run account -- add NAME
    </p>
    <ul class="text-body">
      <li v-for="p in me.others" :key="p.id" class="py-1">
        <label class="flex items-center gap-2"
          ><input
            type="checkbox"
            class="accent-[var(--rope)]"
            :checked="!!shareWith(p)"
            :disabled="busy !== ''"
            @change="turn(p)"
          />{{ p.name }}</label
        >
      </li>
    </ul>
    <template #actions><button type="button" class="btn" @click="emit('close')">Close</button></template>
  </Sheet>
</template>
