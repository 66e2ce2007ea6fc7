import { parseCookie } from 'cookie';
import { Router, type Request, type RequestHandler, type Response } from 'express';
import type { DataSource } from 'typeorm';
import type { Me, Person } from '../../contract/index.ts';
import { AccountProblem, setPassword, whoIs } from '../accounts/accounts.ts';
import { beginSignIn, endAll, endSignIn, LASTS, signedInAs } from '../accounts/sign-ins.ts';
import { TooManyTries, Tries } from '../accounts/tries.ts';
import { OWNER } from '../db/entities.ts';
import type { Context } from './context.ts';
import { NewPasswordDto, SignInDto, check } from './dto.ts';
import { HttpProblem } from './problem.ts';

/** What is answered to anybody: whether it is there, what can be asked of it, and the way in. */
const OPEN = /^\/(health|openapi\.json|sign-in|schema\/[^/]+)$/;
const ALONE: Person = { id: OWNER, name: 'You' };

interface Signed {
  person?: Person;
  token?: string;
}
const signedOf = (res: Response): Signed => res.locals as Signed;

/** Who asks. */
export function personOf(res: Response): Person {
  const { person } = signedOf(res);
  if (!person) throw new HttpProblem('sign-in-needed', 'Sign in first.');
  return person;
}

/** The cookie that a browser is known by; behind TLS its name keeps other hosts from setting it (RFC 6265bis). */
const cookieName = (req: Request): string => (req.secure ? '__Host-rope-shelf' : 'rope-shelf');
const tokenOf = (req: Request): string | undefined =>
  parseCookie(req.headers.cookie ?? '')[cookieName(req)] ?? undefined;

/** Lets in who signed in, and everybody to what is open to everybody. @param isNeeded whether anybody signs in here */
export function signedIn(db: DataSource, isNeeded: boolean): RequestHandler {
  return async (req, res, next) => {
    const signed = signedOf(res);
    const token = tokenOf(req);
    if (!isNeeded) signed.person = ALONE;
    else if (token) {
      signed.person = (await signedInAs(db, token)) ?? undefined;
      signed.token = token;
    }
    // what one account was answered is for no other one of the same browser
    if (isNeeded) res.setHeader('Cache-Control', 'private, no-cache').vary('Cookie');
    if (signed.person || OPEN.test(req.path)) {
      next();
      return;
    }
    // RFC 9110, 15.5.2: says how
    res.setHeader('WWW-Authenticate', 'Cookie realm="Rope Shelf"');
    next(new HttpProblem('sign-in-needed', 'Sign in first.'));
  };
}

/** Whether who asked is still signed in: for answers that go on. */
export async function isStillIn({ db, access }: Context, res: Response): Promise<boolean> {
  if (!access.isNeeded) return true;
  const { token } = signedOf(res);
  return token !== undefined && (await signedInAs(db, token)) !== null;
}

/** In and out. */
export function signInRoutes({ db, access }: Context): Router {
  const router = Router();
  const tries = new Tries(db);

  router.get('/me', (_req, res) => {
    res.json({ person: personOf(res), signIn: access.isNeeded } satisfies Me);
  });
  router.use(['/sign-in', '/sign-out', '/sign-out-everywhere', '/password'], (_req, _res, next) => {
    const alone = 'Nobody signs in here: this server answers its own machine alone.';
    next(access.isNeeded ? undefined : new HttpProblem('not-found', alone));
  });

  router.post('/sign-in', async (req, res) => {
    const { name, password } = check(SignInDto, req.body);
    const person = await tried(req, res, name, () => whoIs(db, name, password));
    if (!person) {
      const way =
        'Look at both again. Whoever runs this server can set another: npm run account -- password NAME';
      throw new HttpProblem(
        'sign-in-refused',
        `There is no account “${name.slice(0, 80)}” with this password. ${way}`,
      );
    }
    await begin(req, res, person);
  });
  router.post('/sign-out', async (req, res) => {
    const { token } = signedOf(res);
    if (token) await endSignIn(db, token);
    res.clearCookie(cookieName(req), cookieOf(req)).status(204).end();
  });
  /** In every browser, this one too. */
  router.post('/sign-out-everywhere', async (req, res) => {
    await endAll(db, personOf(res).id);
    res.clearCookie(cookieName(req), cookieOf(req)).status(204).end();
  });
  /** Other browsers have to sign in again. */
  router.post('/password', async (req, res) => {
    const { name } = personOf(res);
    const { old, password } = check(NewPasswordDto, req.body);
    if (!(await tried(req, res, name, () => whoIs(db, name, old)))) {
      throw new HttpProblem('sign-in-refused', 'The old password is another one. Look at it again.');
    }
    try {
      await setPassword(db, name, password);
    } catch (e) {
      throw e instanceof AccountProblem ? new HttpProblem('not-valid', e.message) : e;
    }
    await begin(req, res, personOf(res));
  });

  /** A try to sign in, which counts when it fails. */
  async function tried(
    req: Request,
    res: Response,
    name: string,
    attempt: () => Promise<Person | null>,
  ): Promise<Person | null> {
    try {
      const right = await tries.begin(name, req.ip ?? '');
      const person = await attempt();
      if (person) await right();
      return person;
    } catch (e) {
      if (!(e instanceof TooManyTries)) throw e;
      res.setHeader('Retry-After', e.seconds);
      const minutes = Math.ceil(e.seconds / 60);
      throw new HttpProblem('too-many-tries', `Too many wrong passwords. Try again in ${minutes} min.`);
    }
  }

  /** A new sign-in of this browser; the one before ends. */
  async function begin(req: Request, res: Response, person: Person): Promise<void> {
    const { token: before } = signedOf(res);
    if (before) await endSignIn(db, before);
    const token = await beginSignIn(db, person.id);
    res.cookie(cookieName(req), token, { ...cookieOf(req), maxAge: LASTS });
    res.json({ person, signIn: true } satisfies Me);
  }

  return router;
}

/** Neither read by scripts nor sent from pages of others, and behind TLS never without it. */
const cookieOf = (req: Request) =>
  ({ httpOnly: true, sameSite: 'strict', secure: req.secure, path: '/' }) as const;
