import type { AssetAnswer } from '@idrel/contract/catalog';
import type { QueryOf } from '@idrel/contract/http';
import type { proposedEndpoints } from '@idrel/contract/lineage';
import { seenProfiles } from '../access/index.ts';
import { pathOf } from '../catalog/index.ts';
import { isSeen, type Who } from '../people/index.ts';
import type { Db } from '../platform/database.ts';

type Asked = QueryOf<typeof proposedEndpoints.proposed>;

/** What has to be known of the asset itself before it is changed so. */
export async function factsOf(db: Db, who: Who, asset: AssetAnswer, { what, to }: Asked): Promise<string[]> {
  const facts = await db.one<{
    primary: boolean;
    referred: { path: string; seen: boolean }[];
    refers: string[] | null;
    nullable: string | null;
    taken: boolean;
  }>(
    `
      select
        coalesce((a.native ->> 'primaryKey')::boolean, false) as primary,
        coalesce(
          (
            select json_agg(json_build_object('path', ${pathOf('r', 's')}, 'seen', ${isSeen('r', '$2')}) order by r.key)
            from (
              select r.*
              from asset r
              where r.native ? 'references' and r.native -> 'references' ?| array[${pathOf('a', 's')}]
                and r.source_id = a.source_id and r.gone_at is null and r.id <> a.id
              order by r.key
              limit 100
            ) r
          ),
          '[]'
        ) as referred,
        (select array_agg(x.value) from jsonb_array_elements_text(a.native -> 'references') x(value)) as refers,
        a.native ->> 'nullable' as nullable,
        exists (
          select from asset b where b.parent_id = a.parent_id and b.name = $3 and b.id <> a.id and b.gone_at is null
        ) as taken
      from asset a
      join source s on s.id = a.source_id
      where a.id = $1`,
    [asset.id, who.domainsAs('reader'), to ?? null],
  );
  if (!facts) return [];
  const told: string[] = [];
  const seen = facts.referred.filter((one) => one.seen).map(({ path }) => path);
  const unseen = facts.referred.length - seen.length;
  const names = [
    ...seen.slice(0, 5),
    ...(seen.length > 5 ? [`${seen.length - 5} more`] : []),
    ...(unseen > 0 ? [`${unseen} that you may not see`] : []),
  ].join(', ');
  const isGoing = what === 'drop' || what === 'retype';
  if (isGoing && facts.primary) told.push('It is part of the primary key.');
  if (isGoing && facts.referred.length > 0) told.push(`Foreign keys refer to it: ${names}.`);
  if (isGoing && facts.refers && facts.refers.length > 0)
    told.push(
      `It refers to ${facts.refers.join(', ')}: the foreign key ${what === 'drop' ? 'goes with it' : 'needs a type that matches'}.`,
    );
  if (what === 'rename' && facts.taken) told.push(`There is a ${asset.kind} of the name ${to} beside it already.`);
  if (what === 'forbid nulls') {
    // Figures of values are for who may read these.
    const [profiled] = await seenProfiles(db, who, asset.id);
    const { rows, nulls } = profiled?.profile ?? {};
    if (facts.nullable === 'false') told.push('It takes no nulls now: nothing would change.');
    else if (nulls === undefined || rows === undefined)
      told.push('How many rows have no value is not known, or not for you to see.');
    else if (nulls > 0)
      told.push(
        `${nulls.toLocaleString('en')} of ${rows.toLocaleString('en')} values that were looked at are empty: they need a value first.`,
      );
    else told.push(`None of ${rows.toLocaleString('en')} values that were looked at is empty.`);
  }
  if (what === 'retype' && asset.native.type === to) told.push('It is of this type already.');
  return told;
}
