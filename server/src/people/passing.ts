import { recordMany } from '../journal/index.ts';
import { type Held, listedBy } from './holdings.ts';

/**
 * Things of which each has one whom it belongs to, in a column of its row.
 * @param of the table, the column, the word of the journal for it, and what of its rows counts
 */
export const oneEach = ({
  what,
  after,
  thing,
  table,
  column,
  word,
  where = 'true',
  address,
}: {
  readonly what: string;
  readonly after: string;
  readonly thing: string;
  readonly table: string;
  readonly column: string;
  readonly word: string;
  readonly where?: string;
  /** SQL of where it is shown, of a row `x`. */
  readonly address: string;
}): Held => ({
  what,
  after,
  list: listedBy(`select x.name, ${address} as address from ${table} x where x.${column} = $1 and ${where}`),
  async pass(tx, who, from, to) {
    await recordMany(
      tx,
      who,
      'passed on',
      word,
      `
        select
          '${thing}' as kind, x.id, x.name, null::uuid as domain_id,
          to_json((select name from person where id = $1::uuid)) as before,
          to_json((select name from person where id = $2::uuid)) as after
        from ${table} x
        where x.${column} = $1::uuid and ${where}`,
      [from, to],
    );
    await tx.run(
      `update ${table} x set ${column} = $2::uuid, version = version + 1 where x.${column} = $1::uuid and ${where}`,
      [from, to],
    );
  },
});
