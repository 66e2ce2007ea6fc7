import { createHash, randomBytes } from 'node:crypto';
import { LessThan, MoreThan, Not, type DataSource } from 'typeorm';
import type { Person } from '../../contract/index.ts';
import { SignInRow, UserRow } from '../db/entities.ts';

/** ms after which a browser signs in again, used or not (OWASP ASVS 4.0, 3.3.2: 30 days). */
export const LASTS = 30 * 24 * 3600 * 1000;
/** random bytes of a token */
const TOKEN = 32;

/** A copy of the table is no way in: it holds hashes. */
export const tokenHash = (token: string): string => createHash('sha256').update(token).digest('hex');
const begin = (): Date => new Date(Date.now() - LASTS);

/** Somebody signed in. @returns what the browser keeps */
export async function beginSignIn(db: DataSource, person: string): Promise<string> {
  const token = randomBytes(TOKEN).toString('base64url');
  const rows = db.getRepository(SignInRow);
  await rows.delete({ createdAt: LessThan(begin()) });
  await rows.insert({ token: tokenHash(token), person });
  return token;
}

/** Who signed in with a browser; null where nobody is any more. */
export async function signedInAs(db: DataSource, token: string): Promise<Person | null> {
  const row = await db
    .getRepository(SignInRow)
    .findOneBy({ token: tokenHash(token), createdAt: MoreThan(begin()) });
  const user = row && (await db.getRepository(UserRow).findOneBy({ id: row.person }));
  return user && !user.closedAt ? { id: user.id, name: user.name } : null;
}

export async function endSignIn(db: DataSource, token: string): Promise<void> {
  await db.getRepository(SignInRow).delete({ token: tokenHash(token) });
}

/** Ends all of an account. @param except the token of one that stays @returns how many ended */
export async function endAll(db: DataSource, person: string, except?: string): Promise<number> {
  const others = except === undefined ? {} : { token: Not(tokenHash(except)) };
  return (await db.getRepository(SignInRow).delete({ person, ...others })).affected ?? 0;
}
