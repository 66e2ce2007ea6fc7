<script setup lang="ts">
/** Three ways to begin: the demo, a sound of one's own, a session of another program. */
import { AudioLines, FileInput, Lamp } from '@lucide/vue';
import { useRouter } from 'vue-router';
import { NAME_LENGTH, cutText, kindOfFile } from '../../../core/index.ts';
import { ApiError, api } from '../../api/index.ts';
import { useSession } from '../../document/doc.ts';
import { useMe } from '../../document/me.ts';
import { useAttempt } from '../../ui/attempt.ts';
import { filesIn } from '../../ui/events.ts';
import { useSheets } from '../../ui/sheets.ts';
import { useUi } from '../../ui/window.ts';

/** the demo's first session, and what it is called: a second account has it under another id */
const DEMO = 'kelp-and-copper';
const DEMO_NAME = 'Kelp and Copper';
const router = useRouter();
const session = useSession();
const me = useMe();
const sheets = useSheets();
const ui = useUi();
const { busy, attempt } = useAttempt();

async function open(id: string): Promise<void> {
  await router.push(`/session/${id}`);
  await session.open(id);
}
const openDemo = () =>
  attempt('Opening the demo …', async () => {
    await me.load();
    const there = await api.session(DEMO).then(
      ({ owner }) => owner.id === me.person?.id,
      (e: unknown) => !(e instanceof ApiError && e.code === 'not-found'),
    );
    if (there) await open(DEMO);
    else {
      const say = 'The demo is not on this server. It brings its presets, a studio and its sessions.';
      ui.say(say, 'info', [{ label: 'Put the demo in', run: () => void putDemoIn() }], 0);
    }
  });
const putDemoIn = () =>
  attempt('Putting the demo in …', async () => {
    const { items } = await api.putDemoIn();
    const first = items.find((i) => i.kind === 'session' && i.name === DEMO_NAME);
    await open(first?.id ?? DEMO);
  });
/** A session of its own for what was chosen, in which each file is offered a line. */
async function beginWith(e: Event) {
  const files = filesIn(e);
  const [first] = files.filter((f) => kindOfFile(f.name) !== null);
  if (!files.length) return;
  if (!first) {
    ui.say(`“${files[0].name}” is not a WAV or MIDI file.`, 'error');
    return;
  }
  await attempt('Making a session …', async () => {
    const name = cutText(first.name.replace(/\.[^.]+$/, '').trim(), NAME_LENGTH) || 'New session';
    const { id } = await api.createSession({ name });
    await open(id);
    sheets.open('files', { files, onto: null });
  });
}
async function openFile(e: Event) {
  const [file] = filesIn(e);
  if (!file) return;
  await attempt(`Reading “${file.name}” …`, async () => {
    const { id, notes } = await api.importFile(file);
    await open(id);
    if (notes.length) ui.say(`“${file.name}” is open. ${notes.join(' ')}`);
  });
}
</script>

<template>
  <div>
    <ul class="grid gap-3 md:grid-cols-3">
      <li>
        <button type="button" class="door" @click="openDemo">
          <Lamp :size="22" aria-hidden="true" /><strong>Look at the demo</strong
          ><span class="text-soft"
            >A folk band aboard a lightship, mixed and ready to play: take presets off it, drop others
            in.</span
          >
        </button>
      </li>
      <li>
        <label class="door"
          ><AudioLines :size="22" aria-hidden="true" /><strong>Begin with your own sound</strong
          ><span class="text-soft">Choose WAV or MIDI files; each becomes a line of a new session.</span
          ><input
            type="file"
            class="sr-only"
            accept=".wav,.mid,.midi"
            multiple
            aria-label="Begin with your own sound"
            @change="beginWith"
        /></label>
      </li>
      <li>
        <label class="door"
          ><FileInput :size="22" aria-hidden="true" /><strong>Open a session of another program</strong
          ><span class="text-soft">A DAWproject file: its tracks, devices and sounds come in as lines.</span
          ><input
            type="file"
            class="sr-only"
            accept=".dawproject,application/zip"
            aria-label="Open a session file of another program"
            @change="openFile"
        /></label>
      </li>
    </ul>
    <p class="mt-2 min-h-6 text-soft" role="status">{{ busy }}</p>
  </div>
</template>

<style scoped>
.door {
  align-items: flex-start;
  background: var(--sheet);
  border: 1px solid var(--edge);
  border-radius: 8px;
  cursor: pointer;
  display: flex;
  flex-direction: column;
  gap: 6px;
  height: 100%;
  padding: 16px;
  text-align: left;
  width: 100%;
}
.door:hover {
  border-color: var(--rope);
}
.door:focus-within {
  outline: 2px solid var(--rope);
  outline-offset: 2px;
}
</style>
