import { randomUUID } from 'node:crypto';
import { Router, type Request } from 'express';
import type { Operation } from 'fast-json-patch';
import { IsNull, Not, type DataSource } from 'typeorm';
import type { Revision, Saved, SessionOpened, StepKind } from '../../contract/index.ts';
import {
  clone,
  createSession,
  startSession,
  validateChange,
  type Preset,
  type Session,
} from '../../core/index.ts';
import { namesOf } from '../accounts/shares.ts';
import { ownerNow } from '../db/acting.ts';
import { dropRecord } from '../db/drop-record.ts';
import { DropRecordRow, SessionRow } from '../db/entities.ts';
import { markUsed, putRevision, putSession } from '../db/store.ts';
import { withWayBack } from '../work/way-back.ts';
import { idOf, ifMatch, type Context } from './context.ts';
import { NewSessionDto, PatchDto, check } from './dto.ts';
import { HttpProblem, invalid, notFound } from './problem.ts';
import { sessionEventRoutes } from './session-events.ts';
import { sessionHistoryRoutes } from './session-history.ts';
import { sessionFileRoutes } from './session-files.ts';
import { sessionListed, sessionWithDocument } from './session-rows.ts';
import { sessionSearchRoutes } from './session-search.ts';
import { currentVersion } from './shelf.ts';
import { transact } from '../db/transaction.ts';

export function sessionRoutes(context: Context): Router {
  const { db, access } = context;
  const router = Router();
  const repo = db.getRepository(SessionRow);
  router.use(
    sessionSearchRoutes(context),
    sessionFileRoutes(context),
    sessionEventRoutes(context),
    sessionHistoryRoutes(context),
    documentRoutes(context),
  );

  router.post('/', async (req, res) => {
    const dto = check(NewSessionDto, req.body);
    const id = randomUUID();
    if (dto.preset) {
      const { preset: from, version } = dto;
      const preset = await access.at('preset', from, 'read', () => currentVersion(db, from, version));
      await startFrom(preset, id, settingsOf(dto), db);
    } else await startEmpty(await baseOf(dto.copyOf, context), id, settingsOf(dto), db);
    const saved: Saved = { id, revision: 1 };
    res.status(201).location(`/api/sessions/${id}`).json(saved);
  });

  router.delete('/:id', async (req, res) => {
    const there = { id: idOf(req), owner: ownerNow(), deletedAt: IsNull() };
    const r = await repo.update(there, { deletedAt: new Date() });
    if (!r.affected) throw notFound('This session');
    res.status(204).end();
  });

  router.post('/:id/restore', async (req, res) => {
    const deleted = { id: idOf(req), owner: ownerNow(), deletedAt: Not(IsNull()) };
    const r = await repo.update(deleted, { deletedAt: null });
    if (!r.affected) throw notFound('This session');
    res.status(204).end();
  });

  return router;
}

type Settings = Partial<Pick<Session, 'name' | 'tempo' | 'sampleRate' | 'bitDepth'>>;

const settingsOf = (dto: NewSessionDto): Settings => ({
  name: dto.name,
  ...(dto.tempo ? { tempo: dto.tempo } : {}),
  ...(dto.sampleRate ? { sampleRate: dto.sampleRate } : {}),
  ...(dto.bitDepth ? { bitDepth: dto.bitDepth } : {}),
});

/** A new session from a preset, with the record of its drop. */
async function startFrom(preset: Preset, id: string, over: Settings, db: DataSource): Promise<void> {
  const { session, plan, report } = startSession(preset, over);
  const record = {
    name: preset.name,
    ties: [],
    parts: plan.parts,
    adaptations: plan.adaptations.filter((a) => a.on),
    renames: [],
    report,
  };
  await transact(db, async (m) => {
    await putSession(m, id, session);
    const { version } = preset;
    const row = { id: plan.drop, session: id, preset: preset.id, version, owner: ownerNow(), record };
    await m.insert(DropRecordRow, dropRecord(row));
    await markUsed(m, preset.id);
  });
}

/** What a new session begins with: nothing, or all that another one has. */
async function baseOf(copyOf: string | undefined, { db, access }: Context): Promise<Session> {
  if (!copyOf) return createSession();
  const { document } = await access.at('session', copyOf, 'edit', () => sessionWithDocument(db, copyOf));
  return clone(document);
}

async function startEmpty(base: Session, id: string, over: Settings, db: DataSource): Promise<void> {
  await transact(db, (m) => putSession(m, id, { ...base, ...over }));
}

/** The document itself: read whole, changed by JSON Patch (RFC 6902) with If-Match (RFC 9110). */
function documentRoutes({ db, events, documents }: Context): Router {
  const router = Router();
  /** A session as it is; its document is not read again where it was written here. */
  async function sessionFor(id: string, based: number) {
    const document = documents.at(id, based);
    if (!document) return sessionWithDocument(db, id);
    const row = await sessionListed(db, id);
    return row.revision === based ? { ...row, document } : sessionWithDocument(db, id);
  }

  router.get('/:id', async (req, res) => {
    const { id, revision, document, owner: whose } = await sessionWithDocument(db, idOf(req));
    const owner = (await namesOf(db, [whose])).get(whose) ?? { id: whose, name: '' };
    res.setHeader('ETag', `"${revision}"`);
    res.setHeader('Cache-Control', 'no-store');
    res.json({ id, revision, document, owner } satisfies SessionOpened);
  });

  router.patch('/:id', async (req, res) => {
    const id = idOf(req);
    const based = ifMatch(req);
    const { ops } = check(PatchDto, { ops: req.body as unknown });
    const row = await sessionFor(id, based);
    if (row.revision !== based) {
      throw new HttpProblem(
        'changed-elsewhere',
        `“${row.name}” was changed in another window (revision ${row.revision}, this change is based on ${based}).`,
        [],
        { revision: row.revision },
      );
    }
    const { next, back } = patched(row.document, ops as Operation[]);
    const wrong = validateChange(row.document, next);
    if (wrong.length) throw invalid(`“${row.name}”`, wrong);
    const client = (req.header('x-client') ?? '').slice(0, 64);
    const step = { patch: ops, back, client, ...wordsOf(req) };
    const ok = await transact(db, (m) => putRevision(m, id, based, next, step));
    if (!ok) {
      throw new HttpProblem(
        'changed-elsewhere',
        `“${row.name}” was changed in another window at the same moment.`,
      );
    }
    documents.changed(id, based + 1, next);
    events.changed({ session: id, revision: based + 1, client });
    res.setHeader('ETag', `"${based + 1}"`);
    res.json({ revision: based + 1 } satisfies Revision);
  });

  return router;
}

/** What a change is in words, and whether it undoes or redoes: percent-encoded, as headers carry no other letters. */
function wordsOf(req: Request): { label: string; kind: StepKind } {
  const kind = req.header('x-step-kind');
  return {
    label: decoded(req.header('x-step') ?? ''),
    kind: kind === 'undo' || kind === 'redo' ? kind : 'do',
  };
}
function decoded(text: string): string {
  try {
    return decodeURIComponent(text);
  } catch {
    // not from our own window: it stays as it came
    return text;
  }
}

function patched(document: Session, ops: Operation[]): ReturnType<typeof withWayBack> {
  try {
    return withWayBack(document, ops);
  } catch (e) {
    throw new HttpProblem(
      'patch-not-possible',
      `The change does not fit this session: ${(e as Error).message.split('\n')[0]}`,
    );
  }
}
