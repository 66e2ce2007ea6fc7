import type { MigrationInterface, QueryRunner } from 'typeorm';

/** How often presets were dropped, and indexes for the orders of the shelf that go by it and by when they came. */
export class DropCounts1797100000000 implements MigrationInterface {
  name = 'DropCounts1797100000000';

  public async up(queryRunner: QueryRunner): Promise<void> {
    await queryRunner.query(`
            ALTER TABLE \`preset\`
            ADD COLUMN IF NOT EXISTS \`drops\` int NOT NULL DEFAULT 0,
            ADD INDEX IF NOT EXISTS \`preset_drops\` (\`owner\`, \`deletedAt\`, \`drops\`, \`id\`),
            ADD INDEX IF NOT EXISTS \`preset_added\` (\`owner\`, \`deletedAt\`, \`createdAt\`, \`id\`),
            ADD INDEX IF NOT EXISTS \`preset_never\` (\`owner\`, \`deletedAt\`, \`lastUsedAt\`, \`name\`, \`id\`)
        `);
    await queryRunner.query(`
            UPDATE \`preset\` p
            SET p.\`drops\` = (SELECT COUNT(*) FROM \`drop_record\` d WHERE d.\`preset\` = p.\`id\`),
                p.\`updatedAt\` = p.\`updatedAt\`
        `);
  }

  public async down(queryRunner: QueryRunner): Promise<void> {
    await queryRunner.query(`
            ALTER TABLE \`preset\`
            DROP INDEX \`preset_never\`, DROP INDEX \`preset_added\`, DROP INDEX \`preset_drops\`, DROP COLUMN \`drops\`
        `);
  }
}
