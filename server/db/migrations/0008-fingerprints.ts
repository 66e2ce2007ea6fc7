import type { MigrationInterface, QueryRunner } from 'typeorm';

/** What versions of presets sounded like when they were saved, and how they sound with the program that runs. */
export class Fingerprints1796300000000 implements MigrationInterface {
  name = 'Fingerprints1796300000000';

  public async up(queryRunner: QueryRunner): Promise<void> {
    await queryRunner.query(`
            CREATE TABLE IF NOT EXISTS \`fingerprint\` (
                \`preset\` varchar(64) NOT NULL,
                \`version\` int NOT NULL,
                \`owner\` varchar(64) NOT NULL,
                \`print\` text NULL,
                \`likeness\` text NULL,
                \`verdict\` varchar(16) NOT NULL DEFAULT 'equal',
                \`checked\` varchar(64) NOT NULL DEFAULT '',
                \`madeAt\` datetime(3) NOT NULL DEFAULT CURRENT_TIMESTAMP(3),
                \`checkedAt\` datetime(3) NOT NULL DEFAULT CURRENT_TIMESTAMP(3),
                INDEX \`fingerprint_verdict\` (\`owner\`, \`verdict\`),
                PRIMARY KEY (\`preset\`, \`version\`)
            ) ENGINE = InnoDB
        `);
  }

  public async down(queryRunner: QueryRunner): Promise<void> {
    await queryRunner.query('DROP TABLE IF EXISTS `fingerprint`');
  }
}
