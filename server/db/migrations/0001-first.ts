import type { MigrationInterface, QueryRunner } from 'typeorm';

/** Every table of the first version, in the order in which they are made. */
const TABLES = [
  `
  CREATE TABLE IF NOT EXISTS \`user\` (
      \`id\` varchar(64) NOT NULL,
      \`name\` varchar(200) NOT NULL,
      \`createdAt\` datetime(3) NOT NULL DEFAULT CURRENT_TIMESTAMP(3),
      PRIMARY KEY (\`id\`)
  ) ENGINE = InnoDB`,
  `
  CREATE TABLE IF NOT EXISTS \`session\` (
      \`id\` varchar(64) NOT NULL,
      \`owner\` varchar(64) NOT NULL,
      \`name\` varchar(200) NOT NULL,
      \`revision\` int NOT NULL,
      \`tempo\` double NOT NULL,
      \`sampleRate\` int NOT NULL,
      \`trackCount\` int NOT NULL,
      \`document\` json NOT NULL,
      \`createdAt\` datetime(3) NOT NULL DEFAULT CURRENT_TIMESTAMP(3),
      \`updatedAt\` datetime(3) NOT NULL DEFAULT CURRENT_TIMESTAMP(3) ON UPDATE CURRENT_TIMESTAMP(3),
      \`deletedAt\` datetime(3) NULL,
      INDEX \`IDX_361201c995342f2e13f6b3ed53\` (\`owner\`, \`deletedAt\`, \`updatedAt\`),
      PRIMARY KEY (\`id\`)
  ) ENGINE = InnoDB`,
  `
  CREATE TABLE IF NOT EXISTS \`session_revision\` (
      \`session\` varchar(64) NOT NULL,
      \`revision\` int NOT NULL,
      \`owner\` varchar(64) NOT NULL,
      \`client\` varchar(64) NOT NULL DEFAULT '',
      \`patch\` longtext NOT NULL,
      \`createdAt\` datetime(3) NOT NULL DEFAULT CURRENT_TIMESTAMP(3),
      PRIMARY KEY (\`session\`, \`revision\`)
  ) ENGINE = InnoDB`,
  `
  CREATE TABLE IF NOT EXISTS \`preset\` (
      \`id\` varchar(64) NOT NULL,
      \`owner\` varchar(64) NOT NULL,
      \`kind\` varchar(16) NOT NULL,
      \`name\` varchar(200) NOT NULL,
      \`category\` varchar(200) NOT NULL,
      \`colour\` varchar(32) NOT NULL,
      \`pinned\` tinyint NOT NULL DEFAULT '0',
      \`currentVersion\` int NOT NULL,
      \`summary\` json NOT NULL,
      \`search\` text NOT NULL,
      \`lastUsedAt\` datetime(3) NULL,
      \`createdAt\` datetime(3) NOT NULL DEFAULT CURRENT_TIMESTAMP(3),
      \`updatedAt\` datetime(3) NOT NULL DEFAULT CURRENT_TIMESTAMP(3) ON UPDATE CURRENT_TIMESTAMP(3),
      \`lock\` int NOT NULL,
      \`deletedAt\` datetime(3) NULL,
      FULLTEXT INDEX \`preset_search\` (\`search\`),
      INDEX \`IDX_64b6ae4e093a672472b6692021\` (\`owner\`, \`category\`),
      INDEX \`IDX_58de32300ae5ce26a742b9efa3\` (\`owner\`, \`deletedAt\`, \`lastUsedAt\`, \`id\`),
      INDEX \`IDX_d0b303093908fc0a2b52401c6c\` (\`owner\`, \`deletedAt\`, \`name\`, \`id\`),
      PRIMARY KEY (\`id\`)
  ) ENGINE = InnoDB`,
  `
  CREATE TABLE IF NOT EXISTS \`preset_version\` (
      \`preset\` varchar(64) NOT NULL,
      \`version\` int NOT NULL,
      \`owner\` varchar(64) NOT NULL,
      \`hash\` char(64) NOT NULL,
      \`document\` json NOT NULL,
      \`createdAt\` datetime(3) NOT NULL DEFAULT CURRENT_TIMESTAMP(3),
      PRIMARY KEY (\`preset\`, \`version\`)
  ) ENGINE = InnoDB`,
  `
  CREATE TABLE IF NOT EXISTS \`tag\` (
      \`preset\` varchar(64) NOT NULL,
      \`name\` varchar(60) NOT NULL,
      \`owner\` varchar(64) NOT NULL,
      INDEX \`IDX_cd6cce320618ec8b94e10e4310\` (\`owner\`, \`name\`),
      PRIMARY KEY (\`preset\`, \`name\`)
  ) ENGINE = InnoDB`,
  `
  CREATE TABLE IF NOT EXISTS \`media\` (
      \`id\` char(64) NOT NULL,
      \`owner\` varchar(64) NOT NULL,
      \`kind\` varchar(16) NOT NULL,
      \`name\` varchar(255) NOT NULL,
      \`size\` int NOT NULL,
      \`sampleRate\` int NOT NULL DEFAULT '0',
      \`channels\` int NOT NULL DEFAULT '0',
      \`frames\` int NOT NULL DEFAULT '0',
      \`createdAt\` datetime(3) NOT NULL DEFAULT CURRENT_TIMESTAMP(3),
      PRIMARY KEY (\`id\`)
  ) ENGINE = InnoDB`,
  `
  CREATE TABLE IF NOT EXISTS \`media_chunk\` (
      \`media\` char(64) NOT NULL,
      \`part\` int NOT NULL,
      \`owner\` varchar(64) NOT NULL,
      \`data\` longblob NOT NULL,
      PRIMARY KEY (\`media\`, \`part\`)
  ) ENGINE = InnoDB`,
  `
  CREATE TABLE IF NOT EXISTS \`drop_record\` (
      \`id\` varchar(64) NOT NULL,
      \`owner\` varchar(64) NOT NULL,
      \`session\` varchar(64) NOT NULL,
      \`preset\` varchar(64) NOT NULL,
      \`version\` int NOT NULL,
      \`record\` json NOT NULL,
      \`createdAt\` datetime(3) NOT NULL DEFAULT CURRENT_TIMESTAMP(3),
      INDEX \`IDX_f54edb4590ea801d4a5d9b3204\` (\`owner\`, \`preset\`),
      INDEX \`IDX_e0a225698f016e9d94d287f9f5\` (\`owner\`, \`session\`),
      PRIMARY KEY (\`id\`)
  ) ENGINE = InnoDB`,
];
const NAMES = [
  'user',
  'session',
  'session_revision',
  'preset',
  'preset_version',
  'tag',
  'media',
  'media_chunk',
  'drop_record',
];

export class First1795571829488 implements MigrationInterface {
  name = 'First1795571829488';

  /** Safe to run again after being cut off: what is there already stays. */
  public async up(queryRunner: QueryRunner): Promise<void> {
    // a database that somebody else made may not hold every letter
    await queryRunner.query('ALTER DATABASE CHARACTER SET utf8mb4 COLLATE utf8mb4_unicode_ci');
    for (const table of TABLES) await queryRunner.query(table);
  }

  public async down(queryRunner: QueryRunner): Promise<void> {
    for (const name of NAMES.toReversed()) await queryRunner.query(`DROP TABLE IF EXISTS \`${name}\``);
  }
}
