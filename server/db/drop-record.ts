import type { DropRecordRow } from './entities.ts';

/** A row of a drop as it is written: what a list shows of its record stands beside it. */
export function dropRecord<T extends Pick<DropRecordRow, 'record'>>(row: T): T & { summary: object } {
  return { ...row, summary: summaryOf(row.record) };
}

/** A record without what is as long as the drop was large: the rows of its report, the picture of its null test. */
function summaryOf(record: object): object {
  const { report, nullTest, ...rest } = record as Record<string, object | undefined>;
  return {
    ...rest,
    ...(report ? { report: without(report, 'rows') } : {}),
    ...(nullTest ? { nullTest: without(nullTest, 'picture') } : {}),
  };
}
const without = (of: object, key: string): object =>
  Object.fromEntries(Object.entries(of).filter(([name]) => name !== key));
