import type { MigrationInterface, QueryRunner } from 'typeorm';

type Row = 'OLD' | 'NEW' | 'p';
/** Which letters words have, and how they collate: as the text that they are of, or they can't be compared. */
type Collation = string;

/** The words of a row's search text as a table: cut where neither a letter nor a figure is, up to 60 letters each. */
const wordsOf = (row: Row, collation: Collation) => `JSON_TABLE(
      CONCAT('["', REGEXP_REPLACE(LOWER(${row}.\`search\`), '[^\\\\p{L}\\\\p{N}]+', '","'), '"]'),
      '$[*]' COLUMNS (\`whole\` text CHARACTER SET ${collation} PATH '$')
    ) w`;
const WORD = 'LEFT(w.`whole`, 60)';
const LISTS = '`preset_word` (`owner`, `word`, `name`, `preset`)';

const known = (row: Row, collation: Collation) => `INSERT IGNORE INTO \`search_word\` (\`owner\`, \`word\`)
        SELECT ${row}.\`owner\`, ${WORD} FROM ${wordsOf(row, collation)}
        WHERE w.\`whole\` <> '' ORDER BY w.\`whole\`;`;
const listed = (row: Row, collation: Collation) => `
      ${known(row, collation)}
      INSERT IGNORE INTO ${LISTS}
        SELECT ${row}.\`owner\`, ${WORD}, ${row}.\`name\`, ${row}.\`id\`
        FROM ${wordsOf(row, collation)} WHERE w.\`whole\` <> '';
      INSERT IGNORE INTO ${LISTS}
        SELECT ${row}.\`owner\`, CONCAT('#', t.\`name\`), ${row}.\`name\`, ${row}.\`id\`
        FROM \`tag\` t WHERE t.\`preset\` = ${row}.\`id\`;`;
const unlisted = (row: Row, collation: Collation) => `
      DELETE l FROM ${wordsOf(row, collation)} JOIN \`preset_word\` l
        ON l.\`owner\` = ${row}.\`owner\` AND l.\`word\` = ${WORD}
        AND l.\`name\` = ${row}.\`name\` AND l.\`preset\` = ${row}.\`id\`;
      DELETE l FROM \`tag\` t JOIN \`preset_word\` l
        ON l.\`owner\` = ${row}.\`owner\` AND l.\`word\` = CONCAT('#', t.\`name\`)
        AND l.\`name\` = ${row}.\`name\` AND l.\`preset\` = ${row}.\`id\`
        WHERE t.\`preset\` = ${row}.\`id\`;`;
const shelved = (tag: string) =>
  `FROM \`preset\` p WHERE p.\`id\` = ${tag}.\`preset\` AND p.\`deletedAt\` IS NULL`;

/** What every write of a preset or a tag does to the lists; a preset is in them while it is on the shelf. */
const triggers = (collation: Collation): Record<string, string> => ({
  preset_listed: `AFTER INSERT ON \`preset\` FOR EACH ROW
    IF NEW.\`deletedAt\` IS NULL THEN ${listed('NEW', collation)} END IF`,
  preset_relisted: `AFTER UPDATE ON \`preset\` FOR EACH ROW
    IF NOT (OLD.\`owner\` <=> NEW.\`owner\` AND BINARY OLD.\`name\` <=> BINARY NEW.\`name\`
        AND BINARY OLD.\`search\` <=> BINARY NEW.\`search\`
        AND (OLD.\`deletedAt\` IS NULL) = (NEW.\`deletedAt\` IS NULL)) THEN
      IF OLD.\`deletedAt\` IS NULL THEN ${unlisted('OLD', collation)} END IF;
      IF NEW.\`deletedAt\` IS NULL THEN ${listed('NEW', collation)} END IF;
    END IF`,
  preset_unlisted: `BEFORE DELETE ON \`preset\` FOR EACH ROW
    IF OLD.\`deletedAt\` IS NULL THEN ${unlisted('OLD', collation)} END IF`,
  tag_listed: `AFTER INSERT ON \`tag\` FOR EACH ROW
    INSERT IGNORE INTO ${LISTS}
      SELECT p.\`owner\`, CONCAT('#', NEW.\`name\`), p.\`name\`, p.\`id\` ${shelved('NEW')}`,
  tag_unlisted: `AFTER DELETE ON \`tag\` FOR EACH ROW
    DELETE l FROM \`preset\` p JOIN \`preset_word\` l
      ON l.\`owner\` = p.\`owner\` AND l.\`word\` = CONCAT('#', OLD.\`name\`)
      AND l.\`name\` = p.\`name\` AND l.\`preset\` = p.\`id\`
      WHERE p.\`id\` = OLD.\`preset\``,
});

const fills = (collation: Collation) => [
  `INSERT IGNORE INTO \`search_word\` (\`owner\`, \`word\`)
     SELECT DISTINCT p.\`owner\`, ${WORD} FROM \`preset\` p, ${wordsOf('p', collation)} WHERE w.\`whole\` <> ''`,
  `INSERT IGNORE INTO ${LISTS}
     SELECT p.\`owner\`, ${WORD}, p.\`name\`, p.\`id\` FROM \`preset\` p, ${wordsOf('p', collation)}
     WHERE p.\`deletedAt\` IS NULL AND w.\`whole\` <> ''`,
  `INSERT IGNORE INTO ${LISTS}
     SELECT p.\`owner\`, CONCAT('#', t.\`name\`), p.\`name\`, p.\`id\`
     FROM \`preset\` p JOIN \`tag\` t ON t.\`preset\` = p.\`id\` WHERE p.\`deletedAt\` IS NULL`,
];

/**
 * What is found by a word or a tag, in the order of names: read off this index as far as a page goes, however many there
 * are. The words themselves are kept by the same triggers, so none is unknown, whatever put a preset in.
 */
export class WordLists1797500000000 implements MigrationInterface {
  name = 'WordLists1797500000000';

  public async up(queryRunner: QueryRunner): Promise<void> {
    const [{ collation }] = (await queryRunner.query(
      `SELECT CONCAT(CHARACTER_SET_NAME, ' COLLATE ', COLLATION_NAME) AS collation FROM information_schema.COLUMNS
         WHERE TABLE_SCHEMA = DATABASE() AND TABLE_NAME = 'preset' AND COLUMN_NAME = 'search'`,
    )) as { collation: Collation }[];
    await queryRunner.query(`
            CREATE TABLE IF NOT EXISTS \`preset_word\` (
                \`owner\` varchar(64) CHARACTER SET ${collation} NOT NULL,
                \`word\` varchar(61) CHARACTER SET ${collation} NOT NULL,
                \`name\` varchar(200) CHARACTER SET ${collation} NOT NULL,
                \`preset\` varchar(64) CHARACTER SET ${collation} NOT NULL,
                PRIMARY KEY (\`owner\`, \`word\`, \`name\`, \`preset\`)
            ) ENGINE = InnoDB
        `);
    for (const [name, body] of Object.entries(triggers(collation))) {
      await queryRunner.query(`CREATE OR REPLACE TRIGGER \`${name}\` ${body}`);
    }
    for (const fill of fills(collation)) await queryRunner.query(fill);
  }

  public async down(queryRunner: QueryRunner): Promise<void> {
    for (const name of Object.keys(triggers(''))) {
      await queryRunner.query(`DROP TRIGGER IF EXISTS \`${name}\``);
    }
    await queryRunner.query('DROP TABLE IF EXISTS `preset_word`');
  }
}
