import { randomUUID } from 'node:crypto';
import { Router, raw } from 'express';
import jsonpatch, { type Operation } from 'fast-json-patch';
import { IsNull, Not } from 'typeorm';
import {
  clone,
  createSession,
  devicesIn,
  readDawproject,
  startSession,
  validateSession,
  writeDawproject,
  type Session,
} from '../../core/index.ts';
import { DropRecordRow, OWNER, PresetRow, SessionRow } from '../db/entities.ts';
import { getMedia, putMedia, putRevision, putSession } from '../db/store.ts';
import { FileNameDto, NewSessionDto, PatchDto, check } from './dto.ts';
import { idOf, ifMatch, type Context } from './context.ts';
import { currentVersion } from './presets.ts';
import { HttpProblem, invalid, notFound } from './problem.ts';

const LIST = {
  id: true,
  name: true,
  revision: true,
  tempo: true,
  sampleRate: true,
  trackCount: true,
  createdAt: true,
  updatedAt: true,
} as const;

export function sessionRoutes({ db, events }: Context): Router {
  const router = Router();
  const repo = db.getRepository(SessionRow);

  const load = async (id: string): Promise<SessionRow & { document: Session }> => {
    const row = await repo.findOne({
      where: { id, owner: OWNER, deletedAt: IsNull() },
      select: { ...LIST, document: true },
    });
    if (!row) throw notFound('This session');
    return row as SessionRow & { document: Session };
  };

  router.get('/', async (_req, res) => {
    res.json(
      await repo.find({
        where: { owner: OWNER, deletedAt: IsNull() },
        select: LIST,
        order: { updatedAt: 'DESC', id: 'ASC' },
        take: 500,
      }),
    );
  });

  router.post('/', async (req, res) => {
    const dto = check(NewSessionDto, req.body);
    const over = {
      name: dto.name,
      ...(dto.tempo ? { tempo: dto.tempo } : {}),
      ...(dto.sampleRate ? { sampleRate: dto.sampleRate } : {}),
      ...(dto.bitDepth ? { bitDepth: dto.bitDepth } : {}),
    };
    const id = randomUUID();
    if (dto.preset) {
      const preset = await currentVersion(db, dto.preset);
      const { session, plan, report } = startSession(preset, over);
      await db.transaction(async (m) => {
        await putSession(m, id, session);
        await m.insert(DropRecordRow, {
          id: plan.drop,
          session: id,
          preset: preset.id,
          version: preset.version,
          owner: OWNER,
          record: {
            name: preset.name,
            ties: [],
            parts: plan.parts,
            adaptations: plan.adaptations.filter((a) => a.on),
            renames: [],
            report,
          },
        });
        await m.update(PresetRow, { id: preset.id }, { lastUsedAt: new Date() });
      });
    } else {
      const base = dto.copyOf ? clone((await load(dto.copyOf)).document) : createSession();
      await db.transaction((m) => putSession(m, id, { ...base, ...over }));
    }
    res.status(201).location(`/api/sessions/${id}`).json({ id, revision: 1 });
  });

  router.post('/import', raw({ type: () => true, limit: '300mb' }), async (req, res) => {
    const name = check(FileNameDto, req.query, 'query').name ?? 'imported.dawproject';
    const bytes = req.body as Buffer;
    if (!Buffer.isBuffer(bytes) || bytes.length === 0) {
      throw new HttpProblem(
        400,
        'Empty',
        `“${name}” is empty. Choose the file that the other program exported.`,
      );
    }
    const read = readDawproject(bytes, name);
    const source = await putMedia(db, bytes, name, 'dawproject');
    for (const wav of read.media.values()) await putMedia(db, Buffer.from(wav), 'imported.wav', 'wav');
    for (const t of read.session.tracks) {
      for (const d of devicesIn(t.chain)) {
        const s = d.foreign?.state;
        if (s) await putMedia(db, Buffer.from(read.source.entries[s.path]), s.path, 'state');
      }
    }
    const id = randomUUID();
    await db.transaction((m) =>
      putSession(m, id, { ...read.session, source: { format: 'dawproject', sha256: source.id, name } }),
    );
    res.status(201).json({ id, revision: 1, notes: read.notes });
  });

  router.get('/:id', async (req, res) => {
    const row = await load(idOf(req));
    res.setHeader('ETag', `"${row.revision}"`);
    res.setHeader('Cache-Control', 'no-store');
    res.json({ id: row.id, revision: row.revision, document: row.document });
  });

  router.patch('/:id', async (req, res) => {
    const id = idOf(req);
    const based = ifMatch(req);
    const { ops } = check(PatchDto, { ops: req.body as unknown });
    const row = await load(id);
    if (row.revision !== based) {
      throw new HttpProblem(
        412,
        'Changed elsewhere',
        `“${row.name}” was changed in another window (revision ${row.revision}, this change is based on ${based}).`,
        [],
        { revision: row.revision },
      );
    }
    let next: Session;
    try {
      next = jsonpatch.applyPatch(row.document, ops as Operation[], true, false).newDocument as Session;
    } catch (e) {
      throw new HttpProblem(
        422,
        'Patch not possible',
        `The change does not fit this session: ${(e as Error).message.split('\n')[0]}`,
      );
    }
    const bad = validateSession(next);
    if (bad.length) throw invalid(`“${row.name}”`, bad);
    const client = (req.header('x-client') ?? '').slice(0, 64);
    const ok = await db.transaction((m) => putRevision(m, id, based, next, ops, client));
    if (!ok) {
      throw new HttpProblem(
        412,
        'Changed elsewhere',
        `“${row.name}” was changed in another window at the same moment.`,
      );
    }
    events.changed({ session: id, revision: based + 1, client });
    res.setHeader('ETag', `"${based + 1}"`);
    res.json({ revision: based + 1 });
  });

  router.delete('/:id', async (req, res) => {
    const r = await repo.update(
      { id: idOf(req), owner: OWNER, deletedAt: IsNull() },
      { deletedAt: new Date() },
    );
    if (!r.affected) throw notFound('This session');
    res.status(204).end();
  });

  router.post('/:id/restore', async (req, res) => {
    const r = await repo.update(
      { id: idOf(req), owner: OWNER, deletedAt: Not(IsNull()) },
      { deletedAt: null },
    );
    if (!r.affected) throw notFound('This session');
    res.status(204).end();
  });

  router.get('/:id/events', async (req, res) => {
    const id = idOf(req);
    const row = await load(id);
    res.writeHead(200, {
      'Content-Type': 'text/event-stream',
      'Cache-Control': 'no-store',
      Connection: 'keep-alive',
    });
    const send = (data: object) => {
      res.write(`data: ${JSON.stringify(data)}\n\n`);
    };
    send({ revision: row.revision, client: '' });
    const stop = events.listen(id, (c) => send({ revision: c.revision, client: c.client }));
    const beat = setInterval(() => res.write(': still here\n\n'), 20000);
    req.on('close', () => {
      clearInterval(beat);
      stop();
    });
  });

  const written = async (id: string) => {
    const { document: s } = await load(id);
    const source = s.source ? await getMedia(db, s.source.sha256) : null;
    if (s.source && !source) {
      throw new HttpProblem(
        409,
        'Source missing',
        `The imported file “${s.source.name}” is not in the database any more, so an export would lose what this program does not know.`,
      );
    }
    const media = new Map<string, Uint8Array>();
    for (const m of s.media) {
      const b = await getMedia(db, m.id);
      if (b) media.set(m.id, b);
    }
    const states = new Map<string, Uint8Array>();
    for (const t of s.tracks) {
      for (const d of devicesIn(t.chain)) {
        const st = d.foreign?.state;
        if (st && !states.has(st.sha256)) {
          const b = await getMedia(db, st.sha256);
          if (b) states.set(st.sha256, b);
        }
      }
    }
    return { name: s.name, ...writeDawproject(s, { ...(source ? { source } : {}), media, states }) };
  };

  router.get('/:id/export', async (req, res) => {
    const { bytes, name } = await written(idOf(req));
    res.setHeader(
      'Content-Disposition',
      `attachment; filename*=UTF-8''${encodeURIComponent(name.replace(/[\\/:*?"<>|]/g, '-'))}.dawproject`,
    );
    res.type('application/zip').send(Buffer.from(bytes));
  });

  router.get('/:id/export/notes', async (req, res) => {
    res.json({ notes: (await written(idOf(req))).notes });
  });

  return router;
}
