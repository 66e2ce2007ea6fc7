import type { MigrationInterface, QueryRunner } from 'typeorm';

/** What packs brought, so that each can be taken back. */
export class Packs1796700000000 implements MigrationInterface {
  name = 'Packs1796700000000';

  public async up(queryRunner: QueryRunner): Promise<void> {
    await queryRunner.query(`
            CREATE TABLE IF NOT EXISTS \`pack_taken\` (
                \`id\` varchar(64) NOT NULL,
                \`owner\` varchar(64) NOT NULL,
                \`name\` varchar(255) NOT NULL,
                \`made\` json NOT NULL,
                \`createdAt\` datetime(3) NOT NULL DEFAULT CURRENT_TIMESTAMP(3),
                PRIMARY KEY (\`id\`)
            ) ENGINE = InnoDB
        `);
  }

  public async down(queryRunner: QueryRunner): Promise<void> {
    await queryRunner.query('DROP TABLE IF EXISTS `pack_taken`');
  }
}
