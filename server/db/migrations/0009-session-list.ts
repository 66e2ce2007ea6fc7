import type { MigrationInterface, QueryRunner } from 'typeorm';

/** Sessions by when they were last opened, and in folders. */
export class SessionList1796400000000 implements MigrationInterface {
  name = 'SessionList1796400000000';

  public async up(queryRunner: QueryRunner): Promise<void> {
    await queryRunner.query(`
            ALTER TABLE \`session\`
                ADD COLUMN IF NOT EXISTS \`folder\` varchar(200) NOT NULL DEFAULT '' AFTER \`name\`,
                ADD COLUMN IF NOT EXISTS \`openedAt\` datetime(3) NOT NULL DEFAULT CURRENT_TIMESTAMP(3)
        `);
    // until it is opened again, a session counts as opened when it was changed last
    await queryRunner.query('UPDATE `session` SET `openedAt` = `updatedAt`, `updatedAt` = `updatedAt`');
    await queryRunner.query(`
            CREATE INDEX IF NOT EXISTS \`session_opened\`
                ON \`session\` (\`owner\`, \`deletedAt\`, \`openedAt\`, \`id\`, \`name\`)
        `);
    await queryRunner.query(`
            CREATE INDEX IF NOT EXISTS \`session_folder\`
                ON \`session\` (\`owner\`, \`deletedAt\`, \`folder\`, \`openedAt\`, \`id\`)
        `);
  }

  public async down(queryRunner: QueryRunner): Promise<void> {
    await queryRunner.query('DROP INDEX IF EXISTS `session_folder` ON `session`');
    await queryRunner.query('DROP INDEX IF EXISTS `session_opened` ON `session`');
    await queryRunner.query(
      'ALTER TABLE `session` DROP COLUMN IF EXISTS `openedAt`, DROP COLUMN IF EXISTS `folder`',
    );
  }
}
