import { createHash } from 'node:crypto';
import { RateLimiterMySQL, RateLimiterRes } from 'rate-limiter-flexible';
import type { DataSource } from 'typeorm';

/** Wrong passwords that an account may get in an hour (OWASP ASVS 4.0, 2.2.1: at most 100). */
const PER_ACCOUNT = { keyPrefix: 'account', points: 50, duration: 3600 };
/** Wrong passwords that may come from one address in a quarter of an hour. */
const PER_ADDRESS = { keyPrefix: 'address', points: 20, duration: 900 };

/** Too many wrong passwords came. */
export class TooManyTries extends Error {
  /** @param seconds until the next one may come */
  constructor(readonly seconds: number) {
    super('Too many tries');
  }
}

/**
 * Counts tries to sign in, of each account and from each address: in the database, so that all processes count
 * together and a start anew forgets nothing. What is over is cleared out with the rest (`tidy`).
 */
export class Tries {
  private readonly accounts: RateLimiterMySQL;
  private readonly addresses: RateLimiterMySQL;

  constructor(db: DataSource) {
    const kept = {
      storeClient: (db.driver as unknown as { pool: unknown }).pool,
      storeType: 'pool',
      dbName: db.driver.database,
      tableName: 'sign_in_try',
      tableCreated: true,
      clearExpiredByTimeout: false,
    };
    this.accounts = new RateLimiterMySQL({ ...kept, ...PER_ACCOUNT });
    this.addresses = new RateLimiterMySQL({ ...kept, ...PER_ADDRESS });
  }

  /**
   * A try begins: it counts until it turns out to be right.
   * @returns takes it out of the count
   * @throws TooManyTries
   */
  async begin(name: string, address: string): Promise<() => Promise<void>> {
    // what was typed as a name may be anything, a password too
    const account = createHash('sha256').update(name.trim().toLowerCase()).digest('hex');
    try {
      await this.addresses.consume(address);
      await this.accounts.consume(account);
    } catch (e) {
      if (e instanceof RateLimiterRes) throw new TooManyTries(Math.ceil(e.msBeforeNext / 1000));
      throw e;
    }
    return async () => {
      await this.addresses.reward(address);
      await this.accounts.reward(account);
    };
  }
}
