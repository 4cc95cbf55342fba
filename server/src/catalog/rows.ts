import type { AssetRow } from '@idrel/contract/catalog';
import { KINDS, SOURCE_KINDS, type SourceKind } from '@idrel/contract/sources';
import { CLASSES_HERE } from './classesSql.ts';

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

const peopleJson = (role: string) =>
  `coalesce((select json_agg(json_build_object('id', p.id, 'name', p.name, 'job', p.job) order by p.name) from asset_person ap join person p on p.id = ap.person_id where ap.asset_id = a.id and ap.role = '${role}'), '[]')`;

/** Classes shown on a row: of the column itself, or of a table's columns; dismissed ones not. */
export const CLASSES_OF = `coalesce((select json_agg(distinct q.class_key) from (${CLASSES_HERE}) q), '[]')`;

/** The order of notices `n`. */
export const GRAVEST_FIRST = "case n.kind when 'stop' then 0 when 'caution' then 1 else 2 end, n.created_at";
/** Notices of an asset `a` that hold today, the gravest first. */
export const NOTICES = `coalesce((select json_agg(json_build_object('kind', n.kind, 'text', n.text) order by ${GRAVEST_FIRST}) from notice n where n.asset_id = a.id and n.holds), '[]')`;

/** The fields of {@link AssetRow}, from `asset a join source s join domain d`. @param children SQL of how many assets are below */
export const rowWith = (
  children: string,
): string => `a.id, a.kind, a.name, ${PATH} as path, a.parent_id as "parentId", a.source_id as "sourceId", s.name as source, d.name as domain, a.description, a.native_comment as comment, a.standing, a.level,
  ${peopleJson('owner')} as owners, ${CLASSES_OF} as classes,
  coalesce((select json_agg(json_build_object('id', t.id, 'name', t.name) order by t.name) from asset_term at join term t on t.id = at.term_id and t.removed_at is null where at.asset_id = a.id), '[]') as terms,
  coalesce((select json_agg(json_build_object('id', t.id, 'name', t.name, 'value', at.value) order by t.name) from asset_tag at join tag t on t.id = at.tag_id and t.removed_at is null where at.asset_id = a.id), '[]') as tags,
  ${NOTICES} as notices,
  coalesce(a.native ->> 'type', a.native ->> 'returns', a.native ->> 'form') as type, (a.stats ->> 'rows')::float8 as rows, ${children} as children, a.gone_at is not null as gone, a.version`;

/** The same, counting what is below. */
export const ROW = rowWith(
  "case when a.kind = 'column' then 0 else (select count(*)::int from asset c where c.parent_id = a.id and c.gone_at is null) end",
);

export const FROM = 'asset a join source s on s.id = a.source_id join domain d on d.id = a.domain_id';
export const stewards = peopleJson('steward');
export const custodians = peopleJson('custodian');
export const experts = peopleJson('expert');
export type { AssetRow };
