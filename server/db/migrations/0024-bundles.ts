import { brotliDecompressSync } from 'node:zlib';
import type { MigrationInterface, QueryRunner } from 'typeorm';

/**
 * The ways back of older steps lie together, in the last of them (see `bundle`): which step that is, how long each is,
 * and in that step all of theirs.
 */
export class Bundles1797900000000 implements MigrationInterface {
  name = 'Bundles1797900000000';

  public async up(queryRunner: QueryRunner): Promise<void> {
    await queryRunner.query(`ALTER TABLE \`session_revision\`
      ADD COLUMN IF NOT EXISTS \`bundle\` int NULL,
      ADD COLUMN IF NOT EXISTS \`size\` int NULL,
      ADD COLUMN IF NOT EXISTS \`ways\` longblob NULL`);
  }

  public async down(queryRunner: QueryRunner): Promise<void> {
    const carriers = (await queryRunner.query(
      'SELECT session, revision FROM `session_revision` WHERE `ways` IS NOT NULL',
    )) as { session: string; revision: number }[];
    for (const { session, revision } of carriers) await this.takeApart(queryRunner, session, revision);
    await queryRunner.query(`ALTER TABLE \`session_revision\`
      DROP COLUMN IF EXISTS \`ways\`,
      DROP COLUMN IF EXISTS \`size\`,
      DROP COLUMN IF EXISTS \`bundle\``);
  }

  private async takeApart(queryRunner: QueryRunner, session: string, carrier: number): Promise<void> {
    const [{ ways }] = (await queryRunner.query(
      'SELECT ways FROM `session_revision` WHERE session = ? AND revision = ?',
      [session, carrier],
    )) as { ways: Buffer }[];
    const texts = JSON.parse(brotliDecompressSync(ways).toString()) as Record<string, string>;
    for (const [revision, back] of Object.entries(texts)) {
      await queryRunner.query(
        'UPDATE `session_revision` SET back = ? WHERE session = ? AND revision = ? AND bundle = ?',
        [back, session, revision, carrier],
      );
    }
  }
}
