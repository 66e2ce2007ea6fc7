import type { MigrationInterface, QueryRunner } from 'typeorm';

/** Which revision a session's document was written at: the steps after it lead to the session as it is now. */
export class Written1797000000000 implements MigrationInterface {
  name = 'Written1797000000000';

  public async up(queryRunner: QueryRunner): Promise<void> {
    await queryRunner.query(`
            ALTER TABLE \`session\`
            ADD COLUMN IF NOT EXISTS \`written\` int NOT NULL DEFAULT 1
        `);
    await queryRunner.query('UPDATE `session` SET `written` = `revision`, `updatedAt` = `updatedAt`');
  }

  public async down(queryRunner: QueryRunner): Promise<void> {
    await queryRunner.query('ALTER TABLE `session` DROP COLUMN `written`');
  }
}
