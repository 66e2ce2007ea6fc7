import { clone } from '../../model/json.ts';
import { randomIds } from '../../model/ids.ts';
import type { Id, ParamValue, Send, Track } from '../../model/types.ts';
import { arranged, freed } from '../../session/sends.ts';
import { formatDb, formatPan } from '../../model/units.ts';
import { adaptationAt } from '../adaptations/adaptation.ts';
import { LEFT_OUT } from '../types.ts';
import type { Part, Putting, Reporting } from './part.ts';

const onOff = (v: boolean): string => (v ? 'on' : 'off');
type Panning = [Send['panMode'], number];
const panning = (s: Send): Panning => [s.panMode, s.pan];
const panText = ([mode, pan]: Panning): string => (mode === 'follow' ? 'follows the track' : formatPan(pan));

/** The sends of a preset's track that have somewhere to go here. */
const arriving = (t: Track, c: Putting): Send[] =>
  t.sends.flatMap((s) => {
    const to = c.end(s.to);
    return to ? [{ ...clone(s), level: c.adapted.sendLevel(t, s), id: c.fresh(s.id, 'snd'), to }] : [];
  });

/** What arrives takes over the place of the send that it stands for; its own counts where nothing has it. */
const placedAs = (s: Send, place: number | undefined): Send => (place ? { ...s, place } : s);

function reportSend(t: Track, want: Send, found: Track | undefined, c: Reporting): void {
  const there = found?.sends.find((x) => x.id === c.plan.ids[want.id]);
  const at = `${t.id}/${want.id}`;
  const label = `${t.name} · send to ${c.nameOf(want.to)}`;
  if (!c.has('sends')) {
    if (!c.spare) c.leftOut(at, label, formatDb(want.level));
    return;
  }
  if (c.isOpen(want.to) && !there) {
    c.leftOut(at, label, formatDb(want.level), 'left out on the drop sheet');
    return;
  }
  c.tie(`${at}/to`, label, want.to, there?.to ?? null);
  const moved = adaptationAt(c.plan, `${at}/level`);
  const why =
    moved && there?.level === moved.to ? { verdict: 'adapted' as const, reason: moved.reason } : null;
  c.row(`${at}/level`, `${label} · level`, want.level, there?.level, (v) => formatDb(v), why);
  c.row(`${at}/tap`, `${label} · tap`, want.tap, there?.tap, (v) => `${v}-fader`);
  c.row(`${at}/pan`, `${label} · pan`, panning(want), there && panning(there), panText);
  c.row(`${at}/on`, `${label} · on`, want.on, there?.on, onOff);
}

export const sends: Part = {
  id: 'sends',
  label: 'Sends',
  help: 'where to, level, pre or post fader, pan',
  section: 'sends',
  duplicated: true,

  end: {
    kind: 'send',
    leads: (t) => t.sends.map((s) => s.to),
    fits: (t) => t.role === 'return' || t.role === 'bus' || t.role === 'folder',
    canMake: true,
    open: { label: 'Leave the send out' },
  },

  take(from, into, c) {
    into.sends = from.sends.flatMap((s) => {
      const to = c.tie('send', s.to);
      return to ? [{ ...clone(s), id: c.named(s.id, 'snd'), to }] : [];
    });
  },

  put(from, into, c) {
    into.sends = c.has('sends') ? arriving(from, c) : [];
  },

  putOnto(from, into, c) {
    const add = arriving(from, c);
    const stay = c.before.sends.filter((s) => !add.some((x) => x.to === s.to));
    const placeOf = new Map(c.before.sends.map((s) => [s.to, s.place]));
    const held = add.map((s) => placedAs(s, placeOf.get(s.to)));
    into.sends = arranged([...stay, ...held]);
    // what moves a send along the song goes on with the one that takes its place
    const heirOf = (id: Id) =>
      add.find((x) => x.to === c.before.sends.find((s) => s.id === id)?.to)?.id ?? id;
    if (into.automation) into.automation = into.automation.map((l) => ({ ...l, of: heirOf(l.of) }));
    const replaced = c.before.sends.length - stay.length;
    if (replaced === 0) return;
    const what = replaced === 1 ? 'A send' : `${replaced} sends`;
    const takes = replaced === 1 ? 'takes' : 'take';
    c.facts.push(`${what} of “${c.before.name}” to the same place ${takes} the preset’s values.`);
  },

  remember: (from, _named, c) =>
    Object.fromEntries(from.sends.flatMap((s) => (c.has('sends') && !c.end(s.to) ? [[s.id, LEFT_OUT]] : []))),

  report(want, found, c) {
    for (const s of want.sends) reportSend(want, s, found, c);
  },

  differ(a, b, c) {
    const names = new Set([...a.sends.map((s) => c.nameA(s.to)), ...b.sends.map((s) => c.nameB(s.to))]);
    for (const to of names) {
      const [x, y] = [a.sends.find((s) => c.nameA(s.to) === to), b.sends.find((s) => c.nameB(s.to) === to)];
      const label = `send to ${to}`;
      if (!x || !y) {
        const [from, now] = [x, y].map((s) => (s ? formatDb(s.level) : '—'));
        c.tell({ label: `${b.name} · ${label}`, from, to: now, kind: x ? 'removed' : 'added' });
        continue;
      }
      c.value(`${label} · level`, x.level, y.level, (v) => formatDb(v));
      c.value(`${label} · tap`, x.tap, y.tap, String);
      c.value(`${label} · on`, x.on, y.on, onOff);
      c.value(`${label} · pan`, panning(x), panning(y), panText);
    }
  },

  merge: {
    keys: ['sends'],
    // where a send stands on its line is the line's own business
    form: (t) => ({ sends: t.sends.map(freed) }),

    dropped(form, adapted) {
      const kept = form.sends!.filter((s) => adapted[s.id] !== LEFT_OUT);
      form.sends = kept.map((s) => ({
        ...s,
        level: (adapted[`${s.id}/level`] as number | undefined) ?? s.level,
      }));
    },

    /** A send that came with the drop counts as the preset's, wherever it is tied now. */
    local(form, id, base) {
      const ends = new Map((base.sends ?? []).map((s) => [s.id, s.to]));
      form.sends = form.sends!.map((s) => ({ ...s, id: id(s.id), to: ends.get(id(s.id)) ?? s.to }));
    },

    paired(form, base, c) {
      const free = [...(base.sends ?? [])];
      form.sends = form.sends!.map((s) => {
        const i = free.findIndex((p) => c.baseEnds(p.to) === c.otherEnds(s.to));
        const partner = i < 0 ? null : free.splice(i, 1)[0];
        return { ...s, id: c.keep(s.id, partner?.id), to: partner ? partner.to : s.to };
      });
    },

    adapted: (c) =>
      Object.fromEntries(
        (c.raw.sends ?? []).flatMap((s): [string, ParamValue][] => {
          const local = c.toLocal.get(s.id) ?? s.id;
          const theirs = c.theirs.sends?.find((x) => x.id === s.id);
          if (!theirs) return [[local, LEFT_OUT]];
          return theirs.level === s.level ? [] : [[`${local}/level`, theirs.level]];
        }),
      ),

    write(form, out, c) {
      const old = new Map(c.track.sends.map((s) => [s.id, s]));
      const mineTo = new Map((c.mine.sends ?? []).map((s) => [s.id, s.to]));
      const ids = new Map<string, string>();
      const brought = form.sends!.flatMap((s): Send[] => {
        const id = c.id(s.id, 'snd');
        ids.set(s.id, id);
        const was = old.get(id);
        const to = was && mineTo.get(s.id) === s.to ? was.to : c.far(s.to);
        if (!to || to === c.track.id) {
          c.notes.push('A send of the new version has nothing to go to here; it was left out.');
          return [];
        }
        return [{ ...s, id, to }];
      });
      const placed = brought.map((s) => placedAs(s, old.get(s.id)?.place));
      out.sends = arranged([...c.track.sends.filter((s) => c.beside(s)), ...placed]);
      for (const s of c.raw.sends ?? []) {
        const lost = ids.has(s.id) && !out.sends.some((x) => x.id === ids.get(s.id));
        if (lost) c.adapted[c.toLocal.get(s.id)!] = LEFT_OUT;
      }
    },
  },

  duplicate(copy, into) {
    into.sends = copy.sends;
  },

  copyTo: (from, _to, c) => ({
    sends: from.sends.filter((s) => c.open(s.to, true)).map((s) => ({ ...s, id: randomIds('snd') })),
  }),
};
