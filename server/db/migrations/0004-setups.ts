import type { MigrationInterface, QueryRunner } from 'typeorm';

/** Studios: each with its versions, as presets have them. */
export class Setups1795900000000 implements MigrationInterface {
  name = 'Setups1795900000000';

  public async up(queryRunner: QueryRunner): Promise<void> {
    await queryRunner.query(`
            CREATE TABLE IF NOT EXISTS \`setup\` (
                \`id\` varchar(64) NOT NULL,
                \`owner\` varchar(64) NOT NULL,
                \`name\` varchar(200) NOT NULL,
                \`currentVersion\` int NOT NULL,
                \`summary\` json NOT NULL,
                \`createdAt\` datetime(3) NOT NULL DEFAULT CURRENT_TIMESTAMP(3),
                \`updatedAt\` datetime(3) NOT NULL DEFAULT CURRENT_TIMESTAMP(3) ON UPDATE CURRENT_TIMESTAMP(3),
                \`deletedAt\` datetime(3) NULL,
                INDEX \`setup_listed\` (\`owner\`, \`deletedAt\`, \`name\`),
                PRIMARY KEY (\`id\`)
            ) ENGINE = InnoDB
        `);
    await queryRunner.query(`
            CREATE TABLE IF NOT EXISTS \`setup_version\` (
                \`setup\` varchar(64) NOT NULL,
                \`version\` int NOT NULL,
                \`owner\` varchar(64) NOT NULL,
                \`document\` json NOT NULL,
                \`createdAt\` datetime(3) NOT NULL DEFAULT CURRENT_TIMESTAMP(3),
                PRIMARY KEY (\`setup\`, \`version\`)
            ) ENGINE = InnoDB
        `);
  }

  public async down(queryRunner: QueryRunner): Promise<void> {
    await queryRunner.query('DROP TABLE IF EXISTS `setup_version`');
    await queryRunner.query('DROP TABLE IF EXISTS `setup`');
  }
}
