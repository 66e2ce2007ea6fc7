import type { MigrationInterface, QueryRunner } from 'typeorm';

const INDEXES = {
  preset_kind: '`owner`, `deletedAt`, `kind`, `name`, `id`',
  preset_kind_used: '`owner`, `deletedAt`, `kind`, `lastUsedAt`, `id`',
};

/** Presets of a kind, by name and by last use, are read off an index, also of one that few are of. */
export class Kinds1798000000000 implements MigrationInterface {
  name = 'Kinds1798000000000';

  public async up(queryRunner: QueryRunner): Promise<void> {
    for (const [name, columns] of Object.entries(INDEXES)) {
      await queryRunner.query(`CREATE INDEX IF NOT EXISTS \`${name}\` ON \`preset\` (${columns})`);
    }
  }

  public async down(queryRunner: QueryRunner): Promise<void> {
    for (const name of Object.keys(INDEXES)) {
      await queryRunner.query(`DROP INDEX IF EXISTS \`${name}\` ON \`preset\``);
    }
  }
}
