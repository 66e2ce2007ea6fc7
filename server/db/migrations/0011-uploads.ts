import type { MigrationInterface, QueryRunner } from 'typeorm';

/** Files that come in pieces; sounds over 2 GB; what an imported file holds, so that it is not looked through again. */
export class Uploads1796600000000 implements MigrationInterface {
  name = 'Uploads1796600000000';

  public async up(queryRunner: QueryRunner): Promise<void> {
    await queryRunner.query(`
            CREATE TABLE IF NOT EXISTS \`upload\` (
                \`id\` char(64) NOT NULL,
                \`owner\` varchar(64) NOT NULL,
                \`name\` varchar(255) NOT NULL,
                \`size\` bigint NOT NULL,
                \`received\` bigint NOT NULL DEFAULT '0',
                \`createdAt\` datetime(3) NOT NULL DEFAULT CURRENT_TIMESTAMP(3),
                PRIMARY KEY (\`id\`)
            ) ENGINE = InnoDB
        `);
    await queryRunner.query(`
            ALTER TABLE \`media\`
                MODIFY COLUMN \`size\` bigint NOT NULL,
                ADD COLUMN IF NOT EXISTS \`sounds\` json NULL AFTER \`frames\`
        `);
  }

  public async down(queryRunner: QueryRunner): Promise<void> {
    await queryRunner.query(
      'ALTER TABLE `media` DROP COLUMN IF EXISTS `sounds`, MODIFY COLUMN `size` int NOT NULL',
    );
    await queryRunner.query('DROP TABLE IF EXISTS `upload`');
  }
}
