import { ref, shallowRef } from 'vue';
import { useStorage } from '@vueuse/core';
import {
  controllerName,
  moveController,
  onHandle,
  type Id,
  type PickUp,
  type Session,
} from '../../../core/index.ts';
import { useSession } from '../../document/doc.ts';
import { useUi } from '../../ui/window.ts';
import { hearHandles } from './listening.ts';

/** The handle that takes the number of the next controller that is moved. */
export const learning = ref<{ track: Id; rack: Id; handle: Id } | null>(null);
/** The simulated controller: eight knobs and what each sends; a real one's last movements show here too. */
export const knobs = ref([21, 22, 23, 24, 25, 26, 27, 28].map((cc) => ({ cc, value: 0 })));
/** Its buttons, which send 127 while they are pressed. */
export const buttons = ref([102, 103, 104, 105].map((cc) => ({ cc, isDown: false })));
export const ports = shallowRef<string[]>([]);
/** How a knob takes over a handle that stands elsewhere, as chosen in this browser. */
export const pickUp = useStorage<PickUp>('rope-shelf-pick-up', 'jump');
/** what each number sent last */
const sent = new Map<number, number>();

/** A typed controller number; null, with a message, when it is none. */
export function controllerNumber(text: string): number | null {
  const n = Number(text);
  if (text.trim() !== '' && Number.isInteger(n) && n >= 0 && n <= 119) return n;
  useUi().say(`“${text}” is not a controller number: they go from 0 to 119.`, 'error');
  return null;
}

/**
 * A controller sent a value (0–127): the handle that is learning takes the number, otherwise every handle
 * with this number moves.
 */
export function controllerMoved(cc: number, value: number): void {
  const session = useSession();
  const l = learning.value;
  if (l) {
    learning.value = null;
    if (session.edit(`${controllerName(cc)} for a handle`, onHandle(l.track, l.rack, l.handle, { cc }))) {
      useUi().say(`${controllerName(cc)} moves this handle now.`, 'done', [], 3000);
    }
  }
  const was = sent.get(cc) ?? null;
  sent.set(cc, value);
  const move = (s: Session) => moveController(s, cc, value, { pickUp: pickUp.value, was });
  if (session.doc && move(session.doc) !== session.doc) session.edit(controllerName(cc), move, `cc${cc}`);
  if (session.doc) hearHandles(session.doc, (h) => h.cc === cc);
}

/** Listens to the controllers that are connected (Web MIDI), where the browser lets us. */
export async function connect(): Promise<void> {
  const ui = useUi();
  if (!('requestMIDIAccess' in navigator)) {
    ui.say('This browser does not pass MIDI on to pages; the simulated controller works everywhere.');
    return;
  }
  try {
    const access = await navigator.requestMIDIAccess();
    const hook = () => {
      ports.value = [...access.inputs.values()].map((i) => i.name ?? 'a controller');
      for (const input of access.inputs.values()) {
        input.onmidimessage = (e) => {
          const d = e.data;
          // control change, any channel (MIDI 1.0: status 0xB0–0xBF)
          if (d && (d[0] & 0xf0) === 0xb0 && d[1] < 120) {
            const knob = knobs.value.find((x) => x.cc === d[1]);
            if (knob) knob.value = d[2];
            controllerMoved(d[1], d[2]);
          }
        };
      }
    };
    access.onstatechange = hook;
    hook();
    if (!ports.value.length) ui.say('No controller is connected. Plug one in: it is heard at once.');
  } catch {
    ui.say(
      'The browser did not let this page listen to controllers. Allow MIDI for it in the browser’s settings, or use the simulated controller.',
      'error',
    );
  }
}
