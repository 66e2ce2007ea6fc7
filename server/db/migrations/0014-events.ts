import type { MigrationInterface, QueryRunner } from 'typeorm';

/** What happened a moment ago, for the windows that other processes of this program serve. */
export class Events1796900000000 implements MigrationInterface {
  name = 'Events1796900000000';

  public async up(queryRunner: QueryRunner): Promise<void> {
    await queryRunner.query(`
            CREATE TABLE IF NOT EXISTS \`event\` (
                \`id\` bigint NOT NULL AUTO_INCREMENT,
                \`process\` varchar(64) NOT NULL,
                \`topic\` varchar(64) NOT NULL,
                \`news\` longtext NOT NULL,
                \`createdAt\` datetime(3) NOT NULL DEFAULT CURRENT_TIMESTAMP(3),
                INDEX \`event_recent\` (\`createdAt\`),
                PRIMARY KEY (\`id\`)
            ) ENGINE = InnoDB
        `);
  }

  public async down(queryRunner: QueryRunner): Promise<void> {
    await queryRunner.query('DROP TABLE IF EXISTS `event`');
  }
}
