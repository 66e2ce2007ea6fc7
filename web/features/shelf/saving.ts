import { computed, onMounted, reactive, ref, shallowRef, watch } from 'vue';
import {
  DEVICE_TYPES,
  USUAL_PARTS,
  capture,
  captureSlot,
  captureStarter,
  createPreset,
  diffPresets,
  findSlot,
  isPiece,
  nameWith,
  referenceUnder,
  tieToShelf,
  togglePart,
  type Captured,
  type Difference,
  type EndChoice,
  type LineReference,
  type Parts,
  type PresetDraft,
  type PresetKind,
  type Session,
  type Slot,
  type Track,
} from '../../../core/index.ts';
import type { PresetDetail } from '../../../contract/index.ts';
import { api } from '../../api/index.ts';
import { jobs, plain } from '../../audio/jobs.ts';
import { useSession } from '../../document/doc.ts';
import { listed } from '../../ui/format.ts';
import { useTour } from '../../ui/tour.ts';
import { useUi } from '../../ui/window.ts';
import { useDefaults } from '../defaults/index.ts';
import { useDrop } from '../drop/index.ts';
import { useOrigins } from '../origin/index.ts';
import { useShelf } from './store.ts';

/** What is saved: lines, one device or rack of a line (`piece`), or the whole session (`starter`). */
export interface Saved {
  tracks: Track[];
  piece?: Slot;
  starter?: boolean;
  startAs?: 'version' | 'new';
}

function kindOf({ piece, starter, tracks }: Saved): PresetKind {
  if (piece) return piece.kind;
  if (starter) return 'starter';
  return tracks.length > 1 ? 'rig' : 'strip';
}

/** The preset that all of what is saved came from together. */
function originOf({ piece, starter, tracks }: Saved) {
  if (piece) return piece.origin ?? null;
  // a session that began from a starter: its master remembers which
  if (starter) return tracks.find((t) => t.role === 'master')?.origin ?? null;
  const [first, ...others] = tracks.map((t) => t.origin ?? null);
  const isShared = others.every((o) => o?.preset === first?.preset && o?.drop === first?.drop);
  return first && isShared ? first : null;
}

/** Whether what is saved is the whole of what the preset is: not a device of its line, nor one line of its rig. */
function isSameThing({ piece, starter, tracks }: Saved, found: PresetDetail): boolean {
  if (starter) return found.kind === 'starter';
  if (piece) return found.kind === piece.kind;
  const lines = found.preset.content.tracks.length;
  return found.kind !== 'starter' && !isPiece(found.kind) && lines === tracks.length;
}

/** Parts that are proposed: those that the drop brought, where it did not bring all that the preset has. */
function broughtOf({ tracks }: Saved, all: Parts): Parts {
  const [own] = tracks;
  const brought = tracks.length === 1 ? own?.origin?.parts : undefined;
  const some = brought ? all.filter((part) => brought.includes(part)) : [];
  return some.length ? some : [...all];
}

/** Devices and racks as they will be saved → as they are in the preset that they came from. */
function sameAs({ tracks }: Saved, ids: Captured['ids']): Map<string, string> {
  const from = Object.assign({}, ...tracks.map((t) => t.origin?.ids)) as Record<string, string>;
  return new Map(
    Object.entries(ids).flatMap(([here, saved]) => (from[here] ? [[saved, from[here]] as const] : [])),
  );
}

/** Ends of the labels of values that drops adapted on purpose. */
function adaptedIn({ tracks }: Saved): string[] {
  return tracks.flatMap((t) =>
    Object.keys(t.origin?.adapted ?? {}).map((path) => {
      const [id, param] = path.split('/');
      const here = Object.entries(t.origin?.ids ?? {}).find(([, local]) => local === id)?.[0];
      const device = here ? findSlot(t.chain, here) : undefined;
      if (!param || device?.kind !== 'device') return ` · ${path}`;
      return ` · ${device.name} · ${DEVICE_TYPES[device.type].byId[param]?.label ?? param}`;
    }),
  );
}

/** What saving decides: parts of all and of each line, and what becomes of every connection that leaves. */
function useChoices(saved: Saved) {
  const session = useSession();
  const parts = ref<Parts>([...USUAL_PARTS]);
  const own = ref<Record<string, Parts>>({});
  const ends = ref<Record<string, EndChoice>>({});
  const sounds = ref(false);
  /** how the lines of a rig are printed comes along */
  const prints = ref(saved.tracks.length > 1);
  const draft = computed(() => {
    const doc = session.doc!;
    if (saved.piece) return captureSlot(doc, saved.tracks[0].id, saved.piece.id);
    if (saved.starter) return captureStarter(doc, sounds.value);
    const lines = saved.tracks.map((t) => t.id);
    return capture(doc, lines, {
      parts: parts.value,
      trackParts: own.value,
      ends: ends.value,
      print: prints.value,
    });
  });

  function toggle(part: Parts[number]): void {
    parts.value = togglePart(parts.value, part);
    own.value = {};
  }
  const partsOf = (t: Track): Parts => own.value[t.id] ?? parts.value;
  function toggleOwn(t: Track, part: Parts[number]): void {
    own.value = { ...own.value, [t.id]: togglePart(partsOf(t), part) };
  }

  /** As it was saved the last time: parts, and what was kept, taken along or cut. */
  function takeFrom({ content }: PresetDetail['preset']): void {
    sounds.value = content.parts.includes('clips');
    prints.value = content.print !== undefined;
    parts.value = broughtOf(saved, content.parts);
    own.value = Object.fromEntries(
      saved.tracks.flatMap((t) => {
        const found = content.trackParts?.[t.origin?.local ?? ''];
        return found ? [[t.id, found]] : [];
      }),
    );
    ends.value = Object.fromEntries(
      draft.value.leaving.flatMap((leaving) => {
        const end = content.looseEnds.find((e) => e.kind === leaving.kind && e.label === leaving.label);
        return end ? [[leaving.key, end.spare ? 'spare' : 'keep']] : [];
      }),
    );
  }
  return { parts, own, ends, sounds, prints, draft, toggle, partsOf, toggleOwn, takeFrom };
}

/** What is filled in, and the preset that it comes from: as its next version, or as a variant of it. */
function useFrom(saved: Saved, takeFrom: (preset: PresetDetail['preset']) => void) {
  const origin = computed(() => originOf(saved));
  const known = shallowRef<PresetDetail | null>(null);
  const mode = ref<'new' | 'version'>('new');
  const own = saved.starter ? useSession().doc! : saved.tracks[0];
  const form = reactive({
    name: saved.piece?.name ?? own.name,
    category: '',
    tags: '',
    note: saved.piece ? '' : own.note,
    colour: saved.tracks[0].colour,
  });

  function begin(found: PresetDetail): void {
    known.value = found;
    const wasCalled = found.preset.content.tracks[0]?.chain[0]?.name;
    const isRenamed = !!saved.piece && saved.piece.name !== wasCalled;
    // what came with the program stays what it is: from it comes a variant
    const isShared = found.id.startsWith('demo-');
    mode.value = saved.startAs ?? (saved.starter || isRenamed || isShared ? 'new' : 'version');
    takeFrom(found.preset);
    if (mode.value === 'version') form.name = found.name;
    else form.name = isRenamed ? saved.piece!.name : nameWith(found.name, ', varied');
    form.category = found.category;
    form.tags = found.summary.tags.join(', ');
    form.note = found.preset.note;
    form.colour = found.colour;
  }
  onMounted(async () => {
    void useShelf().refresh();
    if (!origin.value) return;
    try {
      const found = await api.preset(origin.value.preset);
      if (isSameThing(saved, found)) begin(found);
    } catch {
      /* the preset is gone: save as a new one */
    }
  });
  /** whether the person has said how it is saved */
  let isSaid = false;
  /** Another name means another preset, unless it is said otherwise. */
  watch(
    () => form.name,
    (name) => {
      if (!known.value || isSaid || saved.startAs) return;
      mode.value = name.trim() === known.value.name && !saved.starter ? 'version' : 'new';
    },
  );
  const say = (how: 'new' | 'version') => {
    isSaid = true;
    mode.value = how;
  };
  watch(mode, (now) => {
    if (!known.value) return;
    if (now === 'version') form.name = known.value.name;
    else if (form.name === known.value.name) form.name = nameWith(known.value.name, ', varied');
  });
  return { origin, known, mode, form, say };
}

/** What lines sound like before their chains, for a preset that meets another voice later. */
async function heard(
  { piece, starter, tracks }: Saved,
  { reference, ids }: Pick<Captured, 'reference' | 'ids'>,
  doc: Session,
): Promise<PresetDraft['reference']> {
  if (piece || starter) return reference;
  const lines: Record<string, LineReference> = {};
  for (const t of tracks.filter((x) => x.clips.some((c) => !c.off) && x.chain.length)) {
    // what cannot be measured is not remembered; the preset is saved all the same
    const found = await jobs.reference(plain(doc), t.id).done.catch(() => null);
    if (found) lines[ids[t.id]] = referenceUnder(found, ids);
  }
  return Object.keys(lines).length ? { ...reference, lines } : reference;
}

/** Saving to the shelf: new, the next version of what it came from, or a variant of it. */
export function useSaving(saved: Saved, close: () => void) {
  const session = useSession();
  const ui = useUi();
  const choices = useChoices(saved);
  const { draft } = choices;
  const { origin, known, mode, form, say } = useFrom(saved, choices.takeFrom);
  const asDefault = ref(false);
  const busy = ref(false);
  const error = ref('');

  const differences = computed(() => {
    if (!known.value) return [];
    const found = diffPresets(
      known.value.preset.content,
      draft.value.content,
      sameAs(saved, draft.value.ids),
    );
    // what the drop itself made different stands behind what the person changed
    const adapted = adaptedIn(saved);
    const isOwn = (d: Difference) => !adapted.some((name) => d.label.endsWith(name));
    return [...found.filter(isOwn), ...found.filter((d) => !isOwn(d))];
  });
  const unchanged = computed(
    () =>
      mode.value === 'version' &&
      known.value?.preset.hash === draft.value.hash &&
      form.note === known.value.preset.note &&
      form.colour === known.value.colour &&
      form.name === known.value.name,
  );

  /** @param captured what is saved: the session may go on while its lines are listened to */
  async function put(captured: Captured) {
    const from = known.value;
    const asVersion = mode.value === 'version' && from;
    const filled = {
      kind: kindOf(saved),
      name: form.name.trim(),
      category: form.category.trim().replace(/^\/+|\/+$/g, ''),
      tags: listed(form.tags),
      note: form.note.trim(),
      colour: form.colour,
    };
    const made = { ...captured, reference: await heard(saved, captured, session.doc!) };
    if (asVersion) {
      return api.addVersion(from.id, from.version, createPreset(made, { id: from.id, ...filled }));
    }
    const parent = from ? { preset: from.id, version: from.version } : null;
    return api.createPreset(createPreset(made, { id: crypto.randomUUID(), ...filled, parent }));
  }

  /** What stood here is what the shelf has now, and remembers it. */
  function remember(put: { id: string; version: number }, captured: Captured, name: string): void {
    const preset = { id: put.id, version: put.version, hash: captured.hash, name };
    const drop = origin.value?.drop ?? '';
    session.edit(`Saved as “${name}”`, (s) => tieToShelf(s, captured, preset, drop, saved.piece?.id ?? null));
  }

  async function save(): Promise<void> {
    error.value = '';
    const name = form.name.trim();
    if (!name) {
      error.value = 'Give it a name to find it by.';
      return;
    }
    busy.value = true;
    const captured = draft.value;
    const [{ id }, how] = [session, mode.value];
    // a session that became a starter goes its own way
    const isTied = !saved.starter || how === 'version';
    try {
      const made = await put(captured);
      if (isTied && session.id === id) remember(made, captured, name);
      useTour().passed('save');
      if (asDefault.value) await useDefaults().set('session:new', made.id, `“${name}”`);
      await Promise.all([useShelf().refresh(), useDrop().loadPieces(), useOrigins().load(true)]);
      const asVersion = ` as version ${made.version}; the earlier versions are untouched`;
      ui.say(`“${name}” is on the shelf${how === 'version' ? asVersion : ''}.`, 'done');
      close();
    } catch (e) {
      error.value = (e as Error).message;
    } finally {
      busy.value = false;
    }
  }
  return { ...choices, known, mode, say, form, asDefault, busy, error, differences, unchanged, save };
}
