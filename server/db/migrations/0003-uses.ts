import type { MigrationInterface, QueryRunner } from 'typeorm';

export class Uses1795780800000 implements MigrationInterface {
  name = 'Uses1795780800000';

  public async up(queryRunner: QueryRunner): Promise<void> {
    await queryRunner.query(`
            CREATE TABLE IF NOT EXISTS \`session_use\` (
                \`session\` varchar(64) NOT NULL,
                \`preset\` varchar(64) NOT NULL,
                \`version\` int NOT NULL,
                \`owner\` varchar(64) NOT NULL,
                \`places\` int NOT NULL,
                INDEX \`IDX_41c03d5f79371eb800e9ef0eb1\` (\`owner\`, \`preset\`, \`version\`),
                PRIMARY KEY (\`session\`, \`preset\`, \`version\`)
            ) ENGINE = InnoDB
        `);
    await queryRunner.query(`
            ALTER TABLE \`preset\`
            ADD COLUMN IF NOT EXISTS \`parent\` varchar(64) NULL
        `);
    await queryRunner.query(`
            CREATE INDEX IF NOT EXISTS \`preset_parent\` ON \`preset\` (\`parent\`)
        `);
  }

  public async down(queryRunner: QueryRunner): Promise<void> {
    await queryRunner.query(`
            DROP INDEX IF EXISTS \`preset_parent\` ON \`preset\`
        `);
    await queryRunner.query(`
            ALTER TABLE \`preset\` DROP COLUMN IF EXISTS \`parent\`
        `);
    await queryRunner.query(`
            DROP TABLE IF EXISTS \`session_use\`
        `);
  }
}
