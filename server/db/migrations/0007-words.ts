import type { MigrationInterface, QueryRunner } from 'typeorm';

/** The words that presets are found by, for finding what a misspelt one means. */
export class Words1796200000000 implements MigrationInterface {
  name = 'Words1796200000000';

  public async up(queryRunner: QueryRunner): Promise<void> {
    await queryRunner.query(`
            CREATE TABLE IF NOT EXISTS \`search_word\` (
                \`owner\` varchar(64) NOT NULL,
                \`word\` varchar(60) NOT NULL,
                PRIMARY KEY (\`owner\`, \`word\`)
            ) ENGINE = InnoDB
        `);
  }

  public async down(queryRunner: QueryRunner): Promise<void> {
    await queryRunner.query('DROP TABLE IF EXISTS `search_word`');
  }
}
