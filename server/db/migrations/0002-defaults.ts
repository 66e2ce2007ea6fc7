import type { MigrationInterface, QueryRunner } from 'typeorm';

export class Defaults1795593600000 implements MigrationInterface {
  name = 'Defaults1795593600000';

  public async up(queryRunner: QueryRunner): Promise<void> {
    await queryRunner.query(`
            CREATE TABLE IF NOT EXISTS \`default_setting\` (
                \`owner\` varchar(64) NOT NULL,
                \`name\` varchar(64) NOT NULL,
                \`value\` json NOT NULL,
                \`createdAt\` datetime(3) NOT NULL DEFAULT CURRENT_TIMESTAMP(3),
                PRIMARY KEY (\`owner\`, \`name\`)
            ) ENGINE = InnoDB
        `);
  }

  public async down(queryRunner: QueryRunner): Promise<void> {
    await queryRunner.query(`
            DROP TABLE IF EXISTS \`default_setting\`
        `);
  }
}
