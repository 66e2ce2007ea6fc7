import { defineStore } from '../../ui/store.ts';
import { ref, shallowRef } from 'vue';
import { DEVICE_TYPES, portable, type Device, type Params } from '../../../core/index.ts';
import { api } from '../../api/index.ts';
import { makeOnce } from '../../ui/latest.ts';
import { useUi } from '../../ui/window.ts';

/** What happens from now on without a default. */
function clearedText(kind: string, what: string): string {
  if (kind === 'device') return `Every new ${DEVICE_TYPES[what].label} begins as it came.`;
  if (kind === 'rack') return 'New racks begin empty.';
  return kind === 'session' ? 'New sessions begin empty.' : `New ${what} lines begin empty.`;
}

/** What new devices of a type and new lines of a role begin with; kept on the shelf, for every session. */
export const useDefaults = defineStore('defaults', () => {
  const ui = useUi();
  const all = shallowRef<Record<string, { params?: Params; preset?: string }>>({});
  const isKnown = ref(false);
  /** What is added anew waits for it: begun with what is not known yet, it would begin with something else. */
  const load = makeOnce(async () => {
    try {
      all.value = await api.defaults();
      isKnown.value = true;
    } catch (e) {
      ui.fail(e);
    }
    return isKnown.value;
  });
  const has = (name: string) => name in all.value;
  const presetOf = (name: string): string | undefined => all.value[name]?.preset;
  /** Values that a device of a type begins with; what the type has gained since comes from the factory. */
  const valuesOf = (type: string): Params =>
    Object.fromEntries(
      Object.entries(all.value[`device:${type}`]?.params ?? {}).filter(([k]) => k in DEVICE_TYPES[type].byId),
    );

  async function put(name: string, value: { params?: Params; preset?: string }, said: string): Promise<void> {
    const before = all.value;
    try {
      await api.setDefault(name, value);
      all.value = { ...all.value, [name]: value };
      ui.say(said, 'done', [
        {
          label: 'Undo',
          run: () =>
            void (before[name] ? put(name, before[name], 'The default is what it was before.') : clear(name)),
        },
      ]);
    } catch (e) {
      ui.fail(e);
    }
  }
  const setDevice = (d: Device) =>
    put(
      `device:${d.type}`,
      { params: portable(d) },
      `Every new ${DEVICE_TYPES[d.type].label} begins with these settings. Those in sessions stay as they are.`,
    );
  const set = (name: string, preset: string, label = 'this preset') => {
    const [kind, what] = name.split(':');
    const things = kind === 'track' ? `${what} lines` : `${kind}s`;
    return put(name, { preset }, `New ${things} begin with ${label}.`);
  };

  async function clear(name: string): Promise<void> {
    const [kind, what] = name.split(':');
    try {
      await api.clearDefault(name);
      const rest = { ...all.value };
      delete rest[name];
      all.value = rest;
      ui.say(clearedText(kind, what), 'done');
    } catch (e) {
      ui.fail(e);
    }
  }

  return { all, isKnown, load, has, presetOf, valuesOf, setDevice, set, clear };
});
