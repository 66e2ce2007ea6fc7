import type { MigrationInterface, QueryRunner } from 'typeorm';

/** Documents with sessions and presets in them. */
const DOCUMENTS = [
  ['session', 'document'],
  ['preset_version', 'document'],
  ['job', 'request'],
] as const;

/**
 * Documents as text without the database's own check of JSON: it knows no more than 31 levels, and racks that are nested
 * as deep as they may be have more. What is written is made by `JSON.stringify` and validated before.
 */
export class Deep1797200000000 implements MigrationInterface {
  name = 'Deep1797200000000';

  public async up(queryRunner: QueryRunner): Promise<void> {
    for (const [table, column] of DOCUMENTS) {
      await queryRunner.query(
        `ALTER TABLE \`${table}\` MODIFY \`${column}\` longtext CHARACTER SET utf8mb4 COLLATE utf8mb4_bin NOT NULL`,
      );
    }
  }

  public async down(queryRunner: QueryRunner): Promise<void> {
    for (const [table, column] of DOCUMENTS) {
      await queryRunner.query(`ALTER TABLE \`${table}\` MODIFY \`${column}\` json NOT NULL`);
    }
  }
}
