import { AsyncLocalStorage } from 'node:async_hooks';

/** In whose name something is done. */
export interface Acting {
  /** the account that does it */
  person: string;
  /** the account whose shelf and sessions it is done with: the same one, or one that shares them */
  owner: string;
}

const acting = new AsyncLocalStorage<Acting>();

/** Does something in somebody's name; what it begins by itself is done in the same name. */
export const actAs = <T>(who: Acting, task: () => T): T => acting.run(who, task);

/** Does something that an account does with its own things. */
export const actAsOwner = <T>(owner: string, task: () => T): T => actAs({ person: owner, owner }, task);

/** @throws Error where nobody was named: rather than do it with the things of the wrong one */
function now(): Acting {
  const who = acting.getStore();
  if (!who) throw new Error('Nobody is named in whose name this is done (actAs).');
  return who;
}

/** The account whose rows are read and written. @throws Error outside `actAs` */
export const ownerNow = (): string => now().owner;

/** The account that does it. @throws Error outside `actAs` */
export const personNow = (): string => now().person;
