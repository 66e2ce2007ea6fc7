import type { MigrationInterface, QueryRunner } from 'typeorm';

/** Accounts that sign in, what they share with each other, and who did what. */
export class Accounts1797300000000 implements MigrationInterface {
  name = 'Accounts1797300000000';

  public async up(queryRunner: QueryRunner): Promise<void> {
    await queryRunner.query(`
            ALTER TABLE \`user\`
            ADD COLUMN IF NOT EXISTS \`password\` varchar(300) NULL,
            ADD COLUMN IF NOT EXISTS \`closedAt\` datetime(3) NULL,
            ADD UNIQUE INDEX IF NOT EXISTS \`user_name\` (\`name\`)
        `);
    await queryRunner.query(`
            CREATE TABLE IF NOT EXISTS \`sign_in\` (
                \`token\` char(64) NOT NULL,
                \`person\` varchar(64) NOT NULL,
                \`createdAt\` datetime(3) NOT NULL DEFAULT CURRENT_TIMESTAMP(3),
                INDEX \`sign_in_person\` (\`person\`),
                PRIMARY KEY (\`token\`)
            ) ENGINE = InnoDB
        `);
    await queryRunner.query(`
            CREATE TABLE IF NOT EXISTS \`share\` (
                \`id\` varchar(64) NOT NULL,
                \`owner\` varchar(64) NOT NULL,
                \`person\` varchar(64) NOT NULL,
                \`kind\` varchar(16) NOT NULL,
                \`thing\` varchar(64) NOT NULL DEFAULT '',
                \`right\` varchar(16) NOT NULL,
                \`createdAt\` datetime(3) NOT NULL DEFAULT CURRENT_TIMESTAMP(3),
                UNIQUE INDEX \`share_once\` (\`owner\`, \`person\`, \`kind\`, \`thing\`),
                INDEX \`share_person\` (\`person\`, \`kind\`, \`thing\`),
                PRIMARY KEY (\`id\`)
            ) ENGINE = InnoDB
        `);
    // sessions of others may use a preset, too
    await queryRunner.query(
      'ALTER TABLE `session_use` ADD INDEX IF NOT EXISTS `session_use_preset` (`preset`)',
    );
    for (const table of ['session_revision', 'preset_version']) {
      await queryRunner.query(
        `ALTER TABLE \`${table}\` ADD COLUMN IF NOT EXISTS \`person\` varchar(64) NOT NULL DEFAULT ''`,
      );
    }
    await queryRunner.query(`
            CREATE TABLE IF NOT EXISTS \`media_holder\` (
                \`owner\` varchar(64) NOT NULL,
                \`media\` char(64) NOT NULL,
                \`name\` varchar(255) NOT NULL,
                \`createdAt\` datetime(3) NOT NULL DEFAULT CURRENT_TIMESTAMP(3),
                INDEX \`media_holder_newest\` (\`owner\`, \`createdAt\`),
                PRIMARY KEY (\`owner\`, \`media\`)
            ) ENGINE = InnoDB
        `);
    await queryRunner.query(`
            INSERT IGNORE INTO \`media_holder\` (\`owner\`, \`media\`, \`name\`, \`createdAt\`)
            SELECT \`owner\`, \`id\`, \`name\`, \`createdAt\` FROM \`media\`
        `);
  }

  public async down(queryRunner: QueryRunner): Promise<void> {
    await queryRunner.query('DROP TABLE `media_holder`');
    for (const table of ['preset_version', 'session_revision']) {
      await queryRunner.query(`ALTER TABLE \`${table}\` DROP COLUMN \`person\``);
    }
    await queryRunner.query('ALTER TABLE `session_use` DROP INDEX `session_use_preset`');
    await queryRunner.query('DROP TABLE `share`');
    await queryRunner.query('DROP TABLE `sign_in`');
    await queryRunner.query(
      'ALTER TABLE `user` DROP INDEX `user_name`, DROP COLUMN `closedAt`, DROP COLUMN `password`',
    );
  }
}
