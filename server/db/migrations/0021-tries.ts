import type { MigrationInterface, QueryRunner } from 'typeorm';

/** Tries to sign in are counted by all processes of a studio together, and a start anew forgets none. */
export class Tries1797600000000 implements MigrationInterface {
  name = 'Tries1797600000000';

  public async up(queryRunner: QueryRunner): Promise<void> {
    await queryRunner.query(`
            CREATE TABLE IF NOT EXISTS \`sign_in_try\` (
                \`key\` varchar(100) NOT NULL,
                \`points\` int NOT NULL DEFAULT '0',
                \`expire\` bigint UNSIGNED NULL,
                PRIMARY KEY (\`key\`)
            ) ENGINE = InnoDB
        `);
  }

  public async down(queryRunner: QueryRunner): Promise<void> {
    await queryRunner.query('DROP TABLE IF EXISTS `sign_in_try`');
  }
}
