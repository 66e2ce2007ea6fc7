import type { MigrationInterface, QueryRunner } from 'typeorm';

/** Prints on the server. */
export class Jobs1796000000000 implements MigrationInterface {
  name = 'Jobs1796000000000';

  public async up(queryRunner: QueryRunner): Promise<void> {
    await queryRunner.query(`
            CREATE TABLE IF NOT EXISTS \`job\` (
                \`id\` varchar(64) NOT NULL,
                \`owner\` varchar(64) NOT NULL,
                \`name\` varchar(200) NOT NULL,
                \`state\` varchar(16) NOT NULL,
                \`progress\` double NOT NULL DEFAULT 0,
                \`message\` text NOT NULL,
                \`songs\` json NOT NULL,
                \`together\` json NULL,
                \`request\` json NOT NULL,
                \`printed\` json NULL,
                \`files\` int NOT NULL DEFAULT 0,
                \`bytes\` bigint NOT NULL DEFAULT 0,
                \`attempt\` int NOT NULL DEFAULT 0,
                \`worker\` varchar(200) NULL,
                \`beatAt\` datetime(3) NULL,
                \`createdAt\` datetime(3) NOT NULL DEFAULT CURRENT_TIMESTAMP(3),
                \`startedAt\` datetime(3) NULL,
                \`endedAt\` datetime(3) NULL,
                INDEX \`job_listed\` (\`owner\`, \`createdAt\`),
                INDEX \`job_next\` (\`state\`, \`createdAt\`),
                PRIMARY KEY (\`id\`)
            ) ENGINE = InnoDB
        `);
  }

  public async down(queryRunner: QueryRunner): Promise<void> {
    await queryRunner.query('DROP TABLE IF EXISTS `job`');
  }
}
