import { Router } from 'express';
import { IsNull, Like, Not } from 'typeorm';
import {
  DEVICE_TYPES,
  createDevice,
  createSession,
  createTrack,
  masterOf,
  validateSession,
  type Params,
} from '../../core/index.ts';
import { ROLES, type DefaultValue, type Defaults } from '../../contract/index.ts';
import { ownerNow } from '../db/acting.ts';
import { DefaultRow, PresetRow } from '../db/entities.ts';
import { DefaultDto, check } from './dto.ts';
import type { Context } from './context.ts';
import { SEARCH } from './searches.ts';
import { HttpProblem, invalid, notFound } from './problem.ts';

const NAME = /^(device|track|session|rack):([A-Za-z]{1,40})$/;
/** Roles that a new line can have. */
const LINES: readonly string[] = ROLES.filter((r) => r !== 'master');

/** Whether it is a preset that begins it: lines of a role, every new rack, every new session. */
const isOfPresets = (kind: string, what: string): boolean =>
  kind === 'track' ? LINES.includes(what) : (kind === 'session' || kind === 'rack') && what === 'new';

/** What new devices and new lines begin with; without an entry they begin as they came. */
export function defaultRoutes({ db }: Context): Router {
  const router = Router();
  const repo = db.getRepository(DefaultRow);

  router.get('/', async (_req, res) => {
    const rows = await repo.findBy({ owner: ownerNow(), name: Not(Like(`${SEARCH}%`)) });
    res.json(Object.fromEntries(rows.map((r) => [r.name, r.value as DefaultValue])) satisfies Defaults);
  });

  router.put('/:name', async (req, res) => {
    const [, kind, what] = NAME.exec(req.params.name) ?? [];
    const dto = check(DefaultDto, req.body);
    if (kind === 'device') {
      if (!DEVICE_TYPES[what] || DEVICE_TYPES[what].foreign || !dto.params) {
        throw new HttpProblem(
          'not-valid',
          `“${req.params.name.slice(0, 60)}” needs the values of a device that is built in.`,
        );
      }
      const bad = problemsOf(what, dto.params as Params);
      if (bad.length) throw invalid(`The default of ${DEVICE_TYPES[what].label}`, bad);
    } else if (isOfPresets(kind, what)) {
      if (!dto.preset) {
        const wanted = 'A default for lines, racks or sessions is a preset of the shelf.';
        throw new HttpProblem('not-valid', wanted);
      }
      if (
        !(await db
          .getRepository(PresetRow)
          .existsBy({ id: dto.preset, owner: ownerNow(), deletedAt: IsNull() }))
      ) {
        throw notFound('This preset');
      }
    } else {
      throw new HttpProblem(
        'not-valid',
        `“${req.params.name.slice(0, 60)}” is neither a device type nor a kind of line.`,
      );
    }
    await repo.upsert(
      {
        owner: ownerNow(),
        name: req.params.name,
        value: kind === 'device' ? { params: dto.params } : { preset: dto.preset },
      },
      ['owner', 'name'],
    );
    res.status(204).end();
  });

  router.delete('/:name', async (req, res) => {
    await repo.delete({ owner: ownerNow(), name: req.params.name });
    res.status(204).end();
  });

  return router;
}

/** What would be wrong with a device of these values. */
function problemsOf(type: string, params: Params) {
  const s = createSession();
  return validateSession({
    ...s,
    tracks: [
      createTrack('audio', {
        chain: [createDevice(type, params)],
        output: { kind: 'track', track: masterOf(s).id },
      }),
      ...s.tracks,
    ],
  });
}
