import type { AssetAnswer, AssetRow, catalogEndpoints, Facet, TreeNode, WhyFound } from '@idrel/contract/catalog';
import type { Page, QueryOf } from '@idrel/contract/http';
import type { SourceKind } from '@idrel/contract/sources';
import { ASIDE, asOf, type Filter, FilterError, parseFilter, showsAside, showsGone, where } from '@idrel/core/catalog';
import type { Ask, Branch, ReadAs } from '@idrel/core/catalog/finder';
import { KEY_SEPARATOR, keyOf } from '@idrel/readers/connectors';
import { isSeen, type Who } from '../people/index.ts';
import type { Db } from '../platform/database.ts';
import { invalid, notFound } from '../platform/problems.ts';
import { inheritedOwners } from './answering.ts';
import { type Binder, filterToSql } from './filterSql.ts';
import type { FinderClient } from './finderClient.ts';
import { addressesOf } from './places.ts';
import { custodians, experts, FROM, KIDS, pathOf, ROW, rowsOfPage, stewards } from './rows.ts';

/** A filter as it is today: dates that count back from today are dates. */
export function readFilter(text: string): Filter {
  try {
    return asOf(parseFilter(text), Date.now());
  } catch (error) {
    if (error instanceof FilterError)
      throw invalid(`${error.message} (at character ${error.position + 1})`, error.mend, [
        { field: 'filter', message: error.message },
      ]);
    throw error;
  }
}

/** Condition for what the person may see. Columns and vanished assets show only when the filter asks for them. */
export function whereVisible(filter: Filter, who: Pick<Who, 'domainsAs'>, binder: Binder): string {
  const seen = binder.add(who.domainsAs('reader'));
  const parts = [isSeen('a', seen), `(${filterToSql(filter, binder, seen)})`];
  if (!showsGone(filter)) parts.push('a.gone_at is null');
  if (!showsAside(filter)) parts.push(`a.kind <> all(${binder.add(ASIDE)}::text[])`);
  return parts.join(' and ');
}

/** What a person asks for, as the finder is asked. */
const askOf = (who: Who, filter: string, under?: string): Ask => ({
  filter: readFilter(filter),
  domains: who.domainsAs('reader'),
  own: who.ownDomains,
  under,
});

/** A page of what a filter finds, in words and rows: what is found is told by the finder, what rows show is read for these alone. */
export async function findAssets(
  db: Db,
  finder: FinderClient,
  who: Who,
  { filter, under, sort, descending, limit, offset }: QueryOf<typeof catalogEndpoints.list>,
): Promise<Page<AssetRow> & { readAs: ReadAs | null }> {
  const { ids, kids, total, readAs } = await finder.find(askOf(who, filter, under), {
    sort,
    descending,
    limit,
    offset,
  });
  const items = await rowsOf(db, who, ids, kids);
  return { items, total, readAs, next: offset + ids.length < total ? String(offset + ids.length) : null };
}

/** Rows of assets that the person may see, in the order of their ids. @param kids how many assets are below each */
async function rowsOf(db: Db, who: Who, ids: readonly string[], kids: readonly number[]): Promise<AssetRow[]> {
  if (ids.length === 0) return [];
  return db.often<AssetRow>(
    rowsOfPage(
      'select id, kids, nth from unnest($1::uuid[], $3::int[]) with ordinality as given(id, kids, nth)',
      isSeen('a', '$2'),
    ),
    [ids, who.domainsAs('reader'), kids],
  );
}

/** Ids of all that a filter finds for a person, at most so many. */
export const chosenBy = (
  finder: FinderClient,
  who: Who,
  { filter, under }: { readonly filter: string; readonly under?: string | undefined },
  most: number,
): Promise<readonly string[]> => finder.ids(askOf(who, filter, under), most);

/** Counts over what a filter finds, for the facets beside it. */
export const facets = (
  finder: FinderClient,
  who: Who,
  { filter, under }: QueryOf<typeof catalogEndpoints.facets>,
): Promise<Facet[]> => finder.count(askOf(who, filter, under));

/** Why an asset stands where it does among what words find; null when they do not find it for this person. */
export async function whyFound(
  finder: FinderClient,
  who: Who,
  id: string,
  { filter, under }: QueryOf<typeof catalogEndpoints.why>,
): Promise<WhyFound | null> {
  return (await finder.why(askOf(who, filter, under), id)) ?? null;
}

interface Place {
  readonly id: string;
  readonly kind: string;
  readonly name: string;
}

const nodeOf = ({ id, kind, name, kids, hasHolders, notice }: Branch): TreeNode => ({
  id,
  type: 'asset',
  kind,
  name,
  count: kids,
  filter: '',
  notice,
  hasChildren: hasHolders,
});

/** The children of one node of the tree, by domains or by sources. */
export async function tree(
  db: Db,
  finder: FinderClient,
  who: Who,
  { by, parent, parentType }: QueryOf<typeof catalogEndpoints.tree>,
): Promise<TreeNode[]> {
  const mine = who.domainsAs('reader');
  if (parent && parentType !== 'domain') {
    const found = await finder.branches(parentType === 'source' ? { source: parent } : { asset: parent }, mine);
    const opened = parentType === 'source' ? await openedIn(db, finder, who, 'source_id', parent) : [];
    return [...found.map(nodeOf), ...opened];
  }
  const alsoIn = await openedPlaces(db, who);
  const held = await finder.bySource();
  const readable = new Set(mine);
  const opened = await openedCounts(finder, who);
  const sources = (
    await db.rows<Place>(
      `
        select id, kind, name
        from source
        where (domain_id = any($1::uuid[]) or $3 and id = any($4::uuid[])) and ($2::uuid is null or domain_id = $2)
        order by name`,
      [mine, parent ?? null, by === 'source', [...alsoIn.sources]],
    )
  ).map(
    ({ id, kind, name }): TreeNode => ({
      id,
      type: 'source',
      kind,
      name,
      count:
        held.reduce(
          (sum, entry) => (entry.sourceId === id && readable.has(entry.domainId) ? sum + entry.shown : sum),
          0,
        ) + (opened.source.get(id) ?? 0),
      filter: where('source', name),
      notice: null,
      hasChildren: true,
    }),
  );
  if (by === 'source') return sources;
  // Domains with those below them: there are few of them.
  const domains = await db.rows<{ id: string; name: string; below: string[]; hasChildren: boolean }>(
    `
      with recursive below as (
        select d.id as root, d.id
        from domain d
        where d.parent_id is not distinct from $2::uuid
        union all
        select b.root, c.id
        from below b
        join domain c on c.parent_id = b.id
      )
      select
        d.id, d.name,
        array(select b.id from below b where b.root = d.id) as below,
        exists (select 1 from domain c where c.parent_id = d.id)
          or exists (select 1 from source s where s.domain_id = d.id)
          or exists (select 1 from asset a where a.domain_set = d.id) as "hasChildren"
      from domain d
      where d.parent_id is not distinct from $2::uuid
        and exists (select 1 from below b where b.root = d.id and (b.id = any($1::uuid[]) or b.id = any($3::uuid[])))
      order by d.name`,
    [mine, parent ?? null, [...alsoIn.domains]],
  );
  const branches = domains.map(({ id, name, below, hasChildren }): TreeNode => {
    const inside = new Set(below.filter((one) => readable.has(one)));
    const count =
      held.reduce((sum, entry) => (inside.has(entry.domainId) ? sum + entry.shown : sum), 0) +
      below.reduce((sum, one) => sum + (opened.domain.get(one) ?? 0), 0);
    return {
      id,
      type: 'domain',
      kind: 'domain',
      name,
      count,
      filter: where('domain', name),
      notice: null,
      hasChildren,
    };
  });
  return parent
    ? [
        ...branches,
        ...sources,
        ...(await movedInto(db, finder, mine, parent)),
        ...(await openedIn(db, finder, who, 'domain_id', parent)),
      ]
    : branches;
}

/** SQL of what policies let somebody see: of it only the topmost, without what the sight of something above it shows. $1 is the person, $2 the sights, $3 all by which they see. */
const OPENED_TOPMOST = `
  from asset a
  join source s on s.id = a.source_id
  left join asset p on p.id = a.parent_id
  where a.id in (select o.asset_id from policy_object o where o.policy_id in (select p from sees_by($1) p))
    and a.opened_id = any($2::uuid[]) and a.gone_at is null and (p.id is null or not ${isSeen('p', '$3')})`;
const openedBind = (who: Who) => [who.id, who.openedSights(), who.domainsAs('reader')];

/** Domains and sources that somebody does not read, in which policies let them see something. */
async function openedPlaces(
  db: Db,
  who: Who,
): Promise<{ readonly domains: ReadonlySet<string>; readonly sources: ReadonlySet<string> }> {
  const rows =
    who.openedSights().length === 0
      ? []
      : await db.rows<{ domain: string; source: string }>(
          `select distinct a.domain_id as domain, a.source_id as source ${OPENED_TOPMOST}`,
          openedBind(who),
        );
  return { domains: new Set(rows.map(({ domain }) => domain)), sources: new Set(rows.map(({ source }) => source)) };
}

/** How many assets policies let somebody see, by the ids of domains and sources. */
async function openedCounts(
  finder: FinderClient,
  who: Who,
): Promise<Readonly<Record<'domain' | 'source', ReadonlyMap<string, number>>>> {
  const sights = who.openedSights();
  if (sights.length === 0) return { domain: new Map(), source: new Map() };
  const ask = { filter: readFilter(''), domains: sights };
  const counted = async (by: 'domain' | 'source') => {
    const counts = new Map<string, number>();
    for (const { value, assets } of await finder.measure(ask, by, []))
      counts.set(value, (counts.get(value) ?? 0) + assets);
    return counts;
  };
  return { domain: await counted('domain'), source: await counted('source') };
}

/** What policies let somebody see in a domain or of a source that they do not read: the topmost of it, with what it lies in. */
async function openedIn(
  db: Db,
  finder: FinderClient,
  who: Who,
  within: 'domain_id' | 'source_id',
  id: string,
): Promise<TreeNode[]> {
  if (who.openedSights().length === 0) return [];
  const rows = await db.rows<{ id: string; within: string }>(
    `
      select a.id, coalesce(p.name, s.name) as within
      ${OPENED_TOPMOST} and a.${within} = $4
        and not (p.id is null and s.domain_id = any($3::uuid[]))
      order by a.name, within
      limit ${MOST_MOVED}`,
    [...openedBind(who), id],
  );
  return branchesOf(finder, rows, who.domainsAs('reader'));
}

/** Some assets as branches, each told with what it lies in. */
async function branchesOf(
  finder: FinderClient,
  rows: readonly { readonly id: string; readonly within: string }[],
  mine: readonly string[],
): Promise<TreeNode[]> {
  if (rows.length === 0) return [];
  const within = new Map(rows.map((row) => [row.id, row.within]));
  const found = await finder.branches({ these: [...within.keys()] }, mine);
  return found.map((branch) => nodeOf({ ...branch, name: `${branch.name} (${within.get(branch.id)})` }));
}

/** So many branches that were moved into a domain stand below it in the tree; a search finds the others. */
const MOST_MOVED = 500;

/** What was moved into a domain by itself, out of that of what holds it: the topmost of it. */
async function movedInto(db: Db, finder: FinderClient, mine: readonly string[], domain: string): Promise<TreeNode[]> {
  const moved = await db.rows<{ id: string; within: string }>(
    `
      select a.id, coalesce(p.name, s.name) as within
      from asset a
      join source s on s.id = a.source_id
      left join asset p on p.id = a.parent_id
      where a.domain_set = $1 and ${isSeen('a', '$2')} and a.gone_at is null
        and coalesce(p.domain_id, s.domain_id) <> a.domain_id
      order by a.name, within
      limit ${MOST_MOVED}`,
    [domain, mine],
  );
  return branchesOf(finder, moved, mine);
}

/** The type that a column has, where somebody made it and it is an asset that the person may see: found by its key. */
async function typeOf(
  db: Db,
  who: Who,
  asset: Pick<AssetAnswer, 'id' | 'sourceId' | 'native'>,
): Promise<AssetAnswer['ofType']> {
  const { ofType } = asset.native;
  if (typeof ofType !== 'string') return null;
  const column = await db.one<{ key: string }>('select key from asset where id = $1', [asset.id]);
  const [root = ''] = (column?.key ?? '').split(KEY_SEPARATOR);
  // Its names are joined by dots, which names can hold too.
  const dots = [...ofType.matchAll(/\./g)].map((dot) => dot.index);
  const keys = dots.map((dot) => keyOf(root, ofType.slice(0, dot), ofType.slice(dot + 1)));
  const found = await db.one<{ id: string; name: string; permits: string[] | null }>(
    `
      select t.id, t.name, t.native -> 'values' as permits
      from asset t
      where t.source_id = $1
        and t.key = any($2::text[])
        and t.kind = 'type'
        and t.gone_at is null
        and ${isSeen('t', '$3')}
      limit 1`,
    [asset.sourceId, keys, who.domainsAs('reader')],
  );
  return found ? { ...found, name: ofType } : null;
}

/**
 * Tags that come to `asset a` along lineage, and those that would, were they not refused there; $2 the domains in which the reader may read. What lies around it is
 * asked only where a tag is refused.
 */
const ARRIVED_TAGS = `
  (
    select coalesce(json_agg(json_build_object(
      'id', t.id, 'name', t.name, 'value', k.value, 'distance', k.distance, 'refused', k.refused,
      'from', (
        select json_build_object('id', f.id, 'path', ${pathOf('f', 'fs')})
        from asset f
        join source fs on fs.id = f.source_id
        where f.id = k.from_id and ${isSeen('f', '$2')}
      )
    ) order by t.name, k.value), '[]')
    from (
      select c.tag_id, c.value, c.from_id, c.distance, false as refused
      from tag_came c
      where c.asset_id = a.id
      union all
      (
        select distinct on (r.tag_id, g.value) r.tag_id, g.value, g.from_id, g.distance + 1, true
        from tag_refusal r
        join tag rt on rt.id = r.tag_id
        cross join lateral tag_steps_to(a.id) e
        cross join lateral (
          select x.value, x.asset_id as from_id, 0 as distance from asset_tag x where x.asset_id = e.from_id and x.tag_id = r.tag_id
          union all
          select x.value, x.from_id, x.distance from tag_came x where x.asset_id = e.from_id and x.tag_id = r.tag_id
        ) g
        where r.asset_id = a.id and e.kind = any(rt.travels)
          and not exists (select from asset_tag o where o.asset_id = a.id and o.tag_id = r.tag_id)
        order by r.tag_id, g.value, g.distance, g.from_id
      )
    ) k
    join tag t on t.id = k.tag_id and t.removed_at is null
  )`;

/** One asset in full. */
export async function getAsset(db: Db, who: Who, id: string): Promise<AssetAnswer> {
  const asset = await db.one<
    Omit<AssetAnswer, 'mayEdit' | 'mayCertify' | 'ofType' | 'place' | 'sqlName' | 'inherited'> & { key: string }
  >(
    `
      select
        ${ROW}, ${stewards} as stewards, ${custodians} as custodians, ${experts} as experts, a.domain_id as "domainId", a.domain_set is not null as "ownDomain", s.kind as "sourceKind", a.key, a.native || a.stats as native,
        (
          select json_build_object(
            'calls', u.calls, 'roles', u.roles, 'statements', u.statements, 'movedAt', u.moved_at, 'seenAt', u.seen_at
          )
          from asset_use u
          where u.asset_id = a.id
        ) as use,
        json_build_object(
          'stated', a.priority_set, 'reason', a.priority_reason, 'own', coalesce(a.priority_set, v.found, 0),
          'rule', (select json_build_object('id', r.id, 'name', r.name) from priority_rule r where r.id = v.rule_id),
          'inherited', coalesce(v.inherited, 0), 'distance', v.distance,
          'from', (
            select json_build_object('id', w.id, 'kind', w.kind, 'path', ${pathOf('w', 'ws')})
            from asset w
            join source ws on ws.id = w.source_id
            where w.id = v.from_id and ${isSeen('w', '$2')}
          )
        ) as "priorityFacts",
        ${ARRIVED_TAGS} as "arrivedTags",
        a.level_found as "levelFound", a.level_set as "levelSet", a.level_reason as "levelReason",
        coalesce(
          (
            with recursive up as (
              select p.id, p.parent_id, p.kind, p.name, p.depth, ${isSeen('p', '$2')} as seen
              from asset p
              where p.id = a.parent_id
              union all
              select p.id, p.parent_id, p.kind, p.name, p.depth, ${isSeen('p', '$2')} as seen
              from asset p
              join up on up.parent_id = p.id
            )
            select json_agg(json_build_object('id', id, 'kind', kind, 'name', name, 'seen', seen) order by depth)
            from up
          ),
          '[]'
        ) as ancestors,
        a.first_seen as "firstSeen",
        coalesce(
          a.gone_at,
          (select max(r.ended_at) from scan_run r where r.source_id = a.source_id and r.state in ('done', 'partly done')),
          a.last_seen
        ) as "lastSeen",
        a.gone_at as "goneAt"
      from ${FROM}
      left join asset_priority v on v.asset_id = a.id
      where a.id = $1 and ${isSeen('a', '$2')}`,
    [id, who.domainsAs('reader')],
  );
  if (!asset) throw notFound('The asset');
  const { key, ...rest } = asset;
  return {
    ...rest,
    ...addressesOf(asset.source, asset.sourceKind as SourceKind, key),
    ofType: await typeOf(db, who, asset),
    inherited: asset.owners.length > 0 ? null : await inheritedOwners(db, who, id),
    mayEdit: who.is('editor', asset.domainId),
    mayCertify: who.is('steward', asset.domainId),
    byPolicy: !who.is('reader', asset.domainId),
  };
}

export async function children(db: Db, who: Who, id: string): Promise<AssetRow[]> {
  await getAsset(db, who, id);
  return db.rows<AssetRow>(
    rowsOfPage(
      `
        select a.id, ${KIDS} as kids, row_number() over (order by a.gone_at is not null, a.position, a.name) as nth
        from asset a
        where a.parent_id = $1 and ${isSeen('a', '$2')}
        order by nth
        limit 2000`,
      'true',
    ),
    [id, who.domainsAs('reader')],
  );
}

/** Columns of the same source that have this type. */
export async function columnsOfType(
  db: Db,
  who: Who,
  id: string,
  { limit, offset }: QueryOf<typeof catalogEndpoints.columnsOfType>,
): Promise<Page<AssetRow>> {
  const type = await getAsset(db, who, id);
  const where = `a.source_id = $1 and a.kind = 'column' and a.native ->> 'ofType' = $2 and a.gone_at is null and ${isSeen('a', '$3')}`;
  const bind = [type.sourceId, `${type.ancestors.at(-1)?.name ?? ''}.${type.name}`, who.domainsAs('reader')];
  const count =
    type.kind === 'type'
      ? await db.one<{ n: number }>(`select count(*)::int as n from asset a where ${where}`, bind)
      : undefined;
  const total = count?.n ?? 0;
  const items =
    total === 0
      ? []
      : await db.rows<AssetRow>(
          rowsOfPage(
            `
              select a.id, ${KIDS} as kids, row_number() over (order by a.key) as nth
              from asset a
              where ${where}
              order by nth
              limit $4 offset $5`,
            'true',
          ),
          [...bind, limit, offset],
        );
  return { items, total, next: offset + items.length < total ? String(offset + items.length) : null };
}
