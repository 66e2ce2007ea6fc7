import { Router } from 'express';
import type { Person, Shares } from '../../contract/index.ts';
import { people } from '../accounts/accounts.ts';
import { endShare, share, sharesOf } from '../accounts/shares.ts';
import { ownerNow, personNow } from '../db/acting.ts';
import { UserRow } from '../db/entities.ts';
import { idOf, type Context } from './context.ts';
import { NewShareDto, check } from './dto.ts';
import { HttpProblem, notFound } from './problem.ts';
import { sessionListed } from './session-rows.ts';

/** The accounts of this server, and what is shared between them. */
export function peopleRoutes({ db }: Context): Router {
  const router = Router();

  router.get('/people', async (_req, res) => {
    res.json((await people(db)) satisfies Person[]);
  });
  router.get('/shares', async (_req, res) => {
    res.json((await sharesOf(db, personNow())) satisfies Shares);
  });
  /** Shares the own shelf or an own session, or changes what is allowed with it. */
  router.put('/shares', async (req, res) => {
    const dto = check(NewShareDto, req.body);
    const isSession = dto.kind === 'session';
    if (isSession !== (dto.right === 'edit') || isSession !== Boolean(dto.thing)) {
      throw new HttpProblem(
        'not-valid',
        'A session is shared to be edited (“edit”), by its id; a shelf to be read or added to (“read”, “add”).',
      );
    }
    if (dto.thing) await sessionListed(db, dto.thing);
    const other = await db.getRepository(UserRow).findOneBy({ id: dto.person });
    if (!other || other.closedAt) throw notFound('This account');
    if (other.id === ownerNow()) throw new HttpProblem('not-valid', 'It is yours already.');
    await share(db, ownerNow(), dto);
    res.json((await sharesOf(db, personNow())) satisfies Shares);
  });
  /** By whoever gave it, or got it. */
  router.delete('/shares/:id', async (req, res) => {
    if (!(await endShare(db, personNow(), idOf(req)))) throw notFound('This share');
    res.status(204).end();
  });

  return router;
}
