import type { DataSource } from 'typeorm';

/** bytes of one message to the database: a large session goes in one */
const PACKET = 64 * 1024 * 1024;
const MB = 1024 * 1024;

/**
 * What of the settings of a database that somebody else runs keeps the program from doing all it does, each with the way
 * out. Ours is started with them (scripts/database.mjs).
 */
export async function unfitSettings(db: DataSource): Promise<string[]> {
  const [{ token, stop, packet }] = await db.query<{ token: string; stop: string; packet: string }[]>(
    `SELECT @@innodb_ft_min_token_size AS token, @@innodb_ft_enable_stopword AS stop, @@max_allowed_packet AS packet`,
  );
  const out: string[] = [];
  if (Number(token) > 2) {
    out.push(
      `Words of fewer than ${token} letters are not found beside others: start the database with innodb_ft_min_token_size=2.`,
    );
  }
  if (Number(stop)) {
    out.push(
      'Words such as “the” and “for” are not found beside others: start the database with innodb_ft_enable_stopword=0.',
    );
  }
  if (Number(packet) < PACKET) {
    out.push(
      `A session or preset of more than ${Math.floor(Number(packet) / MB)} MB cannot be kept: start the database with max_allowed_packet=64M.`,
    );
  }
  return out;
}
