import type { MigrationInterface, QueryRunner } from 'typeorm';

/**
 * Records of drops lie packed: the rows of their reports are as many as values were dropped, and each names its place.
 * MariaDB's functions for JSON don't read packed text, so what a list shows of a drop, all but those rows, stands beside
 * it by itself.
 */
export class PackedDrops1797800000000 implements MigrationInterface {
  name = 'PackedDrops1797800000000';

  public async up(queryRunner: QueryRunner): Promise<void> {
    await queryRunner.query('ALTER TABLE `drop_record` ADD COLUMN IF NOT EXISTS `summary` json NULL');
    // cut off behind this, the next start finds nothing left here and reads no packed record
    await queryRunner.query(
      `UPDATE \`drop_record\` SET \`summary\` = JSON_REMOVE(\`record\`, '$.report.rows', '$.nullTest.picture')
       WHERE \`summary\` IS NULL`,
    );
    await queryRunner.query('ALTER TABLE `drop_record` MODIFY `summary` json NOT NULL');
    await queryRunner.query(
      'ALTER TABLE `drop_record` MODIFY `record` longtext COMPRESSED CHARACTER SET utf8mb4 COLLATE utf8mb4_bin NOT NULL',
    );
  }

  public async down(queryRunner: QueryRunner): Promise<void> {
    await queryRunner.query('ALTER TABLE `drop_record` MODIFY `record` json NOT NULL');
    await queryRunner.query('ALTER TABLE `drop_record` DROP COLUMN IF EXISTS `summary`');
  }
}
