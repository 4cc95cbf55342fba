import type { LineageAnswer, LineageColumns } from '@idrel/contract/lineage';
import { skipToken } from '@reduxjs/toolkit/query';
import { useMemo } from 'react';
import { useLineageColumnsQuery, useLineageQuery } from './api.ts';
import { wayOf } from './follow.ts';

type Asked = Omit<Parameters<typeof useLineageQuery>[0] & object, 'column'>;

/**
 * The picture that is asked for. One of too many tables for their columns is told between tables; where a column is followed, what lies on the way of its values
 * is told in its place, with columns.
 */
export function usePicture(asked: Asked, column: string | null) {
  const whole = useLineageQuery(asked);
  const narrow = whole.data?.coarse === true && column !== null;
  const along = { ...asked, column: column ?? undefined };
  const way = useLineageQuery(narrow ? along : skipToken);
  const told = narrow ? way.currentData : undefined;
  const onWay = useMemo(() => told && column && alone(told, wayOf(told, column)), [told, column]);
  return {
    /** Until a way is there, the whole stands. */
    answer: onWay || whole.data,
    /** Whether only what lies on a way is shown. */
    narrow,
    asked: narrow ? along : asked,
    error: whole.error ?? (narrow ? way.error : undefined),
    refetch: () => void (narrow && !whole.error ? way : whole).refetch(),
  };
}

/** Of a picture the edges between some columns alone. */
const alone = (answer: LineageAnswer, columns: ReadonlySet<string>): LineageAnswer => ({
  ...answer,
  links: answer.links.filter(({ from, to }) => columns.has(from) && columns.has(to)),
  influences: [],
});

/**
 * A picture that is told between tables, with the columns of those that are looked at.
 * @param tables ids of those
 */
export function useColumns(
  answer: LineageAnswer | undefined,
  tables: readonly string[],
  moments: Pick<Asked, 'at' | 'before'>,
): LineageColumns | undefined {
  const among = answer?.coarse ? answer.nodes.map(({ id }) => id) : [];
  const there = new Set(among);
  const those = tables.filter((id) => there.has(id));
  const { data } = useLineageColumnsQuery(those.length > 0 ? { tables: those, among, ...moments } : skipToken);
  return those.length > 0 ? data : undefined;
}

/**
 * A picture in which some tables have their columns, and the edges of these stand in place of those that were told between the tables.
 * @param hidden kinds of edges that are left out
 */
export function withColumns(
  answer: LineageAnswer,
  told: LineageColumns | undefined,
  hidden: ReadonlySet<string>,
): LineageAnswer {
  if (!answer.coarse || told === undefined) return answer;
  const columns = new Map(told.tables.map((table) => [table.id, table.columns]));
  const there = new Set(answer.nodes.map(({ id }) => id));
  const flows = new Set(answer.flows.map(({ id }) => id));
  const fine = told.links.filter(
    ({ kind, fromTable, toTable }) => !hidden.has(kind) && there.has(fromTable) && there.has(toTable),
  );
  return {
    ...answer,
    nodes: answer.nodes.map((node) => ({ ...node, columns: columns.get(node.id) ?? node.columns })),
    links: [
      ...answer.links.filter(({ fromTable, toTable }) => !columns.has(fromTable) && !columns.has(toTable)),
      ...fine.map((link) => (link.flow !== null && !flows.has(link.flow) ? { ...link, flow: null } : link)),
    ],
  };
}
