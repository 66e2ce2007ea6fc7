import { defineStore } from '../ui/store.ts';
import { computed, ref, shallowRef, watch } from 'vue';
import type { Person, Shares } from '../../contract/index.ts';
import { api, signInNeeded } from '../api/index.ts';
import { makeOnce } from '../ui/latest.ts';

/** Who works in this window, and what others of the same server share with them. */
export const useMe = defineStore('me', () => {
  const person = shallowRef<Person | null>(null);
  /** whether people sign in on this server; where nobody does, there is one person */
  const signIn = ref(false);
  const shares = shallowRef<Shares>({ given: [], got: [] });
  /** the other accounts of this server, as they were looked up last */
  const others = shallowRef<Person[]>([]);
  /** shelves of others that can be read */
  const shelves = computed(() => shares.value.got.filter((s) => s.kind === 'shelf'));
  const sessions = computed(() => shares.value.got.filter((s) => s.kind === 'session'));

  /** Whoever needs to know who works here waits for it; what was not answered is asked again by the next. */
  const load = makeOnce(async () => {
    // whoever is wanted is asked by the way in
    const me = await api.me().catch(() => null);
    if (!me) return false;
    person.value = me.person;
    signIn.value = me.signIn;
    return true;
  });
  async function loadShares(): Promise<void> {
    await load();
    if (signIn.value) shares.value = await api.shares().catch(() => shares.value);
  }

  /** Who else is here to share with, and what is shared. */
  async function lookAround(): Promise<void> {
    const [all] = await Promise.all([api.people(), load()]);
    others.value = all.filter((p) => p.id !== person.value?.id);
    await loadShares();
  }

  /** Lets somebody in; another person than before begins afresh, with nothing of the one before on the screen. */
  async function enter(name: string, password: string): Promise<void> {
    const before = person.value?.id;
    const me = await api.signIn({ name, password });
    if (me.person.id !== before) location.reload();
    else signInNeeded.value = false;
  }
  async function leave(everywhere: boolean): Promise<void> {
    await (everywhere ? api.signOutEverywhere() : api.signOut());
    location.assign('/');
  }
  watch(signInNeeded, (isNeeded) => {
    if (isNeeded) signIn.value = true;
  });

  return { person, signIn, shares, shelves, sessions, others, load, loadShares, lookAround, enter, leave };
});
