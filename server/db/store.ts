import { type DataSource, type EntityManager, IsNull } from 'typeorm';
import {
  cutText,
  devicesIn,
  rootsOf,
  walkSlots,
  type Preset,
  type Session,
  type Studio,
} from '../../core/index.ts';
import type { SetupSummary, StepKind } from '../../contract/index.ts';
import { ownerNow, personNow } from './acting.ts';
import {
  PresetRow,
  PresetVersionRow,
  SessionRevisionRow,
  SessionRow,
  SessionUseRow,
  SetupRow,
  SetupVersionRow,
  TagRow,
} from './entities.ts';
import { documentOf, WITH_DOCUMENT } from './session-document.ts';
import { transact } from './transaction.ts';

export function sessionRow(id: string, s: Session): SessionRow {
  const row = new SessionRow();
  return Object.assign(row, {
    id,
    owner: ownerNow(),
    revision: 1,
    written: 1,
    document: s,
    ...columnsOf(s),
    deletedAt: null,
  });
}

/** Puts a new session in, with what it uses of the shelf. */
export async function putSession(m: EntityManager, id: string, s: Session): Promise<void> {
  await m.insert(SessionRow, sessionRow(id, s));
  await putUses(m, id, s);
}

/** A change of a session: JSON Patch there and back, which window made it, and what it was in words. */
export interface MadeStep {
  patch: readonly unknown[];
  back: readonly unknown[];
  client: string;
  label: string;
  kind: StepKind;
}

/**
 * The next revision of a session: the change that leads to it, what lists show and what it uses. The document itself is
 * written later (`Documents`).
 * @param isOfOrigins it changes what is used of the shelf, whatever its operations look like
 * @returns false when another change was first; nothing is written then
 */
export async function putRevision(
  m: EntityManager,
  id: string,
  based: number,
  next: Session,
  step: MadeStep,
  isOfOrigins = false,
): Promise<boolean> {
  const { patch } = step;
  // what a session in the trash has of the shelf is brought along with the shelf: it may come back
  const there = isOfOrigins ? {} : { deletedAt: IsNull() };
  const r = await m.update(
    SessionRow,
    { id, revision: based, ...there },
    { revision: based + 1, ...columnsOf(next) },
  );
  if (r.affected !== 1) return false;
  const back = JSON.stringify(step.back);
  await m.insert(SessionRevisionRow, {
    session: id,
    revision: based + 1,
    owner: ownerNow(),
    person: personNow(),
    client: step.client,
    // as its column has it
    label: cutText(step.label, 200),
    kind: step.kind,
    patch: JSON.stringify(patch),
    back,
    size: back.length,
  });
  // most changes turn a knob: only those that touch an origin can change what is used
  if (
    isOfOrigins ||
    patch.length > 50 ||
    JSON.stringify(patch).includes('origin') ||
    (patch as { path?: string }[]).some((o) => /^\/tracks(\/[^/]+)?$|chain(\/[^/]+)?$/.test(o.path ?? ''))
  ) {
    await putUses(m, id, next);
  }
  return true;
}

async function putUses(m: EntityManager, id: string, s: Session): Promise<void> {
  const uses = new Map<string, Partial<SessionUseRow>>();
  for (const { origin: o } of rootsOf(s)) {
    const key = `${o.preset}/${o.version}`;
    const u = uses.get(key);
    uses.set(key, {
      session: id,
      preset: o.preset,
      version: o.version,
      owner: ownerNow(),
      places: (u?.places ?? 0) + 1,
    });
  }
  await m.delete(SessionUseRow, { session: id });
  if (uses.size) await m.insert(SessionUseRow, [...uses.values()]);
}

/** For databases from before uses were kept: reads every session once. */
export async function fillUses(db: DataSource): Promise<void> {
  if ((await db.getRepository(SessionUseRow).count()) > 0) return;
  for (const { id } of await db
    .getRepository(SessionRow)
    .find({ where: { deletedAt: IsNull() }, select: { id: true } })) {
    const row = await db.getRepository(SessionRow).findOne({ where: { id }, select: WITH_DOCUMENT });
    if (!row) continue;
    const session = await documentOf(db.manager, row);
    await transact(db, (m) => putUses(m, id, session));
  }
}

/** What the list shows, kept beside the document. */
export const columnsOf = (s: Session) => ({
  name: s.name,
  tempo: s.tempo,
  sampleRate: s.sampleRate,
  trackCount: s.tracks.length,
});

/** A version as stored and as found by search. */
export function presetRow(p: Preset): PresetRow {
  const devices = p.content.tracks.flatMap((t) => devicesIn(t.chain));
  const row = new PresetRow();
  return Object.assign(row, {
    id: p.id,
    owner: ownerNow(),
    kind: p.kind,
    name: p.name,
    category: p.category,
    colour: p.colour,
    pinned: 0,
    currentVersion: p.version,
    parent: p.parent && p.parent.preset !== p.id ? p.parent.preset : null,
    deletedAt: null,
    summary: {
      note: p.note,
      tags: p.tags,
      tracks: p.content.tracks.length,
      spares: p.content.spares.map((s) => s.name),
      devices: devices.map((d) => ({ type: d.type, name: d.name, state: d.state })),
    },
    search: searchText(p),
  });
}

export const searchText = (p: Preset): string =>
  [
    p.name,
    p.category,
    ...p.tags,
    p.kind,
    p.note,
    ...p.content.tracks.flatMap((t) => [
      t.name,
      ...[...walkSlots(t.chain)].map((d) => `${d.name} ${d.kind === 'device' ? d.type : 'rack'}`),
    ]),
  ]
    .join(' ')
    .slice(0, 20000);

/** It was dropped, or a session was started from it. */
export async function markUsed(m: EntityManager, preset: string): Promise<void> {
  const used = { lastUsedAt: new Date(), drops: () => 'drops + 1' };
  await m.update(PresetRow, { id: preset, owner: ownerNow() }, used);
}

export async function putPreset(m: EntityManager, p: Preset): Promise<void> {
  await m.insert(PresetRow, presetRow(p));
  await putDocument(m, p);
}

/** Puts the next version of a preset in. @returns false when another one came first; nothing is put in then */
export async function putPresetVersion(m: EntityManager, p: Preset): Promise<boolean> {
  const { pinned: _p, lastUsedAt: _l, parent: _v, ...fields } = presetRow(p);
  const r = await m.update(PresetRow, { id: p.id, currentVersion: p.version - 1 }, fields);
  if (r.affected !== 1) return false;
  await putDocument(m, p);
  return true;
}

/** One version as it was saved, and the tags that the preset has with it. */
async function putDocument(m: EntityManager, p: Preset): Promise<void> {
  const { id: preset, version, hash } = p;
  await m.insert(PresetVersionRow, {
    preset,
    version,
    owner: ownerNow(),
    person: personNow(),
    hash,
    document: p,
  });
  await putTags(m, preset, p.tags);
}

/** Tags that collate alike are one: “cafe” and “Café”. */
const sortedAs = (tag: string) => tag.trim().normalize('NFKD').replace(/\p{M}/gu, '').toLowerCase();

export async function putTags(m: EntityManager, preset: string, tags: string[]): Promise<void> {
  await m.delete(TagRow, { preset });
  const unique = [...new Map(tags.map((t) => [sortedAs(t), t.trim()])).values()].filter(Boolean);
  if (!unique.length) return;
  // in one order for all, so that parallel saves wait for each other's counts and not in a circle
  const rows = unique.sort().map((name) => ({ preset, name, owner: ownerNow() }));
  // what the database takes for the same tag stands there once
  await m.createQueryBuilder().insert().into(TagRow).values(rows).orIgnore().execute();
}

/** What the list shows of a studio. */
const setupSummary = (s: Studio): SetupSummary => ({
  inputs: s.ports.filter((p) => p.side === 'in').length,
  outputs: s.ports.filter((p) => p.side === 'out').length,
  bays: s.bays.length,
  units: s.units.map((u) => u.name),
});

/** Puts in the first version of a studio. */
export async function putSetup(m: EntityManager, s: Studio): Promise<void> {
  const row = {
    id: s.id,
    owner: ownerNow(),
    name: s.name,
    currentVersion: 1,
    summary: setupSummary(s),
    deletedAt: null,
  };
  await m.insert(SetupRow, row);
  await m.insert(SetupVersionRow, {
    setup: s.id,
    version: 1,
    owner: ownerNow(),
    document: { ...s, version: 1 },
  });
}

/**
 * The next version of a studio.
 * @returns false when another was first; nothing is written then
 */
export async function putSetupVersion(m: EntityManager, s: Studio, based: number): Promise<boolean> {
  const now = { name: s.name, currentVersion: based + 1, summary: setupSummary(s) };
  const there = { id: s.id, owner: ownerNow(), currentVersion: based, deletedAt: IsNull() };
  const { affected } = await m.update(SetupRow, there, now);
  if (affected !== 1) return false;
  const document = { ...s, version: based + 1 };
  await m.insert(SetupVersionRow, { setup: s.id, version: based + 1, owner: ownerNow(), document });
  return true;
}
