import { randomBytes, scrypt, timingSafeEqual, type ScryptOptions } from 'node:crypto';
import { promisify } from 'node:util';
import { dictionary } from '@zxcvbn-ts/language-common';

const hashed = promisify<string, Buffer, number, ScryptOptions, Buffer>(scrypt);

/**
 * What scrypt (RFC 7914) takes: 32 MB and about a quarter of a second on a machine of today. One of the settings that
 * OWASP's cheat sheet on password storage names as equal to each other (from memory); this one keeps many sign-ins at
 * once from filling the memory.
 */
const COST = { log2: 15, r: 8, p: 3 };
const SALT = 16;
const KEY = 32;

/** Characters of a password, at least and at most (OWASP ASVS 4.0, 2.1.1 and 2.1.2). */
export const SHORTEST = 12;
export const LONGEST = 128;
/** What is guessed first: about 49,000 passwords that many people have. */
const COMMON = new Set(dictionary['passwords-common']);

function optionsOf(log2: number, r: number, p: number): ScryptOptions {
  const N = 2 ** log2;
  // what it needs by its definition, and room beside it
  return { N, r, p, maxmem: 2 * 128 * N * r };
}

/** A password as one typing habit or another sends it: composed characters (NIST SP 800-63B, 5.1.1.2). */
const sameAs = (password: string): string => password.normalize('NFKC');

/** What is kept of a password: the way it was hashed, its own salt, and the hash. */
export async function hashedPassword(password: string): Promise<string> {
  const { log2, r, p } = COST;
  const salt = randomBytes(SALT);
  const key = await hashed(sameAs(password), salt, KEY, optionsOf(log2, r, p));
  return ['scrypt', log2, r, p, salt.toString('base64'), key.toString('base64')].join('$');
}

/** Whether it is the password that `hashedPassword` made this of. */
export async function isPassword(password: string, kept: string): Promise<boolean> {
  const [, log2, r, p, salt, key] = kept.split('$');
  const wanted = Buffer.from(key, 'base64');
  const options = optionsOf(Number(log2), Number(r), Number(p));
  const found = await hashed(sameAs(password), Buffer.from(salt, 'base64'), wanted.length, options);
  return timingSafeEqual(found, wanted);
}

/** What no password is hashed to: where there is no account, it takes as long to say so as where there is one. */
export const NO_PASSWORD = [
  'scrypt',
  COST.log2,
  COST.r,
  COST.p,
  Buffer.alloc(SALT).toString('base64'),
  Buffer.alloc(KEY).toString('base64'),
].join('$');

/** What is wrong with a new password, in words; null where nothing is. */
export function passwordProblem(password: string, name: string): string | null {
  const { length } = [...password];
  if (length < SHORTEST) return `A password has ${SHORTEST} characters or more: a few words do.`;
  if (length > LONGEST) return `A password has at most ${LONGEST} characters.`;
  if (COMMON.has(password.toLowerCase())) {
    return 'This password is one of those that are guessed first. Take another: a few words do.';
  }
  const isName = password.toLowerCase() === name.toLowerCase();
  return isName ? 'The name can’t be the password, too.' : null;
}
