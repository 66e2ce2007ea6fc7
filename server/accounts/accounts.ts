import { randomUUID } from 'node:crypto';
import { IsNull, type DataSource } from 'typeorm';
import type { Person } from '../../contract/index.ts';
import { OWNER, UserRow } from '../db/entities.ts';
import { hashedPassword, isPassword, NO_PASSWORD, passwordProblem } from './passwords.ts';
import { endAll } from './sign-ins.ts';

/** Something about an account that can't be done, in words for whoever asked. */
export class AccountProblem extends Error {}

export interface Account extends Person {
  closedAt: Date | null;
  canSignIn: boolean;
}

const LONGEST_NAME = 80;

function nameFrom(text: string): string {
  const name = text.trim().normalize('NFC');
  if (!name || name.length > LONGEST_NAME || /\p{C}/u.test(name)) {
    throw new AccountProblem(`A name has 1 to ${LONGEST_NAME} characters.`);
  }
  return name;
}
function checked(password: string, name: string): string {
  const wrong = passwordProblem(password, name);
  if (wrong) throw new AccountProblem(wrong);
  return password;
}

/** All accounts, the first one first. */
export async function accounts(db: DataSource): Promise<Account[]> {
  const rows = await db.getRepository(UserRow).find({
    select: { id: true, name: true, closedAt: true, password: true },
    order: { createdAt: 'ASC', name: 'ASC' },
  });
  return rows.map(({ id, name, closedAt, password }) => ({
    id,
    name,
    closedAt,
    canSignIn: password !== null && !closedAt,
  }));
}

/** Those who can sign in. */
export async function people(db: DataSource): Promise<Person[]> {
  const all = await accounts(db);
  return all.filter((a) => a.canSignIn).map(({ id, name }) => ({ id, name }));
}

async function accountOf(db: DataSource, name: string): Promise<Account> {
  const wanted = nameFrom(name);
  const { id } = (await db.getRepository(UserRow).findOneBy({ name: wanted })) ?? {};
  const account = (await accounts(db)).find((a) => a.id === id);
  if (!account) throw new AccountProblem(`There is no account “${wanted}”.`);
  return account;
}

/** The id of the account of a name. @throws AccountProblem where there is none */
export const accountIdOf = async (db: DataSource, name: string): Promise<string> =>
  (await accountOf(db, name)).id;

/**
 * A new account, or one that was closed and is open again. The first one gets what is here already.
 * @throws AccountProblem where the name is taken, or the password is none
 */
export async function addAccount(db: DataSource, text: string, password: string): Promise<Account> {
  const name = nameFrom(text);
  const repo = db.getRepository(UserRow);
  const known = await repo.findOne({ where: { name }, select: { id: true, closedAt: true, password: true } });
  if (known?.password && !known.closedAt) throw new AccountProblem(`There is an account “${name}” already.`);
  const kept = { name, password: await hashedPassword(checked(password, name)), closedAt: null };
  const isFirst = !(await accounts(db)).some((a) => a.canSignIn || a.closedAt);
  const id = known?.id ?? (isFirst ? OWNER : randomUUID());
  await repo.upsert({ id, ...kept }, ['id']);
  return accountOf(db, name);
}

/** Another password; every browser has to sign in again, but the one that is named. */
export async function setPassword(
  db: DataSource,
  name: string,
  password: string,
  except?: string,
): Promise<void> {
  const { id, name: own } = await accountOf(db, name);
  const kept = await hashedPassword(checked(password, own));
  await db.getRepository(UserRow).update({ id }, { password: kept });
  await endAll(db, id, except);
}

/** Nobody signs in with it any more; what it has stays, and it can be added again under its name. */
export async function closeAccount(db: DataSource, name: string): Promise<void> {
  const { id } = await accountOf(db, name);
  await db.getRepository(UserRow).update({ id, closedAt: IsNull() }, { closedAt: new Date() });
  await endAll(db, id);
}

/** Every browser has to sign in again. @returns how many were signed in */
export async function signOutEverywhere(db: DataSource, name: string): Promise<number> {
  return endAll(db, (await accountOf(db, name)).id);
}

/** Whose name and password these are; null where they are nobody's, which takes as long to find out. */
export async function whoIs(db: DataSource, name: string, password: string): Promise<Person | null> {
  const row = await db.getRepository(UserRow).findOne({
    where: { name: name.trim().normalize('NFC') },
    select: { id: true, name: true, password: true, closedAt: true },
  });
  const isRight = await isPassword(password, row?.password ?? NO_PASSWORD);
  return row && isRight && !row.closedAt ? { id: row.id, name: row.name } : null;
}
