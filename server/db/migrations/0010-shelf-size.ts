import type { MigrationInterface, QueryRunner } from 'typeorm';

const COUNT = '`preset_count` (`owner`, `what`, `name`, `n`)';
const ONE_MORE = 'ON DUPLICATE KEY UPDATE `n` = `n` + 1';
const one = (what: string, row: string, name: string) =>
  `INSERT INTO ${COUNT} VALUES (${row}.\`owner\`, '${what}', ${name}, 1) ${ONE_MORE};`;
const less = (what: string, row: string, name: string) =>
  `UPDATE \`preset_count\` SET \`n\` = \`n\` - 1
     WHERE \`owner\` = ${row}.\`owner\` AND \`what\` = '${what}' AND \`name\` = ${name};`;
const tagsLess = `UPDATE \`preset_count\` c JOIN \`tag\` t
     ON c.\`owner\` = t.\`owner\` AND c.\`what\` = 'tag' AND c.\`name\` = t.\`name\`
     SET c.\`n\` = c.\`n\` - 1 WHERE t.\`preset\` = OLD.\`id\`;`;
const tagsMore = `INSERT INTO ${COUNT}
     SELECT t.\`owner\`, 'tag', t.\`name\`, 1 FROM \`tag\` t WHERE t.\`preset\` = NEW.\`id\` ORDER BY t.\`name\` ${ONE_MORE};`;
const isLive = (id: string) =>
  `EXISTS (SELECT 1 FROM \`preset\` p WHERE p.\`id\` = ${id} AND p.\`deletedAt\` IS NULL)`;

/** What every write of a preset or a tag does to the counts; a preset is counted while it is on the shelf. */
const TRIGGERS: Record<string, string> = {
  preset_counted: `AFTER INSERT ON \`preset\` FOR EACH ROW
    IF NEW.\`deletedAt\` IS NULL THEN
      ${one('kind', 'NEW', 'NEW.`kind`')}
      IF NEW.\`category\` <> '' THEN ${one('category', 'NEW', 'NEW.`category`')} END IF;
    END IF`,
  preset_recounted: `AFTER UPDATE ON \`preset\` FOR EACH ROW
    IF NOT (OLD.\`kind\` <=> NEW.\`kind\` AND OLD.\`category\` <=> NEW.\`category\`
        AND (OLD.\`deletedAt\` IS NULL) = (NEW.\`deletedAt\` IS NULL)) THEN
      IF OLD.\`deletedAt\` IS NULL THEN
        ${less('kind', 'OLD', 'OLD.`kind`')}
        ${less('category', 'OLD', 'OLD.`category`')}
        IF NEW.\`deletedAt\` IS NOT NULL THEN ${tagsLess} END IF;
      END IF;
      IF NEW.\`deletedAt\` IS NULL THEN
        ${one('kind', 'NEW', 'NEW.`kind`')}
        IF NEW.\`category\` <> '' THEN ${one('category', 'NEW', 'NEW.`category`')} END IF;
        IF OLD.\`deletedAt\` IS NOT NULL THEN ${tagsMore} END IF;
      END IF;
    END IF`,
  preset_uncounted: `BEFORE DELETE ON \`preset\` FOR EACH ROW
    IF OLD.\`deletedAt\` IS NULL THEN
      ${less('kind', 'OLD', 'OLD.`kind`')}
      ${less('category', 'OLD', 'OLD.`category`')}
      ${tagsLess}
    END IF`,
  tag_counted: `AFTER INSERT ON \`tag\` FOR EACH ROW
    IF ${isLive('NEW.`preset`')} THEN ${one('tag', 'NEW', 'NEW.`name`')} END IF`,
  tag_uncounted: `AFTER DELETE ON \`tag\` FOR EACH ROW
    IF ${isLive('OLD.`preset`')} THEN ${less('tag', 'OLD', 'OLD.`name`')} END IF`,
};

const FILL = `INSERT INTO ${COUNT}
    SELECT \`owner\`, 'kind', \`kind\`, COUNT(*) FROM \`preset\` WHERE \`deletedAt\` IS NULL GROUP BY \`owner\`, \`kind\`
    UNION ALL
    SELECT \`owner\`, 'category', \`category\`, COUNT(*) FROM \`preset\`
      WHERE \`deletedAt\` IS NULL AND \`category\` <> '' GROUP BY \`owner\`, \`category\`
    UNION ALL
    SELECT t.\`owner\`, 'tag', t.\`name\`, COUNT(*) FROM \`tag\` t JOIN \`preset\` p ON p.\`id\` = t.\`preset\`
      WHERE p.\`deletedAt\` IS NULL GROUP BY t.\`owner\`, t.\`name\``;

/**
 * A shelf of any size: what it holds by kind, category and tag is counted with each write and not when it is asked for;
 * the order by last use, the pinned ones and those of a category have an index that serves them whole.
 */
export class ShelfSize1796500000000 implements MigrationInterface {
  name = 'ShelfSize1796500000000';

  public async up(queryRunner: QueryRunner): Promise<void> {
    await queryRunner.query(`
            CREATE TABLE IF NOT EXISTS \`preset_count\` (
                \`owner\` varchar(64) NOT NULL,
                \`what\` varchar(16) NOT NULL,
                \`name\` varchar(200) NOT NULL,
                \`n\` int NOT NULL DEFAULT '0',
                INDEX \`preset_count_most\` (\`owner\`, \`what\`, \`n\`),
                PRIMARY KEY (\`owner\`, \`what\`, \`name\`)
            ) ENGINE = InnoDB
        `);
    for (const [name, body] of Object.entries(TRIGGERS)) {
      await queryRunner.query(`CREATE OR REPLACE TRIGGER \`${name}\` ${body}`);
    }
    await queryRunner.query('DELETE FROM `preset_count`');
    await queryRunner.query(FILL);
    // never used is the beginning of time: what may be NULL can't be read in order from an index
    await queryRunner.query(
      "UPDATE `preset` SET `lastUsedAt` = '1970-01-01', `updatedAt` = `updatedAt` WHERE `lastUsedAt` IS NULL",
    );
    await queryRunner.query(
      "ALTER TABLE `preset` MODIFY COLUMN `lastUsedAt` datetime(3) NOT NULL DEFAULT '1970-01-01 00:00:00.000'",
    );
    await queryRunner.query(`
            CREATE INDEX IF NOT EXISTS \`preset_pinned\`
                ON \`preset\` (\`owner\`, \`deletedAt\`, \`pinned\`, \`name\`, \`id\`)
        `);
    await queryRunner.query(`
            CREATE INDEX IF NOT EXISTS \`preset_category\`
                ON \`preset\` (\`owner\`, \`deletedAt\`, \`category\`, \`name\`, \`id\`)
        `);
  }

  public async down(queryRunner: QueryRunner): Promise<void> {
    for (const name of Object.keys(TRIGGERS)) await queryRunner.query(`DROP TRIGGER IF EXISTS \`${name}\``);
    await queryRunner.query('DROP TABLE IF EXISTS `preset_count`');
    await queryRunner.query('DROP INDEX IF EXISTS `preset_category` ON `preset`');
    await queryRunner.query('DROP INDEX IF EXISTS `preset_pinned` ON `preset`');
    await queryRunner.query('ALTER TABLE `preset` MODIFY COLUMN `lastUsedAt` datetime(3) NULL');
  }
}
