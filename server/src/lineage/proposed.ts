import type { QueryOf } from '@idrel/contract/http';
import type { ProposedImpact, ProposedRow, proposedEndpoints } from '@idrel/contract/lineage';
import {
  CONSEQUENCES,
  consequencesOf,
  type Made,
  type MadeEdge,
  type Maker,
  type Step,
  suitable,
  type Told,
} from '@idrel/core/lineage';
import { isKindThat } from '@idrel/core/things';
import { FROM, getAsset, kindsSql, PATH } from '../catalog/index.ts';
import { isSeen, type Who } from '../people/index.ts';
import type { Db } from '../platform/database.ts';
import { invalid } from '../platform/problems.ts';
import { seenIn } from './around.ts';
import { answeringFor, askersOf, checksOn, peopleOf, policiesOn } from './concerned.ts';
import { factsOf } from './proposedFacts.ts';
import { type StepsAt, walk } from './walk.ts';

export type Asked = QueryOf<typeof proposedEndpoints.proposed>;
type Asset = Awaited<ReturnType<typeof getAsset>>;

/** So many assets are met, and so many told. */
const [MET_MOST, TOLD_MOST] = [20_000, 5000];

/** An edge with the flow that tells it. */
interface Leads {
  readonly how: MadeEdge['how'];
  readonly flow: string;
}
const ENDS = { downstream: 'from_id', upstream: 'to_id' } as const;

/** How columns are made of columns, and their tables' rows decided by them. */
const columnSteps =
  (db: Db): StepsAt<Leads> =>
  (ids, direction) =>
    db.rows<Step<Leads>>(
      `
        select from_id as "from", to_id as "to", json_build_object('how', kind, 'flow', flow_id) as edge
        from lineage_edge
        where ${ENDS[direction]} = any($1::uuid[]) and not wrong
        union all
        select from_id, to_id, json_build_object('how', kind, 'flow', flow_id)
        from lineage_influence
        where ${ENDS[direction]} = any($1::uuid[])`,
      [ids],
    );
const relationSteps =
  (db: Db): StepsAt<Leads> =>
  (ids, direction) =>
    db.rows<Step<Leads>>(
      `
        select from_id as "from", to_id as "to", json_build_object('how', null, 'flow', flow_id) as edge
        from lineage_feed
        where ${ENDS[direction]} = any($1::uuid[])`,
      [ids],
    );

/** What stands behind some flows: who told of them, the kind of their source, and the asset where they are one of their own. */
const makersOf = async (db: Db, flows: readonly string[]): Promise<Map<string, Maker>> =>
  new Map(
    (
      await db.rows<Maker & { id: string }>(
        `
          select l.id, l.origin, s.kind as system, a.id as flow
          from flow l
          join source s on s.id = l.source_id
          left join asset a on a.id = l.asset_id and a.kind in (${kindsSql('runs')})
          where l.id = any($1::uuid[])`,
        [[...new Set(flows)]],
      )
    ).map(({ id, ...maker }) => [id, maker]),
  );

/** What is there to be done with an asset of a kind. */
function mustSuit(asset: Asset, { what, to }: Asked): void {
  const suits = suitable(asset.kind);
  if (!suits.includes(what))
    throw invalid(`A ${asset.kind} is not changed by “${what}”.`, `Ask for ${suits.join(', ')}.`, [
      { field: 'what', message: `is none of ${suits.join(', ')}` },
    ]);
  if (what === 'retype' && !to)
    throw invalid('The new type is missing.', 'Say which type the column is to have.', [
      { field: 'to', message: 'is missing' },
    ]);
}

/** Edges that matter to a change: between columns from it on, and between relations from its own on; of what must not be null those that lead into it. */
async function edgesFor(db: Db, asset: Asset, relation: string, what: Asked['what']): Promise<MadeEdge[]> {
  const isRun = isKindThat('runs', asset.kind);
  const begins = isRun
    ? await db.rows<Step<Leads>>(
        `
          select f.asset_id as "from", x.to_id as "to", json_build_object('how', null, 'flow', f.id) as edge
          from flow f
          join lineage_feed x on x.flow_id = f.id
          where f.asset_id = $1`,
        [asset.id],
      )
    : [];
  const tables = isRun ? begins.map(({ to }) => to) : [relation];
  const [columns, relations] = await Promise.all([
    asset.kind === 'column' ? walk(columnSteps(db), [asset.id], 'downstream', undefined, MET_MOST) : [],
    walk(relationSteps(db), tables, 'downstream', undefined, MET_MOST),
  ]);
  const into =
    what === 'forbid nulls'
      ? [...(await columnSteps(db)([asset.id], 'upstream')), ...(await relationSteps(db)([relation], 'upstream'))]
      : [];
  const all = [...begins, ...columns, ...relations, ...into];
  const makers = await makersOf(
    db,
    all.map(({ edge }) => edge.flow),
  );
  return all.flatMap(({ from, to, edge: { how, flow } }) => {
    const maker = makers.get(flow);
    return maker ? [{ from, to, how, maker }] : [];
  });
}

/** What would become of what is made of an asset, before it is looked at who may see what. */
async function worked(db: Db, who: Who, asset: Asset, asked: Asked) {
  mustSuit(asset, asked);
  const relation = asset.kind === 'column' && asset.parentId ? asset.parentId : asset.id;
  const edges = await edgesFor(db, asset, relation, asked.what);
  const ids = [...new Set([asset.id, relation, ...edges.flatMap(({ from, to }) => [from, to])])];
  const things = new Map(
    (
      await db.rows<Made>(
        `
          select
            a.id, ${seenIn('a')} as relation, a.native ->> 'type' as type, s.kind as system, a.kind = 'materialised view' as keeps,
            case when ${isSeen('a', '$2')} then a.name else 'something that you may not see' end as name
          from asset a
          join source s on s.id = a.source_id
          where a.id = any($1::uuid[]) and a.gone_at is null`,
        [ids, who.domainsAs('reader')],
      )
    ).map((one) => [one.id, one]),
  );
  const start = things.get(asset.id) ?? { id: asset.id, relation, name: asset.name, type: null, system: '' };
  return { relation, start, ...consequencesOf({ what: asked.what, to: asked.to ?? null }, start, things, edges) };
}

/** From what changes to something, by what each followed from. */
function wayTo(id: string, assets: ReadonlyMap<string, Told>): string[] {
  const way = [id];
  for (let at = assets.get(id)?.after ?? null; at !== null && !way.includes(at); at = assets.get(at)?.after ?? null)
    way.unshift(at);
  return way;
}

interface Row {
  id: string;
  kind: ProposedRow['kind'];
  name: string;
  path: string;
  source: string;
  domain: string;
  within: string | null;
  standing: string;
  level: number | null;
  asked: number;
}
const rowsOf = (db: Db, who: Who, ids: readonly string[]): Promise<Row[]> =>
  db.rows<Row>(
    `
      select
        a.id, a.kind, a.name, ${PATH} as path, s.name as source, d.name as domain, case when a.kind = 'column' then a.parent_id end as within,
        a.standing, a.level, coalesce(u.calls, 0) as asked
      from ${FROM}
      left join asset_use u on u.asset_id = a.id
      where a.id = any($1::uuid[]) and ${isSeen('a', '$2')}`,
    [ids, who.domainsAs('reader')],
  );

/** What a proposed change of an asset would do, as far as the person may see it. */
export async function proposedImpact(db: Db, who: Who, asked: Asked): Promise<ProposedImpact> {
  const asset = await getAsset(db, who, asked.asset);
  const { relation, assets, flows } = await worked(db, who, asset, asked);
  const all = [...assets];
  const ways = new Map(all.map(([id]) => [id, wayTo(id, assets)]));
  const steps = (id: string) => (ways.get(id)?.length ?? 1) - 1;
  const told = all
    .sort(
      ([a, one], [b, other]) =>
        CONSEQUENCES.indexOf(one.consequence) - CONSEQUENCES.indexOf(other.consequence) || steps(a) - steps(b),
    )
    .slice(0, TOLD_MOST);
  const concerned = [...told.filter(([, one]) => one.consequence !== 'unharmed').map(([id]) => id), ...flows.keys()];
  const rows = await rowsOf(db, who, [
    ...new Set([asset.id, ...told.flatMap(([id]) => ways.get(id) ?? []), ...flows.keys()]),
  ]);
  const byId = new Map(rows.map((row) => [row.id, row]));
  const seen = concerned.filter((id) => byId.has(id));
  const [answering, askers, policies, checks, facts] = await Promise.all([
    answeringFor(db, who, [...new Set([asset.id, ...seen, ...told.flatMap(([id]) => (byId.has(id) ? [id] : []))])]),
    askersOf(db, who, [asset.id, ...seen]),
    policiesOn(db, who, asset),
    checksOn(db, who, [relation, ...seen.map((id) => byId.get(id)?.within ?? id)]),
    factsOf(db, who, asset, asked),
  ]);
  const meant = new Set([asset.id, ...seen]);
  const owners = new Map<string, string[]>();
  for (const { role, assetId, name } of answering)
    if (role === 'owner') owners.set(assetId, [...(owners.get(assetId) ?? []), name]);
  const paths = new Set([asset.path, ...seen.flatMap((id) => byId.get(id)?.path ?? [])]);
  return {
    asset: {
      id: asset.id,
      kind: asset.kind,
      path: asset.path,
      source: byId.get(asset.id)?.source ?? '',
      type: typeof asset.native.type === 'string' ? asset.native.type : null,
    },
    facts,
    rows: told.flatMap(([id, { consequence, why }]): ProposedRow[] => {
      const row = byId.get(id);
      if (!row) return [];
      return [
        {
          ...row,
          consequence,
          why,
          distance: steps(id),
          way: (ways.get(id) ?? []).map((at) => byId.get(at)?.path ?? 'an asset you may not see'),
          owners: owners.get(id) ?? [],
        },
      ];
    }),
    flows: [...flows]
      .filter(([, { consequence }]) => consequence !== 'unharmed')
      .flatMap(([id, { consequence, why }]) => {
        const row = byId.get(id);
        return row ? [{ id, path: row.path, source: row.source, consequence, why, owners: owners.get(id) ?? [] }] : [];
      }),
    people: peopleOf(
      answering.filter(({ assetId }) => meant.has(assetId)),
      askers,
    ),
    policies,
    checks: checks.filter(({ of }) => paths.has(of)),
    hidden: [...told.map(([id]) => id), ...flows.keys()].filter((id) => !byId.has(id)).length,
    more: all.length - told.length,
  };
}
