import type { MigrationInterface, QueryRunner } from 'typeorm';

/** Presets that sound alike are found by their hash. */
export class Hashes1796800000000 implements MigrationInterface {
  name = 'Hashes1796800000000';

  public async up(queryRunner: QueryRunner): Promise<void> {
    await queryRunner.query('CREATE INDEX IF NOT EXISTS `preset_version_hash` ON `preset_version` (`hash`)');
  }

  public async down(queryRunner: QueryRunner): Promise<void> {
    await queryRunner.query('DROP INDEX IF EXISTS `preset_version_hash` ON `preset_version`');
  }
}
