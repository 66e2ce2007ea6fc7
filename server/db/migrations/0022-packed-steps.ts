import type { MigrationInterface, QueryRunner } from 'typeorm';

/** A step's change and its way back: written once, seldom read, and long where lines come or go. */
const COLUMNS = [
  ['patch', 'NOT NULL'],
  ['back', 'NULL'],
] as const;

/**
 * Steps lie packed in the database: one that drops ten lines holds ten lines, and so does the way back of one that takes
 * them off. They are read and written as before; MariaDB's functions for JSON don't read packed text, and none is used
 * on them.
 */
export class PackedSteps1797700000000 implements MigrationInterface {
  name = 'PackedSteps1797700000000';

  public async up(queryRunner: QueryRunner): Promise<void> {
    for (const [column, empty] of COLUMNS) {
      await queryRunner.query(
        `ALTER TABLE \`session_revision\` MODIFY \`${column}\` longtext COMPRESSED CHARACTER SET utf8mb4 COLLATE utf8mb4_bin ${empty}`,
      );
    }
  }

  public async down(queryRunner: QueryRunner): Promise<void> {
    for (const [column, empty] of COLUMNS) {
      await queryRunner.query(
        `ALTER TABLE \`session_revision\` MODIFY \`${column}\` longtext CHARACTER SET utf8mb4 ${empty}`,
      );
    }
  }
}
