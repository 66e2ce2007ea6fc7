<script setup lang="ts">
/** The shell: the head with the screens' names, the screen itself, and what lies over it. */
import { CircleQuestionMark, CloudOff, LoaderCircle, Moon, Search, Settings, Square, Sun } from '@lucide/vue';
import { computed, defineAsyncComponent } from 'vue';
import { until, useEventListener } from '@vueuse/core';
import { useRoute, useRouter } from 'vue-router';
import { useSession } from '../document/doc.ts';
import { signInNeeded } from '../api/index.ts';
import { useMe } from '../document/me.ts';
import { TourStrip } from '../features/guide/index.ts';
import { SignIn, WhoIsHere } from '../features/people/index.ts';
import { useAudio } from '../features/transport/index.ts';
import { vOneStop } from '../ui/one-stop.ts';
import Sendings from './Sendings.vue';
import Toasts from '../ui/Toasts.vue';
import IconButton from '../ui/IconButton.vue';
import { useSheets } from '../ui/sheets.ts';
import { afterFirst, firstShown } from '../ui/first.ts';
import { useUi } from '../ui/window.ts';
import { useShortcuts } from '../ui/shortcuts.ts';
import { PALETTE_KEY, SHORTCUTS, commandsNow, prepareCommands } from './commands.ts';
import { useFilesAnywhere } from './files.ts';
import { bindKeys } from './keys.ts';
import Palette from './Palette.vue';
import SkipLinks from './SkipLinks.vue';
import { useTitles } from './titles.ts';

const ui = useUi();
const sheets = useSheets();
const session = useSession();
const audio = useAudio();
const route = useRoute();
const router = useRouter();
/** A sheet is wanted, or the first screen is drawn: from then on a sheet opens at once, and without the server too. */
async function sheetHost() {
  await Promise.race([afterFirst(), until(() => sheets.top).not.toBeNull()]);
  return import('./SheetHost.vue');
}
const SheetHost = defineAsyncComponent(sheetHost);
const shortcuts = useShortcuts();
shortcuts.all = SHORTCUTS;
useEventListener(window, 'keydown', bindKeys(router));
useTitles();
void afterFirst().then(useMe().loadShares);
// the screens of a session have nothing to show before it is there, and say so themselves
void router
  .isReady()
  .catch(() => undefined)
  .then(() => route.path.startsWith('/session/') || firstShown());
const filesOver = useFilesAnywhere();
const commands = () => commandsNow(router);
/** Something sounds, and the screen has no Stop of its own in sight: the session's has, over its lines. */
const stopIsElsewhere = computed(() => audio.playing && route.name !== 'session');
const saveText = computed(
  () =>
    ({
      saved: 'saved',
      saving: 'saving …',
      waiting: session.kept ? 'kept here until the server is back' : 'in this window only: leave it open',
      refused: 'not saved',
    })[session.save],
);
</script>

<template>
  <div class="flex h-full flex-col" :inert="signInNeeded">
    <SkipLinks />
    <p class="sr-only" role="status">{{ ui.spoken }}</p>
    <p
      v-if="filesOver"
      class="files-over pointer-events-none fixed inset-3 z-30 grid place-items-end justify-center pb-8 text-lead"
    >
      <span class="rounded bg-sheet px-3 py-1 shadow">Let go: sounds and notes come onto lines</span>
    </p>
    <header
      data-panel="head"
      class="head no-print flex min-h-[42px] shrink-0 flex-wrap items-center gap-y-1 border-b border-rule bg-sheet"
    >
      <RouterLink
        to="/sessions"
        tabindex="-1"
        class="flex items-center gap-2 text-lead font-semibold"
        aria-label="Rope Shelf"
      >
        <svg width="22" height="22" viewBox="0 0 32 32" aria-hidden="true">
          <path d="M4 24h24" stroke="var(--rope)" stroke-width="3" stroke-linecap="round" />
          <path
            d="M5 12c3-6 6-6 9 0s6 6 9 0 3-3 4-3M5 18c3-6 6-6 9 0s6 6 9 0 3-3 4-3"
            fill="none"
            stroke="currentColor"
            stroke-width="2.4"
            stroke-linecap="round"
          /></svg
        >Rope Shelf</RouterLink
      >
      <nav v-one-stop class="flex flex-wrap gap-1" aria-label="Main">
        <RouterLink
          v-for="[to, label] in [
            ['/shelf', 'Shelf'],
            ['/sessions', 'Sessions'],
            ['/hardware', 'Hardware'],
            ['/prints', 'Prints'],
          ]"
          :key="to"
          :to="to"
          class="rounded px-2 py-1 hover:bg-sunk"
          :class="{ 'bg-rope-wash font-semibold': route.path.startsWith(to) }"
          >{{ label }}</RouterLink
        >
        <RouterLink
          v-if="session.id && session.doc"
          :to="`/session/${session.id}`"
          class="max-w-[180px] truncate rounded px-2 py-1 hover:bg-sunk"
          :class="{ 'bg-rope-wash font-semibold': route.path.startsWith('/session/') }"
          >{{ session.doc.name }}</RouterLink
        >
      </nav>
      <span class="flex-1" />
      <button
        type="button"
        class="field flex w-[150px] items-center whitespace-nowrap lg:w-[230px] small:w-auto gap-2 py-1 text-left text-soft"
        @click="
          ui.paletteStart = '';
          ui.palette = true;
        "
      >
        <Search :size="14" class="shrink-0" aria-hidden="true" /><span class="flex-1 small:sr-only"
          >Find or do …</span
        ><kbd class="text-fine small:hidden">{{ shortcuts.keyOf(PALETTE_KEY) }}</kbd>
      </button>
      <button
        v-if="stopIsElsewhere"
        type="button"
        class="btn btn-main px-2 py-0.5"
        aria-label="Stop"
        :title="`Stop ${audio.listening ? 'listening' : session.doc?.name}`"
        @click="audio.stop()"
      >
        <Square :size="13" aria-hidden="true" /> Stop
      </button>
      <WhoIsHere v-if="session.id" />
      <span
        v-if="session.id"
        class="flex items-center gap-1 text-note"
        :class="session.save === 'refused' ? 'text-bad' : 'text-soft'"
        data-testid="save-state"
        ><LoaderCircle v-if="session.save === 'saving'" :size="13" aria-hidden="true" /><CloudOff
          v-if="session.save === 'waiting'"
          :size="14"
          aria-hidden="true"
        />{{ saveText }}</span
      >
      <div v-one-stop class="flex items-center" role="group" aria-label="Program">
        <button
          type="button"
          class="btn btn-plain px-1.5"
          :aria-label="ui.theme === 'day' ? 'Night theme' : 'Day theme'"
          @click="ui.turnTheme()"
        >
          <component :is="ui.theme === 'day' ? Moon : Sun" :size="16" aria-hidden="true" />
        </button>
        <IconButton
          :icon="CircleQuestionMark"
          label="Guide"
          hint="Guide"
          :size="16"
          @click="sheets.open('guide', {})"
        />
        <RouterLink
          to="/settings"
          class="btn btn-plain px-1.5"
          :class="{ 'bg-rope-wash': route.path === '/settings' }"
          aria-label="Program settings"
          title="Program settings"
          ><Settings :size="16" aria-hidden="true"
        /></RouterLink>
      </div>
    </header>
    <TourStrip />
    <RouterView />
    <Palette :commands="commands" :prepare="prepareCommands" />
    <SheetHost />
    <Sendings class="no-print" />
    <Toasts class="no-print" />
  </div>
  <SignIn v-if="signInNeeded" />
</template>

<style scoped>
.head {
  column-gap: 16px;
  padding: 0 12px;
}
@media (max-width: 860px), (max-height: 540px) {
  .head {
    column-gap: 6px;
    padding: 0 6px;
  }
}
.files-over {
  border: 2px dashed var(--rope);
  border-radius: 8px;
}
</style>
