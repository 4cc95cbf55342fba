import type { AssetAnswer } from '@idrel/contract/catalog';
import type { AssetChange, SuggestionAnswer, TakenSuggestion } from '@idrel/contract/curation';
import type { AssetKind } from '@idrel/contract/things';
import { type Clue, refusalOf, suggestionsFrom } from '@idrel/core/catalog';
import { FROM, getAsset, PATH } from '../catalog/index.ts';
import type { Who } from '../people/index.ts';
import type { Db } from '../platform/database.ts';
import { invalid } from '../platform/problems.ts';
import { editAsset } from './service.ts';

/** So many columns of a table are looked at, and so many that are called as one of them. */
const COLUMNS_MOST = 300;
const ALIKE_MOST = 2000;
const SHOWN = 100;

interface Subject {
  readonly id: string;
  readonly kind: AssetKind;
  readonly name: string;
  readonly version: number;
}

/** What a clue says, as rows: of which asset, what, how many of how many, and one that says so. */
type ClueRow = Omit<Clue, 'by'> & { readonly byId: string | null; readonly byPath: string | null };

/** $1 the assets that something could be said of, $2 the domains that may be read. */
const OPEN = `
  open as (
    select a.id, a.kind, a.name, a.native_comment, a.parent_id, coalesce(a.description, '') = '' as undescribed
    from asset a
    where a.id = any($1::uuid[]) and a.gone_at is null
  )`;

/** The comment at the source. */
const COMMENTS = `
  with ${OPEN}
  select id as "assetId", 'description' as field, native_comment as value, native_comment as label, 'comment' as kind, 1 as of, 1 as say,
         null as "byId", null as "byPath"
  from open
  where undescribed and coalesce(native_comment, '') <> ''`;

/**
 * What other columns of the same name are described by, or which terms they carry. Of those that are described, or carry any, there are few beside the columns of
 * a name: they are looked up first, by $3 the names.
 */
const alike = (field: 'description' | 'term') => `
  with ${OPEN},
  carriers as materialized (select x.asset_id, t.id::text as value, t.name as label from asset_term x join term t on t.id = x.term_id and t.removed_at is null),
  saying as materialized (
    ${
      field === 'term'
        ? `select a.id, a.name, a.source_id, a.domain_id, x.value, x.label
           from carriers x
           join asset a on a.id = x.asset_id
           where a.name = any($3::text[]) and a.kind = 'column' and a.gone_at is null and a.domain_id = any($2::uuid[])`
        : `select a.id, a.name, a.source_id, a.domain_id, a.description as value, a.description as label
           from asset a
           where a.name = any($3::text[]) and a.kind = 'column' and a.gone_at is null and a.domain_id = any($2::uuid[])
             and a.description is not null and a.description <> ''`
    }
    limit ${ALIKE_MOST}
  ),
  others as (
    select o.id as "assetId", y.id, y.value, y.label
    from open o
    join saying y on y.name = o.name and y.id <> o.id
    where o.kind = 'column'
      and ${field === 'term' ? 'not exists (select from asset_term mine where mine.asset_id = o.id and mine.term_id::text = y.value)' : 'o.undescribed'}
  ),
  totals as (select "assetId", count(distinct id)::int as of from others group by 1),
  said as (
    select o."assetId", o.value, min(o.label) as label, t.of, count(distinct o.id)::int as say, (array_agg(o.id order by o.id))[1] as by
    from others o
    join totals t on t."assetId" = o."assetId"
    group by o."assetId", o.value, t.of
  )
  select q."assetId", '${field}' as field, q.value, q.label, 'same name' as kind, q.of, q.say, q.by as "byId",
         (select ${PATH} from ${FROM} where a.id = q.by) as "byPath"
  from said q`;

/** What the columns are described by, or carry, that a column is copied from or to. */
const copied = (field: 'description' | 'term') => `
  with ${OPEN}
  select o.id as "assetId", '${field}' as field, ${field === 'term' ? 't.id::text' : 'a.description'} as value,
         ${field === 'term' ? 't.name' : 'a.description'} as label, 'lineage' as kind, 1 as of, 1 as say, a.id as "byId", ${PATH} as "byPath"
  from open o
  join lateral (
    select e.from_id as other from lineage_edge e where e.to_id = o.id and e.kind = 'copied'
    union
    select e.to_id from lineage_edge e where e.from_id = o.id and e.kind = 'copied'
    limit 20
  ) e on true
  join asset a on a.id = e.other and a.gone_at is null
  join source s on s.id = a.source_id
  join domain d on d.id = a.domain_id
  ${field === 'term' ? 'join asset_term x on x.asset_id = a.id join term t on t.id = x.term_id and t.removed_at is null' : ''}
  where a.domain_id = any($2::uuid[])
    and ${field === 'term' ? 'not exists (select from asset_term mine where mine.asset_id = o.id and mine.term_id = t.id)' : "o.undescribed and coalesce(a.description, '') <> ''"}`;

/** Who could answer for an asset ($1 holds it alone) that nobody answers for: who does for what it lies in, for what lies beside it, for what it is made from; who writes of it most. */
const OWNERS = `
  with recursive ${OPEN},
  unowned as (
    select o.* from open o
    where o.kind <> 'column' and not exists (select from asset_person ap where ap.asset_id = o.id and ap.role = 'owner')
  ),
  up as (
    select u.id as asset_id, p.id, p.parent_id, 1 as distance from unowned u join asset p on p.id = u.parent_id
    union all
    select up.asset_id, p.id, p.parent_id, up.distance + 1 from up join asset p on p.id = up.parent_id
  ),
  beside as (
    select u.id as asset_id, b.id, exists (select from asset_person ap where ap.asset_id = b.id and ap.role = 'owner') as owned
    from unowned u
    join lateral (
      select b.id from asset b
      where b.parent_id = u.parent_id and b.id <> u.id and b.kind <> 'column' and b.gone_at is null and b.domain_id = any($2::uuid[])
      order by b.position, b.id
      limit 200
    ) b on true
  ),
  clues as (
    select up.asset_id, ap.person_id, 'above' as kind, 1 as of, 1 as say, up.id as by_id
    from up
    join asset h on h.id = up.id and h.domain_id = any($2::uuid[])
    join asset_person ap on ap.asset_id = up.id and ap.role = 'owner'
    union all
    select b.asset_id, ap.person_id, 'beside',
           (select count(*)::int from beside o where o.asset_id = b.asset_id and o.owned), count(*)::int, (array_agg(b.id order by b.id))[1]
    from beside b
    join asset_person ap on ap.asset_id = b.id and ap.role = 'owner'
    group by b.asset_id, ap.person_id
    union all
    select u.id, ap.person_id, 'lineage', 2, 1, f.from_id
    from unowned u
    join lateral (select distinct f.from_id from lineage_feed f where f.to_id = u.id limit 20) f on true
    join asset a on a.id = f.from_id and a.domain_id = any($2::uuid[])
    join asset_person ap on ap.asset_id = f.from_id and ap.role = 'owner'
    union all
    select u.id, j.person_id, 'writes', 1, count(*)::int, null
    from unowned u
    join journal j on j.subject_id = u.id::text and j.person_id is not null
    group by u.id, j.person_id
  )
  select c.asset_id as "assetId", 'owner' as field, p.id::text as value, p.name as label, c.kind, greatest(c.of, c.say) as of, c.say,
         c.by_id as "byId",
         (select ${PATH} from ${FROM} where a.id = c.by_id and a.domain_id = any($2::uuid[])) as "byPath"
  from clues c
  join person p on p.id = c.person_id and p.left_at is null`;

/** What could be said of an asset and its columns that nobody has said yet, by what speaks for it. */
export async function listSuggestions(db: Db, who: Who, assetId: string): Promise<SuggestionAnswer[]> {
  const { domainId } = await getAsset(db, who, assetId);
  who.must('editor', domainId);
  const subjects = await db.rows<Subject>(
    `
      select a.id, a.kind, a.name, a.version
      from asset a
      where (a.id = $1 or (a.parent_id = $1 and a.kind = 'column')) and a.gone_at is null and a.domain_id = any($2::uuid[])
      order by a.id = $1 desc, a.position
      limit ${COLUMNS_MOST}`,
    [assetId, who.domainsAs('editor')],
  );
  const bind = [subjects.map(({ id }) => id), who.domainsAs('reader')];
  const named = [...bind, [...new Set(subjects.filter(({ kind }) => kind === 'column').map(({ name }) => name))]];
  const rows: ClueRow[] = [];
  for (const field of ['description', 'term'] as const)
    rows.push(...(await db.rows<ClueRow>(alike(field), named)), ...(await db.rows<ClueRow>(copied(field), bind)));
  rows.push(...(await db.rows<ClueRow>(OWNERS, bind)));
  rows.push(...(await db.rows<ClueRow>(COMMENTS, [bind[0]])));
  const refused = await db.rows<Pick<Clue, 'assetId' | 'field' | 'value'>>(
    'select asset_id as "assetId", field, value from suggestion_refused where asset_id = any($1::uuid[])',
    [bind[0]],
  );
  const clues = rows.map(
    ({ byId, byPath, ...clue }): Clue => ({
      ...clue,
      by: byId !== null && byPath !== null ? { id: byId, path: byPath } : null,
    }),
  );
  const known = new Map(subjects.map((subject) => [subject.id, subject]));
  return suggestionsFrom(clues, new Set(refused.map(refusalOf)))
    .slice(0, SHOWN)
    .flatMap(({ assetId: id, ...suggestion }) => {
      const asset = known.get(id);
      return asset ? [{ asset, ...suggestion, clues: [...suggestion.clues] }] : [];
    });
}

/** The edit that takes a suggestion, or takes it back; why there is none, where somebody has said otherwise. */
function editFor(asset: AssetAnswer, { field, value }: TakenSuggestion, taken: boolean): AssetChange | string {
  const ids = (list: readonly { id: string }[]) => list.map(({ id }) => id);
  switch (field) {
    case 'description': {
      const said = asset.description ?? '';
      if (taken) return said === '' ? { description: value } : 'it is described already';
      return said === value.trim() ? { description: null } : 'its description is another one now';
    }
    case 'term': {
      const terms = ids(asset.terms);
      if (taken) return terms.includes(value) ? 'it carries the term already' : { termIds: [...terms, value] };
      return terms.includes(value)
        ? { termIds: terms.filter((id) => id !== value) }
        : 'it does not carry the term any more';
    }
    case 'owner': {
      const owners = ids(asset.owners);
      if (taken) return owners.length === 0 ? { ownerIds: [value] } : 'somebody answers for it already';
      return owners.length === 1 && owners[0] === value ? { ownerIds: [] } : 'somebody else answers for it now';
    }
  }
}

const ID = /^[0-9a-f]{8}(-[0-9a-f]{4}){3}-[0-9a-f]{12}$/;
/** Terms and people are told by their ids. */
function mustName({ field, value }: TakenSuggestion): void {
  if (field !== 'description' && !ID.test(value))
    throw invalid(`“${value.slice(0, 60)}” is no id of a ${field}.`, 'Send what was suggested, as it was.', [
      { field: 'items', message: `holds a ${field} that is no id` },
    ]);
}

/** Takes suggestions, each as an edit of its asset, or takes them back. */
export async function takeSuggestions(
  tx: Db,
  who: Who,
  items: readonly TakenSuggestion[],
  taken: boolean,
): Promise<{ taken: number; passedOver: { assetId: string; why: string }[] }> {
  const passedOver: { assetId: string; why: string }[] = [];
  for (const item of items) {
    mustName(item);
    const asset = await getAsset(tx, who, item.assetId);
    const edit = editFor(asset, item, taken);
    if (typeof edit === 'string') passedOver.push({ assetId: item.assetId, why: edit });
    else await editAsset(tx, who, item.assetId, asset.version, edit);
  }
  return { taken: items.length - passedOver.length, passedOver };
}

/** Refuses suggestions for good, or takes that back. */
export async function refuseSuggestions(
  tx: Db,
  who: Who,
  items: readonly TakenSuggestion[],
  refused: boolean,
): Promise<void> {
  for (const { assetId, field, value } of items) {
    const { domainId } = await getAsset(tx, who, assetId);
    who.must('editor', domainId);
    await tx.run(
      refused
        ? 'insert into suggestion_refused (asset_id, field, value, person_id) values ($1, $2, $3, $4) on conflict do nothing'
        : 'delete from suggestion_refused where asset_id = $1 and field = $2 and value = $3 and $4::uuid is not null',
      [assetId, field, value, who.id],
    );
  }
}
