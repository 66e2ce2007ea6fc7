import type { MigrationInterface, QueryRunner } from 'typeorm';

/** How many revisions a row of a session's history leads back: those of an hour or a day are joined as they grow old. */
export class Steps1797400000000 implements MigrationInterface {
  name = 'Steps1797400000000';

  public async up(queryRunner: QueryRunner): Promise<void> {
    await queryRunner.query(`
            ALTER TABLE \`session_revision\`
            ADD COLUMN IF NOT EXISTS \`steps\` int NOT NULL DEFAULT 1
        `);
  }

  public async down(queryRunner: QueryRunner): Promise<void> {
    // rows that were joined lead over several revisions, which a program from before can't follow
    await queryRunner.query('DELETE FROM `session_revision` WHERE `steps` <> 1');
    await queryRunner.query('ALTER TABLE `session_revision` DROP COLUMN `steps`');
  }
}
