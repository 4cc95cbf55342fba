import { type Binder, PATH } from '../catalog/index.ts';
import type { Who } from '../people/index.ts';
import type { ActionSql } from './actions.ts';

/** SQL columns that tell of each `asset a join source s` how it stands to an action, and what the action would do to it for this person: `effect`. */
export function effectColumns(sql: ActionSql, who: Who, binder: Binder): string {
  const value = binder.add(sql.value);
  return `
    a.id, a.kind, ${PATH} as path, s.name as source, a.domain_id as "domainId", a.version, a.key, ${sql.now} as now,
    ${sql.before(value)} as before, ${effectOf(sql, who, binder, value)} as effect`;
}

/** SQL of what an action would do to `asset a join source s` for this person. @param value where what it gives is bound */
export function effectOf(sql: ActionSql, who: Who, binder: Binder, value: string): string {
  const domains = binder.add(who.domainsAs(sql.role));
  return `
    case
      when not (${sql.suits}) then 'unsuited'
      when ${sql.same(value)} then 'same'
      when a.domain_id = any(${domains}::uuid[])${alsoIn(sql, value, domains)} then 'changes'
      else 'refused'
    end`;
}

/** SQL that the person has the role as well where the action takes it in another domain, too. */
export const alsoIn = (sql: ActionSql, value: string, domains: string): string =>
  sql.alsoIn ? ` and ${sql.alsoIn(value)} = any(${domains}::uuid[])` : '';

/** How many of what was found each effect comes to; over rows with an `effect`. */
export const EFFECT_COUNTS = `
  count(*)::int as found, count(*) filter (where effect = 'changes')::int as changes,
  count(*) filter (where effect = 'same')::int as same, count(*) filter (where effect = 'refused')::int as refused,
  count(*) filter (where effect = 'unsuited')::int as unsuited`;
export const DECIDED_COUNT = "count(*) filter (where effect = 'decided')::int as decided";

/** What stood somewhere, as a person reads it: a list of names, or a word. @param now SQL of JSON */
export const inWords = (now: string): string => `
  case
    when json_typeof(${now}) = 'array'
    then nullif((select string_agg(n, ', ') from json_array_elements_text(${now}) n), '')
    else ${now} #>> '{}'
  end`;
