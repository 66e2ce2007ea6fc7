import { Router, type NextFunction, type RequestHandler, type Response } from 'express';
import type { Right, Thing } from '../accounts/access.ts';
import { actAsOwner } from '../db/acting.ts';
import type { Context } from './context.ts';
import { DropDto, OfShelfDto, check } from './dto.ts';
import { personOf } from './sign-in.ts';

type Method = 'get' | 'post' | 'patch';

/**
 * What is open to those whom something is shared with: each route, what its id names, and the right that it takes. All
 * other routes are for the owner alone.
 */
const OPEN: readonly (readonly [Method, path: string, Thing, Right])[] = [
  ['get', '/presets/:id', 'preset', 'read'],
  ['get', '/presets/:id/versions/:version', 'preset', 'read'],
  ['get', '/presets/:id/tags', 'preset', 'read'],
  ['get', '/presets/:id/likeness', 'preset', 'read'],
  ['post', '/presets/:id/versions', 'preset', 'add'],
  ['get', '/packs/of/:id', 'preset', 'read'],
  ['get', '/packs/of/:id/json', 'preset', 'read'],
  ['get', '/setups/:id', 'setup', 'read'],
  ['get', '/setups/:id/versions/:version', 'setup', 'read'],
  ['get', '/sessions/:id', 'session', 'edit'],
  ['patch', '/sessions/:id', 'session', 'edit'],
  ['post', '/sessions/:id/opened', 'session', 'edit'],
  ['get', '/sessions/:id/events', 'session', 'edit'],
  ['post', '/sessions/:id/here', 'session', 'edit'],
  ['get', '/sessions/:id/history', 'session', 'edit'],
  ['get', '/sessions/:id/history/:revision', 'session', 'edit'],
  ['get', '/sessions/:id/export', 'session', 'edit'],
  ['get', '/sessions/:id/export/notes', 'session', 'edit'],
  ['get', '/sessions/:id/recall.pdf', 'session', 'edit'],
  ['get', '/drops/of/:id', 'session', 'edit'],
  ['get', '/drops/:id', 'drop', 'edit'],
];
/** Lists of a shelf: the one that is asked for. */
const LISTS = ['/presets', '/presets/facets', '/setups'];

/** A request whose place is known: what fits it further down the table is not asked any more. */
interface Placed {
  isPlaced?: boolean;
}
function goOn(res: Response, next: NextFunction): void {
  (res.locals as Placed).isPlaced = true;
  next();
}

/**
 * Decides in whose place a request is answered: where what it asks for is shared with whoever asks, in that of its
 * owner; otherwise in the own one, where things of others are not found.
 */
export function spaces({ access }: Context): RequestHandler {
  const own: RequestHandler = (_req, res, next) => {
    actAsOwner(personOf(res).id, next);
  };
  if (!access.isNeeded) return own;

  const places = Router();
  places.use(own);
  for (const path of LISTS) {
    places.get(path, async (req, res, next) => {
      const { of } = check(OfShelfDto, req.query.of === undefined ? {} : { of: req.query.of }, 'query');
      if (of === undefined) next();
      else await access.atShelf(of, 'read', () => goOn(res, next));
    });
  }
  for (const [method, path, thing, right] of OPEN) places[method](path, placed(thing, right));
  places.post('/drops', async (req, _res, next) => {
    await access.at('session', check(DropDto, req.body).session, 'edit', next);
  });
  // what is seen, and is not open to this, says so
  for (const thing of ['preset', 'setup', 'session'] as const) {
    places.all(`/${thing}s/:id{/*rest}`, placed(thing, 'own'));
  }
  return places;

  function placed(thing: Thing, right: Right): RequestHandler {
    return async (req, res, next) => {
      if ((res.locals as Placed).isPlaced) next();
      else await access.at(thing, String(req.params.id), right, () => goOn(res, next));
    };
  }
}
