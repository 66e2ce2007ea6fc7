import { computed, shallowRef, watch, type Ref } from 'vue';
import type { Here } from '../../contract/index.ts';
import { api, CLIENT } from '../api/index.ts';

/** ms between two words of a window that nothing moves in, and after which one that says nothing is gone */
const BEAT = 15_000;
const SILENT = 40_000;
/** ms that a selection stands until it is told */
const SOON = 150;

/** Another window that has the session open. */
type Seen = Here & { at: number };

/**
 * Who else has the open session before them, and at which line: every window says where it is when it moves, when a new
 * one comes, and now and then.
 * @param line the line that is selected here
 */
export function makeHere(id: Ref<string | null>, line: Ref<string | null>) {
  const seen = shallowRef<Seen[]>([]);
  let soon: ReturnType<typeof setTimeout> | undefined;
  let beat: ReturnType<typeof setInterval> | undefined;

  function say(ms = SOON): void {
    clearTimeout(soon);
    soon = setTimeout(() => {
      // what nobody hears is told again with the next beat
      if (id.value) void api.here(id.value, { line: line.value }).catch(() => undefined);
    }, ms);
  }
  /** Another window said something. */
  function heard(here: Here): void {
    if (here.client === CLIENT) return;
    const others = seen.value.filter((s) => s.client !== here.client);
    if (!here.gone && others.length === seen.value.length) say();
    seen.value = here.gone ? others : [...others, { ...here, at: Date.now() }];
  }
  /** The window hears of others from here on. */
  function begin(): void {
    end();
    seen.value = [];
    say(0);
    beat = setInterval(() => {
      seen.value = seen.value.filter((s) => Date.now() - s.at < SILENT);
      say(0);
    }, BEAT);
  }
  function end(): void {
    clearInterval(beat);
    clearTimeout(soon);
    seen.value = [];
  }
  // who comes is told by `heard`; as long as nobody is here, nobody needs to know
  watch(line, () => seen.value.length && say());

  /** The others, in the order in which their windows are called. */
  const others = computed<Here[]>(() => [...seen.value].sort((a, b) => (a.client < b.client ? -1 : 1)));
  return { others, heard, begin, end };
}
