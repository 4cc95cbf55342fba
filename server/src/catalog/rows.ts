import type { AssetRow } from '@idrel/contract/catalog';
import { KINDS, SOURCE_KINDS, type SourceKind } from '@idrel/contract/sources';
import { CLASSES_HERE } from './classesSql.ts';
import { PRIORITY } from './prioritySql.ts';

const kindsWhere = (source: string, holds: (kind: SourceKind) => boolean) =>
  `${source}.kind in (${SOURCE_KINDS.filter(holds)
    .map((kind) => `'${kind}'`)
    .join(', ')})`;

/**
 * Names joined as is usual for the kind of source; without the database, which is the source's own name to most people.
 * @param asset what the asset is called in the statement; @param source its source
 */
export const pathOf = (asset: string, source: string): string =>
  `replace(case when ${kindsWhere(source, (kind) => KINDS[kind].topHidden)} and position(chr(31) in ${asset}.key) > 0 then substr(${asset}.key, position(chr(31) in ${asset}.key) + 1) else ${asset}.key end, chr(31), case when ${kindsWhere(source, (kind) => KINDS[kind].separator === '/')} then '/' else '.' end)`;
export const PATH = pathOf('a', 's');

/** A list that a row shows, put together from rows of other tables. */
interface Shown {
  readonly each: string;
  readonly order: string;
  readonly from: string;
  /** The column that names the asset. */
  readonly of: string;
  readonly where: string;
}
const peopleWho = (role: string): Shown => ({
  each: "json_build_object('id', p.id, 'name', p.name, 'job', p.job)",
  order: 'p.name',
  from: 'asset_person ap join party p on p.id = ap.person_id',
  of: 'ap.asset_id',
  where: `ap.role = '${role}'`,
});
/** The order of notices `n`. */
export const GRAVEST_FIRST = "case n.kind when 'stop' then 0 when 'caution' then 1 else 2 end, n.created_at";
const SHOWN = {
  owners: peopleWho('owner'),
  terms: {
    each: "json_build_object('id', t.id, 'name', t.name)",
    order: 't.name',
    from: 'asset_term x join term t on t.id = x.term_id and t.removed_at is null',
    of: 'x.asset_id',
    where: 'true',
  },
  tags: {
    each: "json_build_object('id', t.id, 'name', t.name, 'value', x.value)",
    order: 't.name',
    from: 'asset_tag x join tag t on t.id = x.tag_id and t.removed_at is null',
    of: 'x.asset_id',
    where: 'true',
  },
  notices: {
    each: "json_build_object('kind', n.kind, 'text', n.text)",
    order: GRAVEST_FIRST,
    from: 'notice n',
    of: 'n.asset_id',
    where: 'n.holds',
  },
} satisfies Record<string, Shown>;

/** The list of one asset `a`. */
const ofOne = ({ each, order, from, of, where }: Shown) =>
  `coalesce((select json_agg(${each} order by ${order}) from ${from} where ${of} = a.id and ${where}), '[]')`;
/** The lists of all assets of a page, gathered at once: asked for one by one, each costs a search. */
const OF_PAGE = Object.entries<Shown>(SHOWN)
  .map(
    ([name, { each, order, from, of, where }]) =>
      `left join (select ${of} as asset_id, json_agg(${each} order by ${order}) as list from ${from} where ${of} in (select id from page) and ${where} group by ${of}) ${name}_of on ${name}_of.asset_id = a.id`,
  )
  .join('\n');

/** Classes shown on a row: of the column itself, or of a table's columns; dismissed ones not. */
export const CLASSES_OF = `coalesce((select json_agg(distinct q.class_key) from (${CLASSES_HERE}) q), '[]')`;
/** Notices of an asset `a` that hold today, the gravest first. */
export const NOTICES = ofOne(SHOWN.notices);

/** How much room an asset takes; null where its source does not say, in numbers. */
export const BYTES = "case when jsonb_typeof(a.stats -> 'bytes') = 'number' then (a.stats ->> 'bytes')::float8 end";

/** The fields of {@link AssetRow}, from `asset a join source s join domain d`. @param list SQL of a list; @param children of how many assets are below */
const rowWith = (
  list: (name: keyof typeof SHOWN) => string,
  children: string,
): string => `a.id, a.kind, a.name, ${PATH} as path, a.parent_id as "parentId", a.source_id as "sourceId", s.name as source, d.name as domain, a.description, a.native_comment as comment, a.standing, a.level, ${PRIORITY} as priority,
  ${list('owners')} as owners, ${CLASSES_OF} as classes, ${list('terms')} as terms, ${list('tags')} as tags, ${list('notices')} as notices,
  coalesce(a.native ->> 'type', a.native ->> 'returns', a.native ->> 'form') as type, (a.stats ->> 'rows')::float8 as rows, ${BYTES} as bytes, coalesce((select u.calls from asset_use u where u.asset_id = a.id), 0) as uses, ${children} as children, a.gone_at is not null as gone, a.version`;

/** How many assets are below an asset `a`. */
export const KIDS =
  "case when a.kind = 'column' then 0 else (select count(*)::int from asset c where c.parent_id = a.id and c.gone_at is null) end";
/** The row of one asset. */
export const ROW = rowWith((name) => ofOne(SHOWN[name]), KIDS);

export const FROM = 'asset a join source s on s.id = a.source_id join domain d on d.id = a.domain_id';
/** Rows of a page of assets, in its order. @param page SQL of `id`, `kids` (how many are below) and `nth`; @param where of assets `a` */
export const rowsOfPage = (page: string, where: string): string => `
  with page as materialized (${page})
  select ${rowWith((name) => `coalesce(${name}_of.list, '[]')`, 'page.kids')}
  from page
  join ${FROM} on a.id = page.id
  ${OF_PAGE}
  where ${where}
  order by page.nth`;
export const stewards = ofOne(peopleWho('steward'));
export const custodians = ofOne(peopleWho('custodian'));
export const experts = ofOne(peopleWho('expert'));
export type { AssetRow };
