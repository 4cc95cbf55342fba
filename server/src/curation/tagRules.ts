import type { Who } from '../people/index.ts';
import type { Db } from '../platform/database.ts';
import { forbidden, invalid } from '../platform/problems.ts';

/** What decides whether somebody may give a tag, and with which value. */
export interface TagRules {
  readonly id: string;
  readonly name: string;
  readonly permitted: readonly string[] | null;
  readonly kinds: readonly string[] | null;
  /** Members of the groups that may give it; null: every editor. */
  readonly members: readonly string[] | null;
  readonly groups: readonly string[];
}

const RULES = `
  select
    t.id, t.name, t.permitted, t.kinds,
    array(select g.name from person_group g where g.id = any(t.group_ids) order by g.name) as groups,
    case
      when t.group_ids <> '{}'
      then array(select m.person_id::text from group_member m where m.group_id = any(t.group_ids))
    end as members
  from tag t
  where t.removed_at is null`;

/** @throws 422 when it is not there any more */
export async function tagRules(db: Db, id: string): Promise<TagRules> {
  const rules = await db.one<TagRules>(`${RULES} and t.id = $1`, [id]);
  if (!rules)
    throw invalid('The tag is not there any more.', 'Choose another one.', [
      { field: 'action', message: 'is not there' },
    ]);
  return rules;
}

export const rulesOf = (db: Db, ids: readonly string[]): Promise<TagRules[]> =>
  db.rows<TagRules>(`${RULES} and t.id = any($1::uuid[])`, [ids]);

/**
 * @param value to be given, perhaps none (''); undefined where the tag is taken away
 * @throws 403 when the person belongs to none of its groups; 422 when the value is not one of the permitted ones
 */
export function mustGiveTag(rules: TagRules, value: string | undefined, who: Who | undefined): void {
  if (who && rules.members && !rules.members.includes(who.id) && !who.isEverywhere('administrator'))
    throw forbidden(`member of ${rules.groups.join(' or ')}, who alone give the tag “${rules.name}”`);
  if (!value || rules.permitted === null || rules.permitted.includes(value)) return;
  throw invalid(
    `“${value}” is no value of the tag “${rules.name}”.`,
    rules.permitted.length > 0 ? `Use one of ${rules.permitted.join(', ')}.` : 'It is given without a value.',
    [{ field: 'tags', message: 'is no permitted value' }],
  );
}

/** SQL of the names of an asset's tags, with their values, as JSON: what the journal keeps. */
export const tagsNow = (asset: string): string => `
  coalesce((
    select json_agg(t.name || case when y.value = '' then '' else '/' || y.value end order by t.name)
    from asset_tag y
    join tag t on t.id = y.tag_id and t.removed_at is null
    where y.asset_id = ${asset}
  ), '[]')`;
