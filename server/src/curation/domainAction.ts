import type { ManyAction } from '@idrel/contract/curation';
import type { Who } from '../people/index.ts';
import type { Db } from '../platform/database.ts';
import { invalid } from '../platform/problems.ts';
import type { ActionSql } from './actions.ts';
import { byHand } from './decided.ts';

/** What an action gives, and what is kept of an asset, as the domain that was chosen for it. */
const chosen = (value: string) => `nullif(${value}::text, '')::uuid`;
const SETTLE = 'select settle_domains($1::uuid[])';

/** Moves assets into a domain, with what lies in them and is in none of its own; or back into that of what holds them. It takes the role that moves a source. */
export async function ofDomain(
  db: Db,
  { id }: Extract<ManyAction, { kind: 'domain' }>,
  who: Who | undefined,
): Promise<ActionSql> {
  const domain = id === null ? null : await db.one<{ name: string }>('select name from domain where id = $1', [id]);
  if (domain === undefined)
    throw invalid('The domain of the action is not there any more.', 'Choose another one.', [
      { field: 'action', message: 'is not there' },
    ]);
  if (id !== null) who?.must('source administrator', id);
  return {
    role: 'source administrator',
    field: 'domain',
    told: domain ? `Domain: ${domain.name}` : 'Domain: that of what holds it',
    value: id ?? '',
    // Who may see a table may see its columns.
    suits: "a.kind <> 'column'",
    same: (value) => `a.domain_set is not distinct from ${chosen(value)}`,
    decided: () => byHand("'domain'"),
    now: '(select to_json(d.name) from domain d where d.id = a.domain_id)',
    before: (value) => `coalesce(a.domain_set::text, left(${value}::text, 0))`,
    alsoIn: (value) =>
      `coalesce(${chosen(value)}, (select p.domain_id from asset p where p.id = a.parent_id), s.domain_id)`,
    // A scan holds its source, then writes assets, which lie where what holds them lies when it ends.
    hold: (tx, ids) =>
      tx.rows(
        'select from source where id in (select source_id from asset where id = any($1::uuid[])) order by id for share',
        [ids],
      ),
    async apply(tx, ids, value) {
      await tx.run(`update asset set domain_set = ${chosen('$2')} where id = any($1::uuid[])`, [ids, value]);
      await tx.run(SETTLE, [ids]);
    },
    async revert(tx, _value, kept) {
      const ids = kept.map((asset) => asset.id);
      await tx.run(
        `
          update asset a
          set domain_set = ${chosen('b.before')}
          from unnest($1::uuid[], $2::text[]) as b(id, before)
          where a.id = b.id`,
        [ids, kept.map(({ before }) => before)],
      );
      await tx.run(SETTLE, [ids]);
    },
  };
}
