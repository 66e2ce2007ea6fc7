import { useRouter } from 'vue-router';
import { ADDABLE, DEVICE_TYPES, chainAt, isPiece, placeOf } from '../../core/index.ts';
import { addLine, fitsOn, instrumentMenu, putDevice, putInstrument, sessionMenu } from '../session/menus.ts';
import { duplicateLine } from '../session/lines.ts';
import { comparing, duplicating, saving, savingSlot } from '../session/saving.ts';
import { group, remove, takeApart } from '../session/slots.ts';
import { useAudio } from '../stores/audio.ts';
import { useDrop } from '../stores/drop.ts';
import { onTrack, removeTrack, setState } from '../stores/edits.ts';
import { useKit } from '../stores/kit.ts';
import { useOrigins } from '../stores/origins.ts';
import { useSession } from '../stores/session.ts';
import { useShelf } from '../stores/shelf.ts';
import { useUi } from '../stores/ui.ts';

export interface Command {
  label: string;
  group: string;
  keys?: string;
  run: () => void;
}

const elsewhere = () => /\/(map|check)$/.test(location.pathname);

/** Everything that can be done now, for the palette; keys are those that `bindKeys` listens to. */
export function useCommands(): () => Command[] {
  const [session, audio, ui, drop, shelf, router, origins] = [
    useSession(),
    useAudio(),
    useUi(),
    useDrop(),
    useShelf(),
    useRouter(),
    useOrigins(),
  ];
  return () => {
    const out: Command[] = [
      { group: 'Go', label: 'Shelf', run: () => void router.push('/shelf') },
      { group: 'Go', label: 'Sessions', run: () => void router.push('/sessions') },
      {
        group: 'View',
        label: ui.theme === 'day' ? 'Night theme' : 'Day theme',
        run: () => {
          ui.theme = ui.theme === 'day' ? 'night' : 'day';
        },
      },
      {
        group: 'View',
        label: 'Keyboard shortcuts',
        keys: '?',
        run: () => {
          ui.shortcuts = true;
        },
      },
    ];
    const s = session.doc;
    const t = session.track;
    if (s && session.id) {
      out.push(
        { group: 'Go', label: 'Signal map', run: () => void router.push(`/session/${session.id}/map`) },
        { group: 'Go', label: 'Line check', run: () => void router.push(`/session/${session.id}/check`) },
        { group: 'Go', label: 'Lines', run: () => void router.push(`/session/${session.id}`) },
      );
    }
    if (!s || !session.id || !location.pathname.startsWith('/session/')) return out;
    out.push(
      {
        group: 'Transport',
        label: audio.playing ? 'Stop' : 'Play',
        keys: 'Space',
        run: () => audio.toggle(),
      },
      { group: 'Transport', label: 'Back to the start', keys: 'Home', run: () => audio.seek(0) },
      { group: 'Edit', label: 'Undo', keys: 'Ctrl Z', run: () => session.undo() },
      { group: 'Edit', label: 'Redo', keys: 'Ctrl Shift Z', run: () => session.redo() },
    );
    // on the map and in the check nothing is edited that is not seen there
    if (elsewhere()) return out;
    out.push(
      ...(['audio', 'bus', 'return', 'folder'] as const).map((role) => ({
        group: 'Lines',
        label: `Add ${role === 'audio' ? 'an audio track' : `a ${role}`}`,
        run: () => void addLine(role),
      })),
      { group: 'Lines', label: 'Add a MIDI track', run: () => void addLine('midi') },
      ...['kit', 'keys', 'bass'].map((type) => ({
        group: 'Lines',
        label: `Add ${DEVICE_TYPES[type].label} with a pattern`,
        run: () => putInstrument(type),
      })),
      {
        group: 'Lines',
        label: 'Add a parts player',
        run: () => {
          useKit().sheet = { kind: 'player', tracks: [] };
        },
      },
      ...sessionMenu().map((m) => ({ group: 'Session', ...m })),
      {
        group: 'View',
        label: ui.controller ? 'Close the simulated controller' : 'Simulated controller',
        run: () => {
          ui.controller = !ui.controller;
        },
      },
      {
        group: 'View',
        label: audio.mono ? 'Hear both sides again' : 'Mono check',
        run: () => {
          audio.mono = !audio.mono;
        },
      },
    );
    if (t) {
      out.push(...instrumentMenu(t).map((m) => ({ group: `On ${t.name}`, label: m.label!, run: m.run! })));
      out.push(
        ...ADDABLE.filter((d) => fitsOn(d, t.role)).map((d) => ({
          group: `On ${t.name}`,
          label: `Add ${d.label}`,
          run: () => putDevice({ track: t.id }, d.type),
        })),
      );
      out.push({
        group: `On ${t.name}`,
        label: t.mute ? 'Unmute' : 'Mute',
        keys: 'M',
        run: () => {
          session.edit(`Mute ${t.name}`, onTrack(t.id, { mute: !t.mute }));
        },
      });
      out.push({
        group: `On ${t.name}`,
        label: t.solo ? 'Unsolo' : 'Solo',
        keys: 'S',
        run: () => {
          session.edit(`Solo ${t.name}`, onTrack(t.id, { solo: !t.solo }));
        },
      });
      out.push({
        group: `On ${t.name}`,
        label: 'With / without at equal loudness',
        keys: 'W',
        run: () => void audio.toggleCompare(t, session.selectedDevice),
      });
      const x = session.slot;
      if (x) {
        const ids = session.picked.length > 1 ? [...session.picked] : [x.id];
        out.push({
          group: `On ${t.name}`,
          label: ids.length > 1 ? `Put ${ids.length} devices into a rack` : `Put ${x.name} into a rack`,
          keys: 'G',
          run: () => group(t, ids, x),
        });
        if (x.kind === 'rack') {
          out.push({
            group: `On ${t.name}`,
            label: `Ungroup ${x.name}`,
            keys: 'Shift G',
            run: () => takeApart(t, x),
          });
        }
        if (x.origin) {
          out.push({
            group: `On ${t.name}`,
            label: `${x.name} and the shelf`,
            run: () => {
              origins.open = x.id;
            },
          });
        }
        const keyed = audio.keyHearings(t, x);
        if (keyed.length) {
          out.push({
            group: `On ${t.name}`,
            label: `Compare the key of ${x.name}`,
            keys: 'Shift W',
            run: () => void audio.compareHearings(`key ${x.id}`, t, x.id, x.name, keyed),
          });
        }
      }
      if (t.origin) {
        out.push(
          {
            group: `On ${t.name}`,
            label: `${t.name} and the shelf: changed, newer, put back`,
            run: () => {
              origins.open = t.id;
            },
          },
          {
            group: `On ${t.name}`,
            label: `Compare ${t.name} with its preset`,
            run: () => {
              comparing.value = {
                a: { preset: t.origin!.preset, version: t.origin!.version },
                b: { line: t.id },
              };
            },
          },
        );
      }
      if (t.role !== 'master') {
        out.push({
          group: `On ${t.name}`,
          label: session.slot
            ? `Save ${session.slot.name} to the shelf`
            : session.many.length > 1
              ? `Save ${session.many.length} lines as a rig`
              : 'Save to the shelf',
          keys: 'K',
          run: () => {
            const x = session.slot;
            if (x) savingSlot.value = { track: t.id, slot: x.id };
            else saving.value = session.together.length > 1 ? session.together : [t.id];
          },
        });
        out.push({ group: `On ${t.name}`, label: 'Duplicate the line', run: () => duplicateLine(t) });
        out.push({
          group: `On ${t.name}`,
          label: 'Duplicate the line, choosing parts',
          run: () => {
            duplicating.value = t.id;
          },
        });
        out.push({
          group: `On ${t.name}`,
          label: 'Delete',
          keys: 'Delete',
          run: () => {
            const d = session.slot;
            if (d) remove(t, d);
            else session.edit(`Delete ${t.name}`, removeTrack(t.id));
          },
        });
      }
    }
    for (const p of shelf.items) {
      out.push({
        group: 'Drop',
        label: `Drop “${p.name}” as ${p.summary.tracks > 1 ? 'new lines' : 'a new line'}`,
        run: () => void drop.begin(p.id, { kind: 'new' }, true),
      });
      const piece = isPiece(p.kind);
      if (t && p.summary.tracks === 1) {
        out.push({
          group: 'Drop',
          label: `Drop “${p.name}” onto ${t.name}`,
          run: () =>
            void drop.begin(p.id, { kind: 'onto', track: t.id, chain: piece ? 'append' : 'replace' }, piece),
        });
      }
    }
    return out;
  };
}

export const SHORTCUTS: [string, string][] = [
  ['Ctrl K', 'Find or do anything'],
  ['/', 'Search the shelf'],
  ['Space', 'Play or stop'],
  ['Home', 'Back to the start'],
  ['↑ ↓', 'Choose the line above or below'],
  ['[ ]', 'Choose the device before or after'],
  ['B', 'Device: on or bypassed'],
  ['I', 'Device: active or inactive'],
  ['W', 'With or without, at equal loudness'],
  ['Shift W', 'Compare a key: off, trigger muted, trigger alone, bypassed'],
  ['1 … 9', 'While comparing: hear that one'],
  ['G', 'Put the device into a rack'],
  ['Shift G', 'Take a rack apart'],
  ['Ctrl or Shift click', 'Choose several lines, or several devices of a chain'],
  ['M', 'Mute the line'],
  ['S', 'Solo the line'],
  ['K', 'Save the device, rack or line to the shelf'],
  ['F2', 'Rename the line'],
  ['Delete', 'Remove the device, or the line'],
  ['Ctrl Z', 'Undo'],
  ['Ctrl Shift Z', 'Redo'],
  ['?', 'This sheet'],
  ['Arrow keys on a value', 'Step; with Shift fine'],
  ['Backspace on a value', 'Its default'],
  ['Enter or a digit on a value', 'Type it, with units'],
];

/** The keys of the whole window. Nothing happens while something is typed or a sheet is open. */
export function bindKeys(commands: () => Command[]): (e: KeyboardEvent) => void {
  const [session, ui, audio] = [useSession(), useUi(), useAudio()];
  const press = (label: string) =>
    commands()
      .find((c) => c.keys === label)
      ?.run();
  return (e) => {
    const el = e.target as HTMLElement;
    const typing =
      el.isContentEditable ||
      el instanceof HTMLTextAreaElement ||
      el instanceof HTMLSelectElement ||
      (el instanceof HTMLInputElement && !['range', 'checkbox', 'radio'].includes(el.type));
    const key = e.key.toLowerCase();
    if ((e.ctrlKey || e.metaKey) && key === 'k') {
      e.preventDefault();
      ui.paletteStart = '';
      ui.palette = !ui.palette;
      return;
    }
    if (document.querySelector('[role="dialog"]') || document.querySelector('[role="menu"]')) return;
    if ((e.ctrlKey || e.metaKey) && key === 'z' && !typing) {
      e.preventDefault();
      press(e.shiftKey ? 'Ctrl Shift Z' : 'Ctrl Z');
      return;
    }
    if (typing || e.ctrlKey || e.metaKey || e.altKey) return;
    const onControl =
      el instanceof HTMLButtonElement ||
      el instanceof HTMLInputElement ||
      el.getAttribute('role') === 'radio';
    if (key === '/') {
      e.preventDefault();
      ui.shelfOpen = true;
      setTimeout(() => document.getElementById('shelf-search')?.focus());
      return;
    }
    if (key === '?') {
      ui.shortcuts = true;
      return;
    }
    if (key === ' ' && !(onControl && el !== document.activeElement)) {
      if (el instanceof HTMLButtonElement || el instanceof HTMLInputElement) {
        if (el.matches('[type="checkbox"],[type="radio"]') || el.closest('[data-keep-space]')) return;
      }
      e.preventDefault();
      press('Space');
      return;
    }
    const s = session.doc;
    if (!s || !location.pathname.startsWith('/session/') || elsewhere()) return;
    if (key === 'arrowup' || key === 'arrowdown') {
      if (onControl && el instanceof HTMLInputElement) return;
      if (el.closest('[data-arrows],[role="radiogroup"]')) return;
      e.preventDefault();
      const i = s.tracks.findIndex((t) => t.id === session.selectedTrack);
      const t = s.tracks[Math.max(0, Math.min(s.tracks.length - 1, i + (key === 'arrowup' ? -1 : 1)))];
      session.select(t.id);
      return;
    }
    const t = session.track;
    const d = session.slot;
    if ((key === '[' || key === ']') && t?.chain.length) {
      // along the chain that the selected one stands in
      const chain = (d && chainAt(t, placeOf(t, d.id)!.container)) ?? t.chain;
      const i = chain.findIndex((x) => x.id === session.selectedDevice);
      session.select(
        t.id,
        chain[
          i < 0
            ? key === ']'
              ? 0
              : chain.length - 1
            : (i + (key === ']' ? 1 : -1) + chain.length) % chain.length
        ].id,
      );
      return;
    }
    if ((key === 'b' || key === 'i') && t && d) {
      const state =
        key === 'b'
          ? d.state === 'bypassed'
            ? 'on'
            : 'bypassed'
          : d.state === 'inactive'
            ? 'on'
            : 'inactive';
      session.edit(`${d.name}: ${state}`, setState(t.id, d.id, state));
      return;
    }
    if (/^[1-9]$/.test(key) && audio.compare?.match && !onControl) {
      audio.hear(Number(key) - 1);
      return;
    }
    if (e.shiftKey && (key === 'g' || key === 'w')) {
      press(`Shift ${key.toUpperCase()}`);
      return;
    }
    const plain: Record<string, string> = {
      m: 'M',
      s: 'S',
      w: 'W',
      k: 'K',
      g: 'G',
      home: 'Home',
      delete: 'Delete',
    };
    if (
      plain[key] &&
      !(key === 'home' && el instanceof HTMLInputElement) &&
      !(key === 'delete' && el instanceof HTMLInputElement)
    ) {
      e.preventDefault();
      press(plain[key]);
    }
  };
}
