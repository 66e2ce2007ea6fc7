import { DEVICE_TYPES } from '../devices/index.ts';
import { trackOf } from '../session/create.ts';
import { canonicalJson, same } from '../model/json.ts';
import { controllerName } from '../session/handles.ts';
import { laneTarget } from '../session/automation.ts';
import { addressText } from '../session/midi.ts';
import { chainAt, placeOf } from '../session/slots.ts';
import { formatDb, formatPan, formatValue } from '../model/units.ts';
import type { Device, Id, Lane, Parts, Preset, Rack, Session, Slot, Track } from '../model/types.ts';
import { movedAddress, movedNotes, movedParams } from './adapt.ts';
import { partsOf } from './parts.ts';
import type { DropPlan } from './plan.ts';

export type Verdict = 'intact' | 'tied' | 'adapted' | 'left out' | 'unexplained';

export interface ReportRow {
  path: string;
  label: string;
  wanted: string;
  found: string;
  verdict: Verdict;
  reason?: string;
}

export interface IntactReport {
  rows: ReportRow[];
  counts: Record<Verdict, number>;
  /** values compared */
  total: number;
  /** nothing unexplained */
  intact: boolean;
}

/**
 * Compares every value of the preset with what stands in the session now: reads the session itself, not the
 * plan, so that a fault in the drop shows. The plan only explains
 * differences (ties, renames, adaptations, parts that were not chosen); what it does not explain is marked
 * and makes the report fail.
 */
export function verifyDrop(session: Session, preset: Preset, plan: DropPlan): IntactReport {
  const rows: ReportRow[] = [];
  const chosen = (id: Id) => plan.ends.find((e) => e.end.id === id);
  const adaptation = (path: string) => plan.adaptations.find((a) => a.path === path && a.on);

  const row = (
    path: string,
    label: string,
    wanted: unknown,
    found: unknown,
    text: (v: never) => string,
    explain?: { verdict: Verdict; reason: string } | null,
  ) => {
    const equal = canonicalJson(wanted ?? null) === canonicalJson(found ?? null);
    const show = (v: unknown) => (v === undefined ? 'nothing' : text(v as never));
    rows.push({
      path,
      label,
      wanted: show(wanted),
      found: show(found),
      ...(equal
        ? { verdict: 'intact' as const }
        : (explain ?? { verdict: 'unexplained' as const, reason: 'nothing explains this difference' })),
    });
  };

  const spares = preset.content.spares.filter((s) => plan.ids[s.id]);
  const everything: Parts = preset.content.parts;
  const all = preset.content.tracks;
  for (const t of plan.place.kind === 'onto' ? all.slice(0, 1) : all) {
    if (t.role === 'master' && plan.place.kind === 'new' && all.length > 1) {
      rows.push({
        path: `${t.id}/chain`,
        label: `${t.name} · chain`,
        wanted: `${t.chain.length} devices`,
        found: '—',
        verdict: 'left out',
        reason: 'the session keeps its own master',
      });
    } else {
      track(
        t,
        trackOf(session, plan.ids[t.id]),
        partsOf(preset, t, plan.parts),
        plan.place.kind !== 'onto',
        false,
      );
    }
  }
  for (const s of spares) {
    track(
      s,
      trackOf(session, plan.ids[s.id]),
      [...new Set([...everything, 'chain', 'level', 'pan', 'name', 'colour', 'note'] as Parts)].filter(
        (p) => p !== 'sends' && p !== 'output',
      ),
      true,
      true,
    );
  }

  const counts: IntactReport['counts'] = { intact: 0, tied: 0, adapted: 0, 'left out': 0, unexplained: 0 };
  for (const r of rows) counts[r.verdict]++;
  return { rows, counts, total: rows.length, intact: counts.unexplained === 0 };

  function track(want: Track, found: Track | undefined, parts: Parts, whole: boolean, spare: boolean) {
    const at = want.id;
    const has = (p: Parts[number]) => parts.includes(p);
    const saved = spare
      ? preset.content.parts
      : partsOf(preset, want, plan.parts.concat(preset.content.parts));
    const skip = (p: Parts[number]) =>
      has(p) || !saved.includes(p)
        ? null
        : { verdict: 'left out' as const, reason: 'this part was not chosen' };
    const field = (
      part: Parts[number] | null,
      key: keyof Track,
      label: string,
      text: (v: never) => string,
      explain?: { verdict: Verdict; reason: string } | null,
    ) => {
      const out = part && skip(part);
      if (out && !whole) {
        rows.push({
          path: `${at}/${key}`,
          label: `${want.name} · ${label}`,
          wanted: text(want[key] as never),
          found: '—',
          ...out,
        });
        return;
      }
      if (part && !has(part) && !spare) return;
      row(`${at}/${key}`, `${want.name} · ${label}`, want[key], found?.[key], text, explain);
    };
    const renamed = plan.renames.find((r) => r.local === want.id);
    field(
      'name',
      'name',
      'name',
      String,
      renamed && found?.name === renamed.to
        ? { verdict: 'adapted', reason: `“${renamed.from}” is taken in this session` }
        : null,
    );
    field('colour', 'colour', 'colour', String);
    field('note', 'note', 'note', (v: string) => v || '—');
    field('level', 'level', 'level', (v: number) => formatDb(v));
    field('level', 'polarity', 'polarity', (v: boolean) => (v ? 'turned over' : 'as is'));
    field('pan', 'pan', 'pan', (v: number) => formatPan(v));
    if (whole) {
      const asBus =
        want.role === 'master' && found?.role === 'bus' && plan.place.kind === 'new'
          ? { verdict: 'adapted' as const, reason: 'a session has one master; the chain arrives as a bus' }
          : null;
      field(null, 'role', 'role', String, asBus);
      field(null, 'channels', 'width', (v: number) => (v === 1 ? 'mono' : 'stereo'));
      field(null, 'soloSafe', 'solo safe', (v: boolean) => (v ? 'yes' : 'no'));
      field(null, 'state', 'state', String);
    }
    if (has('output') && !spare) {
      const wanted = want.output.kind === 'track' ? want.output.track : null;
      if (wanted) {
        tie(
          `${at}/output`,
          `${want.name} · output`,
          wanted,
          found?.output.kind === 'track' ? found.output.track : null,
        );
      } else if (want.output.kind === 'midi' && whole) moved('output', want, found);
      else if (want.role !== 'master' && whole) {
        row(
          `${at}/output`,
          `${want.name} · output`,
          want.output,
          found?.output,
          (v: Track['output']) => (v.kind === 'hardware' ? v.port : v.kind),
          portText('output', want.output, found?.output),
        );
      }
    }
    if (has('input') && whole && !spare) {
      if (want.input.kind === 'track') {
        tie(
          `${at}/input`,
          `${want.name} · input`,
          want.input.track,
          found?.input.kind === 'track' ? found.input.track : null,
        );
      } else if (want.input.kind === 'deviceOutput') {
        const x = want.input;
        const y = found?.input.kind === 'deviceOutput' ? found.input : null;
        tie(`${at}/input`, `${want.name} · input`, x.track, y?.track ?? null);
        if (y) {
          row(
            `${at}/input/output`,
            `${want.name} · output of the instrument`,
            [x.slot && plan.ids[x.slot], x.output, x.take],
            [x.slot && y.slot, y.output, y.take],
            (v: [string, number, string]) => `${v[1]} ${v[2]}`,
          );
        }
      } else if (want.input.kind === 'midi') moved('input', want, found);
      else {
        row(
          `${at}/input`,
          `${want.name} · input`,
          want.input,
          found?.input,
          (v: Track['input']) => (v.kind === 'hardware' ? v.port : v.kind),
          portText('input', want.input, found?.input),
        );
      }
    }
    if (has('folder') && want.folder && whole) {
      tie(`${at}/folder`, `${want.name} · folder`, want.folder, found?.folder ?? null);
    }
    if (has('clips')) {
      want.clips.forEach((c, i) =>
        row(
          `${at}/clips/${i}`,
          `${want.name} · clip ${i + 1}`,
          { ...c, id: '' },
          found?.clips[i] && { ...found.clips[i], id: '' },
          () => 'clip',
        ),
      );
    }

    if (has('clips') && want.notes) {
      movedNotes(plan.adaptations, want)!.forEach((c, i) =>
        row(
          `${at}/notes/${i}`,
          `${want.name} · notes ${i + 1}`,
          { ...c, id: '' },
          found?.notes?.[i] && { ...found.notes[i], id: '' },
          () => 'notes',
        ),
      );
    }

    if (has('automation')) {
      for (const l of want.automation ?? []) {
        const there = found?.automation?.find((x) => x.id === plan.ids[l.id]);
        // what a lane moves may have stayed out by choice; then it stays out with it
        if (
          !plan.ids[l.of] ||
          !(l.of === want.id || has(want.sends.some((s) => s.id === l.of) ? 'sends' : 'chain'))
        ) {
          rows.push({
            path: `${at}/${l.id}`,
            label: `${want.name} · automation`,
            wanted: `${l.points.length} points`,
            found: '—',
            verdict: 'left out',
            reason: 'what it moves did not come in',
          });
          continue;
        }
        row(
          `${at}/${l.id}`,
          `${want.name} · automation of ${laneTarget(want, l, nameOf)?.label ?? l.param}`,
          { ...l, id: '', of: plan.ids[l.of] },
          there && { ...there, id: '' },
          (v: Lane) => `${v.points.length} points${v.on ? '' : ', off'}`,
        );
      }
    }

    for (const s of want.sends) {
      const there = found?.sends.find((x) => x.id === plan.ids[s.id]);
      const label = `${want.name} · send to ${nameOf(s.to)}`;
      if (!has('sends')) {
        if (!spare) {
          rows.push({
            path: `${at}/${s.id}`,
            label,
            wanted: formatDb(s.level),
            found: '—',
            verdict: 'left out',
            reason: 'this part was not chosen',
          });
        }
        continue;
      }
      const open = chosen(s.to)?.chosen === 'open';
      if (open && !there) {
        rows.push({
          path: `${at}/${s.id}`,
          label,
          wanted: formatDb(s.level),
          found: '—',
          verdict: 'left out',
          reason: 'left out on the drop sheet',
        });
        continue;
      }
      tie(`${at}/${s.id}/to`, label, s.to, there?.to ?? null);
      row(`${at}/${s.id}/level`, label + ' · level', s.level, there?.level, (v: number) => formatDb(v));
      row(`${at}/${s.id}/tap`, label + ' · tap', s.tap, there?.tap, (v: string) => v + '-fader');
      row(
        `${at}/${s.id}/pan`,
        label + ' · pan',
        [s.panMode, s.pan],
        there && [there.panMode, there.pan],
        (v: [string, number]) => (v[0] === 'follow' ? 'follows the track' : formatPan(v[1])),
      );
      row(`${at}/${s.id}/on`, label + ' · on', s.on, there?.on, (v: boolean) => (v ? 'on' : 'off'));
    }
    if (!has('chain')) {
      if (want.chain.length) {
        rows.push({
          path: `${at}/chain`,
          label: `${want.name} · chain`,
          wanted: `${want.chain.length} devices`,
          found: '—',
          verdict: 'left out',
          reason: 'this part was not chosen',
        });
      }
      return;
    }
    // a chain that went into a strand is looked for where its first slot stands
    const first = want.chain.length ? plan.ids[want.chain[0].id] : undefined;
    const where = found && first ? placeOf(found, first) : null;
    chain(want, at, want.name, want.chain, found && (chainAt(found, where?.container ?? found.id) ?? []));
  }

  /** An input or output by MIDI address: as it was, or moved with a reason. */
  function moved(side: 'input' | 'output', want: Track, found: Track | undefined) {
    const a = want[side];
    const b = found?.[side];
    if (a.kind !== 'midi') return;
    const to = movedAddress(plan.adaptations, a);
    const why = plan.adaptations.find(
      (x) => x.on && (x.path === `midi/${a.port}/${a.channel}` || x.path === `midi/${a.port}`),
    );
    row(
      `${want.id}/${side}`,
      `${want.name} · ${side}`,
      a,
      b,
      (v: Track['input']) => (v.kind === 'midi' ? addressText(v) : v.kind),
      why && same({ ...a, ...to }, b) ? { verdict: 'adapted', reason: why.reason } : null,
    );
  }

  function chain(t: Track, at: string, label: string, want: Slot[], found: Slot[] | undefined) {
    const places = want.map((d) => found?.findIndex((x) => x.id === plan.ids[d.id]) ?? -1);
    row(
      `${at}/order`,
      `${label} · order of devices`,
      want.map((d) => d.name),
      places
        .map((p) => (p < 0 ? 'missing' : found![p].name))
        .filter((_, i) => i === 0 || places[i] > places[i - 1]),
      (v: string[]) => v.join(' → ') || 'empty',
    );
    want.forEach((d, i) => {
      const x = found?.[places[i]];
      if (d.kind === 'device') device(t, d, x?.kind === 'device' ? x : undefined);
      else rack(t, d, x?.kind === 'rack' ? x : undefined);
    });
  }

  function rack(t: Track, want: Rack, found: Rack | undefined) {
    const at = `${t.id}/${want.id}`;
    const label = `${t.name} · ${want.name}`;
    row(`${at}/name`, label + ' · name', want.name, found?.name, String);
    row(`${at}/state`, label + ' · state', want.state, found?.state, String);
    row(`${at}/blend`, label + ' · blend', want.blend, found?.blend, (v: Rack['blend']) =>
      v.mode === 'off' ? 'off' : `${v.mode === 'power' ? 'equal power' : 'linear'}, ${v.position} %`,
    );
    row(`${at}/strands`, label + ' · number of strands', want.strands.length, found?.strands.length, String);
    want.strands.forEach((s, i) => {
      const x = found?.strands[i];
      const here = `${at}/${s.id}`;
      const text = `${label} · ${s.name}`;
      row(`${here}/name`, text + ' · name', s.name, x?.name, String);
      row(`${here}/level`, text + ' · level', s.level, x?.level, (v: number) => formatDb(v));
      row(`${here}/pan`, text + ' · pan', s.pan, x?.pan, (v: number) => formatPan(v));
      row(
        `${here}/mute`,
        text + ' · mute and solo',
        [s.mute, s.solo],
        x && [x.mute, x.solo],
        (v: boolean[]) => `${v[0] ? 'muted' : 'open'}${v[1] ? ', solo' : ''}`,
      );
      chain(t, here, text, s.chain, x?.chain);
    });
    row(`${at}/handles`, label + ' · number of handles', want.handles.length, found?.handles.length, String);
    want.handles.forEach((h, i) => {
      const x = found?.handles[i];
      const here = `${at}/${h.id}`;
      const text = `${label} · ${h.name}`;
      row(
        `${here}/name`,
        text + ' · name and colour',
        [h.name, h.colour],
        x && [x.name, x.colour],
        (v: string[]) => v.join(', '),
      );
      row(`${here}/value`, text + ' · value', h.value, x?.value, (v: number) => `${v} %`);
      const a = adaptation(`${t.id}/${h.id}/cc`);
      row(
        `${here}/cc`,
        text + ' · controller',
        h.cc,
        x?.cc,
        (v: number | null) => (v === null ? 'none' : controllerName(v)),
        a && x?.cc === a.to ? { verdict: 'adapted', reason: a.reason } : null,
      );
      row(
        `${here}/ties`,
        text + ' · ties',
        h.ties.map((y) => [plan.ids[y.slot] ?? y.slot, y.param, y.from, y.to, y.curve]),
        x?.ties.map((y) => [y.slot, y.param, y.from, y.to, y.curve]),
        (v: unknown[]) => `${v.length} values`,
      );
    });
  }

  function device(t: Track, want: Device, found: Device | undefined) {
    const spec = DEVICE_TYPES[want.type];
    const at = `${t.id}/${want.id}`;
    const label = `${t.name} · ${want.name}`;
    const instead = plan.standIns.find((x) => x.on && x.path === at);
    if (instead && found?.type === instead.type) {
      rows.push({
        path: `${at}/type`,
        label: label + ' · device',
        wanted: instead.name,
        found: instead.typeLabel,
        verdict: 'adapted',
        reason: 'a built-in device takes its place, as chosen',
      });
      row(`${at}/state`, label + ' · state', want.state, found.state, String);
      return;
    }
    row(`${at}/type`, label + ' · device', want.type, found?.type, String);
    row(`${at}/name`, label + ' · name', want.name, found?.name, String);
    row(`${at}/state`, label + ' · state', want.state, found?.state, String);
    if (want.foreign) {
      row(
        `${at}/foreign`,
        label + ' · third-party state',
        want.foreign,
        found?.foreign,
        (v: NonNullable<Device['foreign']>) => v.state?.sha256.slice(0, 12) ?? v.identifier,
      );
    }
    const followed = movedParams(plan.adaptations, t, want);
    for (const p of Object.keys(want.params)) {
      const a = adaptation(`${at}/${p}`);
      const ok = a && found && canonicalJson(found.params[p]) === canonicalJson(a.to);
      row(
        `${at}/${p}`,
        `${label} · ${spec.byId[p]?.label ?? p}`,
        want.params[p],
        found?.params[p],
        (v: never) => (spec.byId[p] ? formatValue(spec.byId[p], v) : String(v)),
        ok
          ? { verdict: 'adapted', reason: a.reason }
          : p in followed && found?.params[p] === followed[p]
            ? { verdict: 'adapted', reason: 'its MIDI channel moved with its line' }
            : null,
      );
    }
    const keyed =
      plan.parts.includes('keys') &&
      (preset.content.trackParts?.[t.id] ?? preset.content.parts).includes('keys');
    if (want.key.kind === 'own') {
      row(`${at}/key`, label + ' · key', want.key, found?.key, (v: Device['key']) => v.kind);
    } else {
      if (!keyed) {
        rows.push({
          path: `${at}/key`,
          label: label + ' · key',
          wanted: nameOf(want.key.track),
          found: '—',
          verdict: 'left out',
          reason: 'this part was not chosen',
        });
      } else {
        tie(
          `${at}/key`,
          label + ' · key',
          want.key.track,
          found?.key.kind === 'track' ? found.key.track : null,
        );
      }
    }
  }

  function portText(
    side: 'input' | 'output',
    want: Track['input'] | Track['output'],
    found: Track['input'] | Track['output'] | undefined,
  ): { verdict: Verdict; reason: string } | null {
    const p =
      want.kind === 'hardware' ? plan.ports.find((x) => x.side === side && x.port === want.port) : undefined;
    if (!p) return null;
    if (found?.kind === 'hardware' && found.port === p.chosen) return { verdict: 'tied', reason: p.reason };
    return p.chosen === null && found?.kind !== 'hardware'
      ? { verdict: 'left out', reason: 'left unconnected on the drop sheet' }
      : null;
  }

  /**
   * A connection: the wanted end is local; what is found must be the track that the choice names, and must
   * exist.
   */
  function tie(path: string, label: string, wanted: Id, found: Id | null) {
    const e = chosen(wanted);
    const inside = plan.ids[wanted];
    const there = found ? trackOf(session, found) : undefined;
    const base = { path, label, wanted: nameOf(wanted), found: there?.name ?? '—' };
    const choice = e?.choices.find((c) => c.id === e.chosen);
    if (!e && inside && found === inside && there) rows.push({ ...base, verdict: 'intact' });
    else if (choice?.kind === 'open' && !found) {
      rows.push({ ...base, verdict: 'left out', reason: 'left open on the drop sheet' });
    } else if ((choice?.kind === 'track' || choice?.kind === 'master') && found === choice.track && there) {
      rows.push({ ...base, verdict: 'tied', reason: choice.reason });
    } else if (choice?.kind === 'spare' && there && found === plan.ids[e!.end.spare!]) {
      rows.push({ ...base, verdict: 'tied', reason: 'its own copy came along' });
    } else if (choice?.kind === 'empty' && there && found === plan.ids[`empty-${e!.end.id}`]) {
      rows.push({ ...base, verdict: 'tied', reason: 'an empty one was made' });
    } else {
      rows.push({
        ...base,
        verdict: 'unexplained',
        reason: 'the connection is not where the drop sheet put it',
      });
    }
  }

  function nameOf(local: Id): string {
    return (
      preset.content.looseEnds.find((e) => e.id === local)?.label ??
      preset.content.tracks.find((t) => t.id === local)?.name ??
      local
    );
  }
}
