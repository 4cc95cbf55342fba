import type { AssetAnswer, AssetRow, catalogEndpoints, Facet, TreeNode } from '@idrel/contract/catalog';
import type { Page, QueryOf } from '@idrel/contract/http';
import { type Filter, FilterError, parseFilter, wantedWords, where } from '@idrel/core/catalog';
import { DATA_CLASSES, LEVELS } from '@idrel/core/recognition';
import { KEY_SEPARATOR, keyOf } from '@idrel/readers/connectors';
import type { Who } from '../people/index.ts';
import type { Db } from '../platform/database.ts';
import { invalid, notFound } from '../platform/problems.ts';
import { Binder, filterToSql, lexeme } from './filterSql.ts';
import { kindsSql } from './kindsSql.ts';
import { FROM, ROW, stewards } from './rows.ts';

export function readFilter(text: string): Filter {
  try {
    return parseFilter(text);
  } catch (error) {
    if (error instanceof FilterError)
      throw invalid(`${error.message} (at character ${error.position + 1})`, error.mend, [
        { field: 'filter', message: error.message },
      ]);
    throw error;
  }
}

const has = (filter: Filter, test: (leaf: Filter) => boolean): boolean =>
  filter.type === 'all' || filter.type === 'any'
    ? filter.of.some((part) => has(part, test))
    : filter.type === 'not'
      ? has(filter.of, test)
      : test(filter);
const wordsIn = (filter: Filter): readonly string[] =>
  filter.type === 'all' || filter.type === 'any'
    ? filter.of.flatMap(wordsIn)
    : filter.type === 'word'
      ? wantedWords(filter.text)
      : [];

/** Condition for what the person may see, below an asset when one is named. Columns and vanished assets show only when the filter asks for them. */
export function whereVisible(filter: Filter, who: Who, binder: Binder, under?: string): string {
  const parts = [
    `a.domain_id = any(${binder.add(who.domainsAs('reader'))}::uuid[])`,
    `(${filterToSql(filter, binder)})`,
  ];
  if (under)
    parts.push(
      `a.id in (with recursive below as (select id from asset where parent_id = ${binder.add(under)} union all select c.id from asset c join below on c.parent_id = below.id) select id from below)`,
    );
  if (!has(filter, (leaf) => leaf.type === 'is' && leaf.key === 'gone')) parts.push('a.gone_at is null');
  if (!has(filter, (leaf) => leaf.type === 'word' || (leaf.type === 'is' && leaf.key === 'kind')))
    parts.push("a.kind not in ('column', 'database')");
  return parts.join(' and ');
}

/** Expressions to sort by; `relevance` without words means the order of the sources. */
const ORDER: Record<string, readonly string[]> = {
  name: ['lower(a.name)'],
  kind: ['a.kind'],
  source: ['s.name'],
  level: ['coalesce(a.level, 0)'],
  path: ['s.name', 'a.key'],
  relevance: ['s.name', 'a.key'],
  standing: ["array_position(array['trusted', 'reviewed', 'unreviewed', 'retiring'], a.standing::text)"],
};

/** A page of what a filter finds. */
export async function findAssets(
  db: Db,
  who: Who,
  query: QueryOf<typeof catalogEndpoints.list>,
): Promise<Page<AssetRow>> {
  const filter = readFilter(query.filter);
  const binder = new Binder();
  const where = whereVisible(filter, who, binder, query.under);
  const words = wordsIn(filter);
  const { sort, limit, offset } = query;
  const direction = query.descending ? 'desc' : 'asc';
  let order = (ORDER[sort] ?? []).map((expression) => `${expression} ${direction}`).join(', ');
  if (sort === 'relevance' && words.length > 0) {
    const asked = binder.add(words.map((word) => lexeme(word, false)).join(' | '));
    order = `
      (lower(a.name) = ${binder.add(words.join('_'))}) desc,
      ts_rank(case when a.words = '' then coalesce((select n.words from name_words n where n.name = a.name), '') else a.words end, ${asked}::tsquery) * case a.kind
        when 'table' then 1.3
        when 'view' then 1.2
        when 'column' then 0.9
        else 1
      end desc,
      s.name, a.key`;
  }
  const count = await db.one<{ n: number }>(
    `select count(*)::int as n from ${FROM} where ${where}`,
    binder.values.slice(0, maxParameter(where)),
  );
  // The page is chosen first: what rows show (people, classes, terms) is gathered for these alone.
  const items = await db.rows<AssetRow>(
    `
      with page as materialized (
        select a.id, row_number() over (order by ${order}, a.id) as nth
        from ${FROM}
        where ${where}
        order by nth
        limit ${limit}
        offset ${offset}
      )
      select ${ROW}
      from ${FROM}
      join page on page.id = a.id
      order by page.nth`,
    binder.values,
  );
  const total = count?.n ?? 0;
  return { items, total, next: offset + items.length < total ? String(offset + items.length) : null };
}

const maxParameter = (sql: string) => Math.max(0, ...[...sql.matchAll(/\$(\d+)/g)].map((match) => Number(match[1])));

/** Labels of data classes: of those that ship, unless the organisation calls them otherwise, and of its own. */
async function classLabels(db: Db): Promise<ReadonlyMap<string, string>> {
  const own = await db.rows<{ key: string; label: string }>('select key, label from data_class');
  return new Map([...DATA_CLASSES, ...own].map((entry) => [entry.key, entry.label]));
}

/** Counts over what a filter finds, for the facets beside it. */
export async function facets(db: Db, who: Who, query: QueryOf<typeof catalogEndpoints.facets>): Promise<Facet[]> {
  const binder = new Binder();
  const where = whereVisible(readFilter(query.filter), who, binder, query.under);
  const rows = await db.rows<{ key: string; value: string | null; count: number }>(
    `
      with found as materialized (
        select a.id, a.kind, a.standing, a.level, a.gone_at, s.name as source, d.name as domain
        from ${FROM}
        where ${where}
      )
      select 'kind' as key, kind as value, count(*)::int as count
      from found
      group by 2
      union all
      select 'source', source, count(*)::int
      from found
      group by 2
      union all
      select 'domain', domain, count(*)::int
      from found
      group by 2
      union all
      select 'standing', standing::text, count(*)::int
      from found
      group by 2
      union all
      select 'level', coalesce(level, 0)::text, count(*)::int
      from found
      group by 2
      union all
      select 'class', k.class_key, count(distinct found.id)::int
      from found
      join carried k on k.asset_id = found.id
      where found.gone_at is null
      group by 2`,
    binder.values,
  );
  const labels = await classLabels(db);
  const keys = ['kind', 'domain', 'source', 'class', 'level', 'standing'] as const;
  return keys.map((key) => ({
    key,
    values: rows
      .filter((row) => row.key === key)
      .sort((a, b) => b.count - a.count)
      .map((row) => {
        const value = key === 'level' ? (LEVELS[Number(row.value) - 1] ?? 'none') : (row.value ?? '');
        return { value, label: key === 'class' ? (labels.get(value) ?? value) : value, count: row.count };
      }),
  }));
}

/** Sources as they stand in the tree, with how many assets they hold. */
const SOURCE_NODES = `
  select
    s.id, 'source' as type, s.kind, s.name,
    (
      select count(*)::int
      from asset a
      where a.source_id = s.id and a.gone_at is null and a.kind not in ('column', 'database')
    ) as count,
    '' as filter, true as "hasChildren"
  from source s`;

/** The children of one node of the tree, by domains or by sources. */
export async function tree(db: Db, who: Who, query: QueryOf<typeof catalogEndpoints.tree>): Promise<TreeNode[]> {
  const mine = who.domainsAs('reader');
  if (query.parentType === 'asset' || query.parentType === 'source') {
    const column = query.parentType === 'source' ? 'a.source_id = $2 and a.parent_id is null' : 'a.parent_id = $2';
    return db.rows<TreeNode>(
      `
        select a.id, 'asset' as type, a.kind, a.name, n.children as count, '' as filter, n.containers > 0 as "hasChildren"
        from
          asset a,
          lateral (
            select
              count(*)::int as children, count(*) filter (where c.kind in (${kindsSql('holdsOthers')}))::int as containers
            from asset c
            where c.parent_id = a.id and c.gone_at is null
          ) n
        where a.domain_id = any($1::uuid[]) and ${column} and a.gone_at is null and a.kind <> 'column'
        order by a.kind = 'file', a.position, a.name
        limit 2000`,
      [mine, query.parent],
    );
  }
  if (query.by === 'source') {
    const rows = await db.rows<TreeNode>(`${SOURCE_NODES} where s.domain_id = any($1::uuid[]) order by s.name`, [mine]);
    return rows.map((row) => ({ ...row, filter: where('source', row.name) }));
  }
  const rows = await db.rows<TreeNode>(
    `
      with recursive below as (
        select d.id as root, d.id
        from domain d
        union all
        select b.root, c.id
        from below b
        join domain c on c.parent_id = b.id
      )
      select
        d.id, 'domain' as type, 'domain' as kind, d.name,
        (
          select count(*)::int
          from asset a
          join below b on b.id = a.domain_id
          where b.root = d.id and a.gone_at is null and a.kind not in ('column', 'database') and a.domain_id = any($1::uuid[])
        ) as count,
        '' as filter,
        exists (select 1 from domain c where c.parent_id = d.id)
          or exists (select 1 from source s where s.domain_id = d.id) as "hasChildren"
      from domain d
      where d.parent_id is not distinct from $2::uuid
        and exists (select 1 from below b where b.root = d.id and b.id = any($1::uuid[]))
      order by d.name`,
    [mine, query.parent ?? null],
  );
  const domains = rows.map((row) => ({ ...row, filter: where('domain', row.name) }));
  const sources = query.parent
    ? await db.rows<TreeNode>(
        `${SOURCE_NODES} where s.domain_id = $2 and s.domain_id = any($1::uuid[]) order by s.name`,
        [mine, query.parent],
      )
    : [];
  return [...domains, ...sources.map((row) => ({ ...row, filter: where('source', row.name) }))];
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
        and t.domain_id = any($3::uuid[])
      limit 1`,
    [asset.sourceId, keys, who.domainsAs('reader')],
  );
  return found ? { ...found, name: ofType } : null;
}

/** One asset in full. */
export async function getAsset(db: Db, who: Who, id: string): Promise<AssetAnswer> {
  const asset = await db.one<Omit<AssetAnswer, 'mayEdit' | 'mayCertify' | 'ofType'>>(
    `
      select
        ${ROW}, ${stewards} as stewards, a.domain_id as "domainId", a.native || a.stats as native,
        (
          select json_build_object(
            'calls', u.calls, 'roles', u.roles, 'statements', u.statements, 'movedAt', u.moved_at, 'seenAt', u.seen_at
          )
          from asset_use u
          where u.asset_id = a.id
        ) as use,
        a.level_found as "levelFound", a.level_set as "levelSet", a.level_reason as "levelReason",
        coalesce(
          (
            with recursive up as (
              select p.id, p.parent_id, p.kind, p.name, p.depth
              from asset p
              where p.id = a.parent_id
              union all
              select p.id, p.parent_id, p.kind, p.name, p.depth
              from asset p
              join up on up.parent_id = p.id
            )
            select json_agg(json_build_object('id', id, 'kind', kind, 'name', name) order by depth)
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
      where a.id = $1 and a.domain_id = any($2::uuid[])`,
    [id, who.domainsAs('reader')],
  );
  if (!asset) throw notFound('The asset');
  return {
    ...asset,
    ofType: await typeOf(db, who, asset),
    mayEdit: who.is('editor', asset.domainId),
    mayCertify: who.is('steward', asset.domainId),
  };
}

export async function children(db: Db, who: Who, id: string): Promise<AssetRow[]> {
  await getAsset(db, who, id);
  return db.rows<AssetRow>(
    `
      select ${ROW}
      from ${FROM}
      where a.parent_id = $1 and a.domain_id = any($2::uuid[])
      order by a.gone_at is not null, a.position, a.name
      limit 2000`,
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
  const where = `a.source_id = $1 and a.kind = 'column' and a.native ->> 'ofType' = $2 and a.gone_at is null and a.domain_id = any($3::uuid[])`;
  const bind = [type.sourceId, `${type.ancestors.at(-1)?.name ?? ''}.${type.name}`, who.domainsAs('reader')];
  const count =
    type.kind === 'type'
      ? await db.one<{ n: number }>(`select count(*)::int as n from asset a where ${where}`, bind)
      : undefined;
  const total = count?.n ?? 0;
  const items =
    total === 0
      ? []
      : await db.rows<AssetRow>(`select ${ROW} from ${FROM} where ${where} order by a.key limit $4 offset $5`, [
          ...bind,
          limit,
          offset,
        ]);
  return { items, total, next: offset + items.length < total ? String(offset + items.length) : null };
}
