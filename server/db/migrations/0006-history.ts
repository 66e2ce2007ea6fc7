import type { MigrationInterface, QueryRunner } from 'typeorm';

/** Each change of a session with its words, what kind of step it was, and the way back. */
export class History1796100000000 implements MigrationInterface {
  name = 'History1796100000000';

  public async up(queryRunner: QueryRunner): Promise<void> {
    const columns = [
      "`label` varchar(200) NOT NULL DEFAULT ''",
      "`kind` varchar(8) NOT NULL DEFAULT 'do'",
      '`back` longtext NULL',
    ];
    for (const column of columns) {
      await queryRunner.query(`ALTER TABLE \`session_revision\` ADD COLUMN IF NOT EXISTS ${column}`);
    }
  }

  public async down(queryRunner: QueryRunner): Promise<void> {
    for (const column of ['label', 'kind', 'back']) {
      await queryRunner.query(`ALTER TABLE \`session_revision\` DROP COLUMN IF EXISTS \`${column}\``);
    }
  }
}
