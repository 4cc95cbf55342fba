import type { LaterAnswer, LaterBody } from '@idrel/contract/access';
import { isOver, type MadeUpTable, meaningLater, type Policy, reachOf, readableOf } from '@idrel/core/access';
import { FROM, PATH } from '../catalog/index.ts';
import { isSeen, type Who } from '../people/index.ts';
import type { Db } from '../platform/database.ts';
import { invalid, notFound } from '../platform/problems.ts';
import { knownClasses } from '../recognition/index.ts';
import { policiesSaid, readPeople } from './facts.ts';
import { checkFilter, type Filtered, withMatches } from './matches.ts';
import { asPolicy, isDeciding } from './reach.ts';

const SHOWN = 300;
/** What a draft that is not saved yet is known by where ids are looked up. */
const NOBODY = '00000000-0000-0000-0000-000000000000';

/** Where a table would lie, as decisions and filters see it. */
async function placeFor(
  db: Db,
  who: Who,
  parentId: string,
): Promise<Pick<MadeUpTable, 'source' | 'sourceId' | 'schema' | 'domains' | 'above' | 'ancestors'>> {
  const found = await db.one<{
    source: string;
    sourceId: string;
    kind: string;
    name: string;
    domains: string[];
    above: { id: string; name: string; path: string }[];
  }>(
    `
      with recursive up as (
        select a.id, a.parent_id, 0 as distance from asset a where a.id = $1
        union all
        select p.id, p.parent_id, up.distance + 1 from up join asset p on p.id = up.parent_id
      )
      select
        s.name as source, s.id as "sourceId", a.kind, a.name,
        array(
          with recursive above as (
            select d.id, d.name, d.parent_id, 0 as distance from domain d where d.id = a.domain_id
            union all
            select d.id, d.name, d.parent_id, above.distance + 1 from above join domain d on d.id = above.parent_id
          )
          select name from above order by distance
        ) as domains,
        (
          select json_agg(json_build_object('id', up.id, 'name', x.name, 'path', x.path) order by up.distance)
          from up
          join (select a.id, a.name, ${PATH} as path from ${FROM}) x on x.id = up.id
        ) as above
      from ${FROM}
      where a.id = $1 and ${isSeen('a', '$2')} and a.gone_at is null`,
    [parentId, who.domainsAs('reader')],
  );
  if (!found) throw notFound('What the table would lie in');
  if (!['schema', 'database', 'folder'].includes(found.kind))
    throw invalid(`No table lies in a ${found.kind}.`, 'Choose a schema, a database or a folder.', [
      { field: 'table.parentId', message: 'is nothing that tables lie in' },
    ]);
  return {
    source: found.source,
    sourceId: found.sourceId,
    schema: found.name,
    domains: found.domains,
    above: found.above.map(({ name, path }) => ({ name, path })),
    ancestors: found.above.map(({ id }) => id),
  };
}

/** What a draft would do with a table that is not there yet, compared with the policies in force. @throws 403, 404, 422 */
export async function reachLater(db: Db, who: Who, { policyId, draft, table }: LaterBody): Promise<LaterAnswer> {
  who.mustAnywhere('policy administrator');
  if (draft.filter) checkFilter(draft.filter);
  const classes = await knownClasses(db);
  const odd = table.columns.flatMap(({ classKeys }) => classKeys.filter((key) => !classes.has(key)));
  if (odd.length > 0)
    throw invalid(`There is no data class ${odd.map((key) => `“${key}”`).join(', ')}.`, 'Choose them anew.', [
      { field: 'table.columns', message: 'holds a class that is not there' },
    ]);
  const made: MadeUpTable = {
    ...(await placeFor(db, who, table.parentId)),
    name: table.name,
    tags: [
      ...new Set(table.tags.flatMap((tag) => [tag, ...(tag.includes('/') ? [tag.slice(0, tag.indexOf('/'))] : [])])),
    ],
    columns: table.columns.map(({ name, classKeys }) => {
      const levels = classKeys.flatMap((key) => classes.get(key)?.level ?? []);
      return { name, classes: classKeys, level: levels.length > 0 ? Math.max(...levels) : null };
    }),
  };
  const now = Date.now();
  const said = (await policiesSaid(db)).map((policy) => ({ ...policy, purposes: [] }));
  const id = policyId ?? NOBODY;
  const holds = draft.enabled && isDeciding(draft) && !isOver(draft, now);
  const mine: Filtered[] = holds ? [{ ...(await asPolicy(db, id, draft, null)), filter: draft.filter }] : [];
  // What a filter finds above it means it as well: that is asked of what is there.
  const meant = async (policies: readonly Filtered[]): Promise<Policy[]> => {
    const filters = new Map(policies.map((policy) => [policy.id, policy.filter]));
    return (await withMatches(db, policies, made.ancestors)).map((policy) =>
      meaningLater(policy, filters.get(policy.id) ?? null, made, now),
    );
  };
  const before = await meant(said);
  const after = [...before.filter((policy) => policy.id !== policyId), ...(await meant(mine))];
  const people = await readPeople(db, null);
  const readable = readableOf(made);
  const changes = reachOf(before, after, people, [readable]);
  const names = new Map(people.map((person) => [person.id, person.name]));
  const levelOf = new Map(made.columns.map((column) => [column.name, column.level]));
  return {
    people: new Set(changes.map(({ personId }) => personId)).size,
    gains: changes.filter(({ before: was }) => was === 'refused').length,
    sensitive: changes.filter(({ after: then, column }) => then === 'plain' && (levelOf.get(column) ?? 0) >= 3).length,
    rows: changes.slice(0, SHOWN).map((change) => ({
      personId: change.personId,
      person: names.get(change.personId) ?? '',
      table: `${made.above[0]?.path ?? ''}.${made.name}`,
      column: change.column,
      level: levelOf.get(change.column) ?? null,
      before: change.before,
      after: change.after,
      beforeMask: change.beforeMask,
      afterMask: change.afterMask,
    })),
  };
}
