import { decideTable, LAID_SCHEMA, laidType, type ShownCatalog, type ShownTable, typeUnder } from '@idrel/core/access';
import type { Who } from '../people/index.ts';
import type { Db } from '../platform/database.ts';
import { type Asking, factsFor, thereFor } from './facts.ts';

interface Told {
  readonly id: string;
  readonly kind: string;
  readonly comment: string | null;
}
interface ToldColumn {
  readonly id: string;
  readonly nullable: boolean;
  readonly comment: string | null;
}
const KINDS: Readonly<Record<string, ShownTable['kind']>> = { view: 'view', 'materialised view': 'materialised view' };

/**
 * What a person is shown of a source where programs ask its catalog: the tables and columns that they may read, with types as they come.
 * @param user as whom they signed in
 * @param asking the purpose that they state, and what of the source is there for them
 */
export async function shownTo(
  db: Db,
  who: Who,
  source: { readonly id: string; readonly name: string },
  user: string,
  asked: Omit<Asking, 'personId'>,
): Promise<ShownCatalog> {
  const there = thereFor(asked, 2);
  const facts = await factsFor(
    db,
    { personId: who.id, ...asked },
    `t.source_id = $1 and (${there.condition})`,
    [source.id, ...there.bind],
    'asked',
  );
  const readable = (facts?.tables ?? []).flatMap((table) => {
    const decision = facts && decideTable(facts.policies, facts.person, table);
    const columns = decision?.columns.filter(({ access }) => access !== 'refused') ?? [];
    return columns.length > 0 ? [{ table, columns }] : [];
  });
  const ids = readable.map(({ table }) => table.id);
  const [tables, columns] = await Promise.all([
    db.rows<Told>(
      "select id, kind, coalesce(nullif(description, ''), native_comment) as comment from asset where id = any($1::uuid[])",
      [ids],
    ),
    db.rows<ToldColumn>(
      `
        select
          id, coalesce((native ->> 'nullable')::boolean, true) as nullable,
          coalesce(nullif(description, ''), native_comment) as comment
        from asset
        where parent_id = any($1::uuid[]) and kind = 'column' and gone_at is null`,
      [ids],
    ),
  ]);
  const [tableOf, columnOf] = [
    new Map(tables.map((one) => [one.id, one])),
    new Map(columns.map((one) => [one.id, one])),
  ];
  return {
    database: source.name,
    user,
    tables: readable.map(({ table, columns: shown }) => ({
      id: table.id,
      schema: table.here ? LAID_SCHEMA : table.schema,
      name: table.here ? table.path : table.name,
      kind: KINDS[tableOf.get(table.id)?.kind ?? ''] ?? 'table',
      comment: tableOf.get(table.id)?.comment ?? null,
      columns: shown.map(({ id, name, type, mask }) => ({
        name,
        type: typeUnder(mask, table.here ? laidType(type) : type),
        nullable: mask !== null || (columnOf.get(id)?.nullable ?? true),
        comment: columnOf.get(id)?.comment ?? null,
      })),
    })),
  };
}
