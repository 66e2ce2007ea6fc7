import { dbFromEnv, makeDataSource } from './data-source.ts';

/** What TypeORM's command line asks for, to make migrations. */
export default makeDataSource(dbFromEnv());
