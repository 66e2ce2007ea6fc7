import {
  COLOURS,
  DEVICE_TYPES,
  DUPLICATE_PARTS,
  clone,
  createDevice,
  createRack,
  createSend,
  createStrand,
  createTrack,
  dropDeadTies,
  findSlot,
  freeAddresses,
  freeName,
  laneTarget,
  listenersIn,
  mapDevices,
  mapSlots,
  masterOf,
  moveHandle,
  placeFor,
  placeOf,
  racksIn,
  randomIds,
  renewSlot,
  sentBy,
  renewTrack,
  withChainAt,
  type Clip,
  type Device,
  type Handle,
  type Id,
  type Lane,
  type LaneTarget,
  type Params,
  type ParamValue,
  type PartId,
  type Rack,
  type Role,
  type Send,
  type Session,
  type Slot,
  type SlotState,
  type Strand,
  type TieTarget,
  type Track,
} from '../../core/index.ts';

/**
 * Edits of a session as pure functions: a session in, a new one out, everything that did not change shared.
 */
export type Edit = (s: Session) => Session;

export const onTrack =
  (id: Id, change: Partial<Track> | ((t: Track) => Partial<Track>)): Edit =>
  (s) => ({
    ...s,
    tracks: s.tracks.map((t) =>
      t.id === id ? { ...t, ...(typeof change === 'function' ? change(t) : change) } : t,
    ),
  });

/** Changes one slot wherever it stands in a track's chain, inside racks too. */
export const onSlot = (track: Id, slot: Id, change: (s: Slot) => Slot): Edit =>
  onTrack(track, (t) => ({ chain: mapSlots(t.chain, (x) => (x.id === slot ? change(x) : x)) }));

export const onDevice = (
  track: Id,
  device: Id,
  change: Partial<Device> | ((d: Device) => Partial<Device>),
): Edit =>
  onSlot(track, device, (d) =>
    d.kind === 'device' ? { ...d, ...(typeof change === 'function' ? change(d) : change) } : d,
  );

export const onRack = (track: Id, rack: Id, change: Partial<Rack> | ((r: Rack) => Partial<Rack>)): Edit =>
  onSlot(track, rack, (r) =>
    r.kind === 'rack' ? { ...r, ...(typeof change === 'function' ? change(r) : change) } : r,
  );

export const onStrand = (track: Id, rack: Id, strand: Id, change: Partial<Strand>): Edit =>
  onRack(track, rack, (r) => ({
    strands: r.strands.map((x) => (x.id === strand ? { ...x, ...change } : x)),
  }));
export const onHandle = (track: Id, rack: Id, handle: Id, change: Partial<Handle>): Edit =>
  onRack(track, rack, (r) => ({
    handles: r.handles.map((x) => (x.id === handle ? { ...x, ...change } : x)),
  }));
export const turnHandle = (track: Id, rack: Id, handle: Id, value: number): Edit =>
  onSlot(track, rack, (r) => (r.kind === 'rack' ? moveHandle(r, handle, value) : r));

export const setParam = (track: Id, device: Id, param: string, value: ParamValue): Edit =>
  onDevice(track, device, (d) => ({ params: { ...d.params, [param]: value } }));
export const setParams = (track: Id, device: Id, values: Record<string, ParamValue>): Edit =>
  onDevice(track, device, (d) => ({ params: { ...d.params, ...values } }));
export const setState = (track: Id, slot: Id, state: SlotState): Edit =>
  onSlot(track, slot, (x) => ({ ...x, state }));
export const renameSlot = (track: Id, slot: Id, name: string): Edit =>
  onSlot(track, slot, (x) => ({ ...x, name }));

export const onSend = (track: Id, send: Id, change: Partial<Send>): Edit =>
  onTrack(track, (t) => ({ sends: t.sends.map((x) => (x.id === send ? { ...x, ...change } : x)) }));
/** A lane for a value; it begins with the value as it stands, so that nothing changes yet. */
export function addLane(
  track: Id,
  target: Pick<LaneTarget, 'of' | 'param' | 'value'>,
): { edit: Edit; id: Id } {
  const id = randomIds('lan');
  return {
    id,
    edit: onTrack(track, (t) => ({
      automation: [
        ...(t.automation ?? []),
        { id, of: target.of, param: target.param, on: true, points: [{ at: 0, value: target.value }] },
      ],
    })),
  };
}
export const onLane = (track: Id, lane: Id, change: Partial<Lane>): Edit =>
  onTrack(track, (t) => ({
    automation: (t.automation ?? []).map((l) => (l.id === lane ? { ...l, ...change } : l)),
  }));
export const removeLane = (track: Id, lane: Id): Edit =>
  onTrack(track, (t) => ({ automation: (t.automation ?? []).filter((l) => l.id !== lane) }));

export const addSend = (track: Id, to: Id): Edit =>
  onTrack(track, (t) => ({ sends: [...t.sends, createSend(to, { level: -18 })] }));
export const removeSend = (track: Id, send: Id): Edit =>
  onTrack(track, (t) => ({ sends: t.sends.filter((x) => x.id !== send) }));

export function addTrack(role: Role, over: Partial<Track> = {}, at?: number): { edit: Edit; id: Id } {
  const id = randomIds('trk');
  return {
    id,
    edit: (s) => {
      const t = createTrack(role, {
        output: role === 'midi' ? { kind: 'none' } : { kind: 'track', track: masterOf(s).id },
        ...over,
        id,
      });
      t.name = freeName(
        over.name ?? t.name,
        s.tracks.map((x) => x.name),
      );
      const tracks = [...s.tracks];
      tracks.splice(
        Math.min(
          at ?? placeFor(s, role),
          s.tracks.findIndex((x) => x.role === 'master'),
        ),
        0,
        t,
      );
      return { ...s, tracks };
    },
  };
}

/** A copy beside the original with the chosen parts; what it came from, it still remembers. */
export function duplicateTrack(id: Id, parts: readonly PartId[] = DUPLICATE_PARTS): { edit: Edit; id: Id } {
  const fresh = randomIds('trk');
  return {
    id: fresh,
    edit: (s) => {
      const i = s.tracks.findIndex((t) => t.id === id);
      const t = s.tracks[i];
      const has = (p: PartId) => parts.includes(p);
      const whole = renewTrack(clone(t), (old, prefix) => (old === id ? fresh : randomIds(prefix)));
      const plain = createTrack(t.role, {
        id: fresh,
        channels: t.channels,
        output: { kind: 'track', track: masterOf(s).id },
        soloSafe: t.soloSafe,
        state: t.state,
      });
      const copy: Track = {
        ...plain,
        name: freeName(
          t.name,
          s.tracks.map((x) => x.name),
        ),
        ...(has('chain')
          ? {
              chain: has('keys')
                ? whole.chain
                : mapDevices(whole.chain, (d) => ({ ...d, key: { kind: 'own' } })),
            }
          : {}),
        ...(has('sends') ? { sends: whole.sends } : {}),
        ...(has('level') ? { level: t.level, polarity: t.polarity } : {}),
        ...(has('pan') ? { pan: t.pan } : {}),
        ...(has('output') ? { output: t.output } : {}),
        ...(has('input') ? { input: t.input } : {}),
        ...(has('folder') ? { folder: t.folder } : {}),
        ...(has('colour') ? { colour: t.colour } : {}),
        ...(has('note') ? { note: t.note } : {}),
        ...(has('clips') ? { clips: whole.clips } : {}),
        ...(has('automation') && whole.automation ? { automation: whole.automation } : {}),
        ...(whole.origin && has('chain')
          ? {
              origin: whole.origin.parts
                ? { ...whole.origin, parts: whole.origin.parts.filter(has) }
                : whole.origin,
            }
          : {}),
      };
      // lanes of what was not copied stay behind
      if (copy.automation) copy.automation = copy.automation.filter((l) => laneTarget(copy, l));
      const tracks = [...s.tracks];
      tracks.splice(i + 1, 0, copy);
      return { ...s, tracks };
    },
  };
}

/**
 * Removes a track; whatever pointed to it is led on to where it went itself, sends and keys from and to it
 * go.
 */
export const removeTrack =
  (id: Id): Edit =>
  (s) => {
    const gone = s.tracks.find((t) => t.id === id);
    if (!gone || gone.role === 'master') return s;
    return {
      ...s,
      tracks: s.tracks
        .filter((t) => t.id !== id)
        .map((t) => {
          let out = t;
          if (t.output.kind === 'track' && t.output.track === id) {
            out = {
              ...out,
              output: gone.output.kind === 'track' ? gone.output : { kind: 'track', track: masterOf(s).id },
            };
          }
          if (t.folder === id) out = { ...out, folder: gone.folder };
          if ((t.input.kind === 'track' || t.input.kind === 'deviceOutput') && t.input.track === id) {
            out = { ...out, input: { kind: 'none' } };
          }
          if (t.sends.some((x) => x.to === id)) out = { ...out, sends: t.sends.filter((x) => x.to !== id) };
          const chain = mapDevices(t.chain, (d) =>
            d.key.kind === 'track' && d.key.track === id ? { ...d, key: { kind: 'own' } } : d,
          );
          if (chain !== t.chain) out = { ...out, chain };
          return out;
        }),
      ...(s.lastTies
        ? { lastTies: Object.fromEntries(Object.entries(s.lastTies).filter(([, v]) => v !== id)) }
        : {}),
    };
  };

/** Moves a track before another (null: to the end, above the master). */
export const moveTrack =
  (id: Id, before: Id | null): Edit =>
  (s) => {
    const t = s.tracks.find((x) => x.id === id);
    if (!t || id === before || t.role === 'master') return s;
    const rest = s.tracks.filter((x) => x.id !== id);
    const at = before ? rest.findIndex((x) => x.id === before) : rest.length;
    const limit = rest.findIndex((x) => x.role === 'master');
    rest.splice(Math.min(at < 0 ? limit : at, limit), 0, t);
    return { ...s, tracks: rest };
  };

/**
 * Where something goes in: a place in a line's own chain or in one of its strands; at the end when `at` is
 * left out.
 */
export interface Spot {
  track: Id;
  container?: Id;
  at?: number;
}

/** Puts slots in at a spot. */
export const insertSlots =
  (to: Spot, slots: Slot[]): Edit =>
  (s) => ({
    ...s,
    tracks: s.tracks.map((t) =>
      t.id === to.track
        ? withChainAt(t, to.container ?? t.id, (c) => {
            const out = [...c];
            out.splice(to.at ?? c.length, 0, ...slots);
            return out;
          })
        : t,
    ),
  });

/** @param start values to begin with, from a default of the shelf */
export function addDevice(to: Spot, type: string, start: Params = {}): { edit: Edit; id: Id } {
  const id = randomIds('dev');
  return { id, edit: insertSlots(to, [createDevice(type, start, { id, name: DEVICE_TYPES[type].label })]) };
}

export const removeSlot = (track: Id, slot: Id): Edit =>
  onTrack(track, (t) => ({ chain: dropDeadTies(mapSlots(t.chain, (x) => (x.id === slot ? null : x))) }));

/**
 * Moves a slot to a spot, in its own chain, a strand or another line's; a rack never goes into itself. Ties
 * that no longer reach come off.
 */
export const moveSlot =
  (from: Id, slot: Id, to: Spot): Edit =>
  (s) => {
    const source = s.tracks.find((t) => t.id === from);
    const x = source && findSlot(source.chain, slot);
    const was = source && placeOf(source, slot);
    if (!x || !was) return s;
    const container = to.container ?? to.track;
    if (x.kind === 'rack' && racksIn([x]).some((r) => r.strands.some((st) => st.id === container))) return s;
    const at = to.at ?? Infinity;
    const place = container === was.container && at > was.at ? at - 1 : at;
    const taken = {
      ...s,
      tracks: s.tracks.map((t) =>
        t.id === from ? { ...t, chain: mapSlots(t.chain, (y) => (y.id === slot ? null : y)) } : t,
      ),
    };
    const put = insertSlots({ ...to, at: Number.isFinite(place) ? place : undefined }, [x])(taken);
    return {
      ...put,
      tracks: put.tracks.map((t) =>
        t.id === from || t.id === to.track ? { ...t, chain: dropDeadTies(t.chain) } : t,
      ),
    };
  };

export function duplicateSlot(track: Id, slot: Id): { edit: Edit; id: Id } {
  const fresh = randomIds('dev');
  // the copy itself gets the id that is given back; what is inside it gets its own
  const renew = (x: Slot) => renewSlot(clone(x), (old, prefix) => (old === slot ? fresh : randomIds(prefix)));
  return {
    id: fresh,
    edit: (s) => {
      const t = s.tracks.find((y) => y.id === track);
      const p = t && placeOf(t, slot);
      const x = t && findSlot(t.chain, slot);
      return p && x ? insertSlots({ track, container: p.container, at: p.at + 1 }, [renew(x)])(s) : s;
    },
  };
}

/** Puts slots of one chain, in their order, into a new rack where the first of them stood. */
export function groupSlots(track: Id, slots: Id[], name = 'Rack'): { edit: Edit; id: Id } {
  const id = randomIds('rak');
  return {
    id,
    edit: onTrack(track, (t) => {
      const place = placeOf(t, slots[0]);
      if (!place) return {};
      return withChainAt(t, place.container, (c) => {
        const inside = c.filter((x) => slots.includes(x.id));
        return c.flatMap((x) =>
          x.id === inside[0]?.id ? [createRack(name, inside, { id })] : inside.includes(x) ? [] : [x],
        );
      });
    }),
  };
}

/** Puts a rack's devices back into the chain around it, strand after strand; handles go. */
export const ungroup = (track: Id, rack: Id): Edit =>
  onTrack(track, (t) => {
    const place = placeOf(t, rack);
    if (!place) return {};
    const out = withChainAt(t, place.container, (c) =>
      c.flatMap((x) => (x.id === rack && x.kind === 'rack' ? x.strands.flatMap((s) => s.chain) : [x])),
    );
    return { chain: dropDeadTies(out.chain) };
  });

/**
 * A parallel path beside a device or rack: the slot goes into the second strand of a new rack, the first is
 * left clean.
 */
export function alongside(track: Id, slot: Id): { edit: Edit; id: Id } {
  const id = randomIds('rak');
  return {
    id,
    edit: onTrack(track, (t) => {
      const place = placeOf(t, slot);
      if (!place) return {};
      return withChainAt(t, place.container, (c) =>
        c.map((x) =>
          x.id === slot
            ? createRack(`${x.name}, blended`, [], {
                id,
                strands: [createStrand('Dry'), createStrand('Wet', [x])],
                blend: { mode: 'power', position: 50 },
              })
            : x,
        ),
      );
    }),
  };
}

export const addStrand = (track: Id, rack: Id): Edit =>
  onRack(track, rack, (r) => ({
    strands: [
      ...r.strands,
      createStrand(
        freeName(
          'Strand 1',
          r.strands.map((x) => x.name),
        ),
      ),
    ],
  }));
export const removeStrand = (track: Id, rack: Id, strand: Id): Edit =>
  onTrack(track, (t) => ({
    chain: dropDeadTies(
      mapSlots(t.chain, (x) =>
        x.id === rack && x.kind === 'rack' && x.strands.length > 1
          ? { ...x, strands: x.strands.filter((y) => y.id !== strand) }
          : x,
      ),
    ),
  }));

/** A new handle that moves some values, each from where it stands now. */
export function addHandle(
  track: Id,
  rack: Id,
  targets: { slot: Id; param: string; from: number; to: number }[],
  name: string,
): { edit: Edit; id: Id } {
  const id = randomIds('hdl');
  return {
    id,
    edit: onRack(track, rack, (r) => ({
      handles: [
        ...r.handles,
        {
          id,
          name: freeName(
            name,
            r.handles.map((h) => h.name),
          ),
          colour: COLOURS[r.handles.length % COLOURS.length].id,
          value: 0,
          cc: null,
          ties: targets.map((x) => ({ id: randomIds('tie'), curve: 0, ...x })),
        },
      ],
    })),
  };
}

/** Ties one more value to a handle, from where it stands now to the top of its range. */
export const addTie =
  (track: Id, rack: Id, handle: Handle, target: TieTarget): Edit =>
  (s) =>
    turnHandle(
      track,
      rack,
      handle.id,
      handle.value,
    )(
      onHandle(track, rack, handle.id, {
        ties: [
          ...handle.ties,
          {
            id: randomIds('tie'),
            slot: target.slot,
            param: target.param,
            from: target.value,
            to: target.spec.max!,
            curve: 0,
          },
        ],
      })(s),
    );

export const removeHandle = (track: Id, rack: Id, handle: Id): Edit =>
  onRack(track, rack, (r) => ({ handles: r.handles.filter((h) => h.id !== handle) }));

/** Changes several lines at once. */
export const onTracks =
  (ids: readonly Id[], change: (t: Track) => Partial<Track>): Edit =>
  (s) => ({ ...s, tracks: s.tracks.map((t) => (ids.includes(t.id) ? { ...t, ...change(t) } : t)) });

/**
 * Copies chosen parts of one line to others: its chain in place of theirs or behind it, and what else is
 * asked for; outputs and sends that would make a loop stay away.
 */
export const copyParts =
  (from: Track, ids: readonly Id[], parts: readonly PartId[], append: boolean): Edit =>
  (s) =>
    ids
      .filter((id) => id !== from.id)
      .reduce((now, id) => {
        const t = now.tracks.find((x) => x.id === id);
        if (!t) return now;
        const open = (to: Id, send: boolean) => destinations(now, t, send).some((x) => x.id === to);
        return onTrack(id, {
          ...(parts.includes('chain')
            ? {
                chain: [
                  ...(append ? t.chain : []),
                  ...from.chain.map((x) => renewSlot(clone(x), (_o, prefix) => randomIds(prefix))),
                ],
              }
            : {}),
          ...(parts.includes('sends')
            ? {
                sends: from.sends
                  .filter((x) => open(x.to, true))
                  .map((x) => ({ ...x, id: randomIds('snd') })),
              }
            : {}),
          ...(parts.includes('level') ? { level: from.level, polarity: from.polarity } : {}),
          ...(parts.includes('pan') ? { pan: from.pan } : {}),
          ...(parts.includes('output') &&
          from.output.kind === 'track' &&
          t.role !== 'master' &&
          open(from.output.track, false)
            ? { output: from.output }
            : {}),
          ...(parts.includes('colour') ? { colour: from.colour } : {}),
          ...(parts.includes('note') ? { note: from.note } : {}),
        })(now);
      }, s);

export const setClips =
  (track: Id, clips: Clip[], media: Session['media']): Edit =>
  (s) =>
    onTrack(track, { clips })({
      ...s,
      media: [...s.media, ...media.filter((m) => !s.media.some((x) => x.id === m.id))],
    });

/** Where a track may send to or go out to without feeding itself. */
/**
 * An instrument on a line of its own, on an address that nothing else listens to: channel 10 for drums where
 * it is free (General MIDI), the first free one otherwise; played by a pattern when asked for.
 */
export function addInstrument(
  type: string,
  s: Session,
  withPattern: boolean,
): { edit: Edit; id: Id; device: Id } {
  const [id, device, notes] = [randomIds('trk'), randomIds('dev'), randomIds('trk')];
  const taken = [...listenersIn(s.tracks), ...s.tracks.flatMap(sentBy)];
  const all = freeAddresses(taken);
  const at = (type === 'kit' ? all.find((a) => a.channel === 10) : all.find((a) => a.channel !== 10)) ??
    all[0] ?? { port: 'A' as const, channel: 1 };
  const label = DEVICE_TYPES[type].label;
  const melody: Params =
    type === 'kit'
      ? {}
      : {
          'l1.channel': at.channel,
          'l1.key': type === 'bass' ? 38 : 62,
          'l1.steps': 'X..x..x.X..x..x.',
          'l1.keys': '0 7 12 3',
          'l1.gate': 180,
          'l2.on': false,
          'l3.on': false,
        };
  const drums = Object.fromEntries([1, 2, 3, 4].map((n) => [`l${n}.channel`, at.channel]));
  return {
    id,
    device,
    edit: (now) => {
      const names = now.tracks.map((t) => t.name);
      const name = freeName(label, names);
      const master = { kind: 'track' as const, track: masterOf(now).id };
      const line = createTrack('instrument', {
        id,
        name,
        input: { kind: 'midi', port: at.port, channel: type === 'parts' ? 0 : at.channel },
        output: master,
        chain: [
          createDevice(
            type,
            type === 'parts'
              ? Object.fromEntries(
                  all
                    .filter((a) => a.port === at.port)
                    .slice(0, 4)
                    .flatMap((a, n) => [
                      [`p${n + 1}.port`, a.port],
                      [`p${n + 1}.channel`, a.channel],
                    ]),
                )
              : {},
            { id: device },
          ),
        ],
      });
      const source = createTrack('midi', {
        id: notes,
        name: freeName(`${name} pattern`, names),
        output: { kind: 'midi', port: at.port, channel: at.channel },
        chain: [createDevice('pattern', type === 'kit' ? drums : melody, {})],
      });
      const tracks = [...now.tracks];
      tracks.splice(
        Math.min(
          placeFor(now, 'instrument'),
          tracks.findIndex((t) => t.role === 'master'),
        ),
        0,
        ...(withPattern ? [source] : []),
        line,
      );
      return { ...now, tracks };
    },
  };
}

export function destinations(s: Session, from: Track, forSend: boolean): Track[] {
  const feeds = (a: Id, b: Id, seen = new Set<Id>()): boolean => {
    if (a === b) return true;
    if (seen.has(a)) return false;
    seen.add(a);
    const t = s.tracks.find((x) => x.id === a);
    return (
      !!t &&
      ((t.output.kind === 'track' && feeds(t.output.track, b, seen)) ||
        t.sends.some((x) => feeds(x.to, b, seen)))
    );
  };
  return s.tracks.filter(
    (t) =>
      (forSend ? ['bus', 'return', 'folder'] : ['bus', 'return', 'folder', 'master']).includes(t.role) &&
      !feeds(t.id, from.id),
  );
}
