import type { AssetAnswer } from '@idrel/contract/catalog';
import type { EdgeBody, EdgeRow, EdgesAnswer, SaidAnswer } from '@idrel/contract/lineage';
import { VALUE_KINDS } from '@idrel/core/lineage';
import { isKindThat } from '@idrel/core/things';
import { getAsset, idAt, kindsSql, PATH, pathOf } from '../catalog/index.ts';
import { record } from '../journal/index.ts';
import { isSeen, type Who } from '../people/index.ts';
import type { Db } from '../platform/database.ts';
import { ApiProblem, invalid, notFound } from '../platform/problems.ts';
import { runAt } from './moments.ts';

/** What edges ask of an asset. */
type Asset = Pick<AssetAnswer, 'id' | 'kind' | 'path' | 'domainId' | 'gone'>;

const endSql = (asset: string, source: string): string => `
  json_build_object(
    'id', ${asset}.id, 'kind', ${asset}.kind, 'name', ${asset}.name, 'path', ${pathOf(asset, source)},
    'tableId', seen_in(${asset}.kind, ${asset}.id, ${asset}.parent_id)
  )`;

/**
 * What happens to the value on an edge `e` of flow `l`: as its statement, to whoever may see the flow, or what it makes; $2 the domains in which they may read. What
 * was asked at a source names what it likes: of it nothing is told here.
 */
const EXPRESSION = `
  case
    when l.origin <> 'asked'
      and exists (select from asset o where o.id = coalesce(l.asset_id, e.to_id) and ${isSeen('o', '$2')})
    then e.expression
  end`;

/** Edges into an asset, or out of it, of a table those of its columns too; each with what tells of it and what people say of it. */
export async function edgesOf(
  db: Db,
  who: Who,
  assetId: string,
  direction: 'upstream' | 'downstream',
  { ended, limit }: { readonly ended: boolean; readonly limit: number },
): Promise<EdgesAnswer> {
  await getAsset(db, who, assetId);
  if (ended) return endedEdgesOf(db, who, assetId, direction, limit);
  const [here, there] = direction === 'upstream' ? (['to', 'from'] as const) : (['from', 'to'] as const);
  const found = `
    from lineage_edge e
    join asset f on f.id = e.from_id
    join asset t on t.id = e.to_id
    where e.${here}_id in (select $1::uuid union all select id from asset where parent_id = $1 and kind = 'column' and gone_at is null)
      and ${isSeen(there === 'from' ? 'f' : 't', '$2')} and f.gone_at is null and t.gone_at is null`;
  const bind = [assetId, who.domainsAs('reader')];
  const [items, count] = await Promise.all([
    db.rows<EdgeRow>(
      `
        select
          ${endSql('f', 'fs')} as from, ${endSql('t', 'ts')} as to, e.kind, l.origin,
          (
            select json_build_object('id', a.id, 'name', a.name)
            from asset a
            where a.id = l.asset_id and a.kind in (${kindsSql('runs')}) and ${isSeen('a', '$2')}
          ) as flow,
          e.since, l.last_seen as "lastSeen", null as until, ${runAt('l.source_id', 'e.since')} as run,
          (
            select json_build_object('id', x.id, 'by', p.name, 'at', x.said_at, 'note', x.note, 'version', x.version)
            from said_edge x
            left join person p on p.id = x.said_by
            where x.id = e.flow_id
          ) as said,
          (
            select json_build_object('by', p.name, 'at', w.said_at, 'reason', w.reason)
            from wrong_edge w
            left join person p on p.id = w.said_by
            where (w.from_id, w.to_id) = (e.from_id, e.to_id)
          ) as wrong,
          t.domain_id = any($4::uuid[]) as "mayEdit", e.line, ${EXPRESSION} as expression
        from (select e.* ${found} order by e.to_id, e.from_id, e.flow_id limit $3) e
        join flow l on l.id = e.flow_id
        join asset f on f.id = e.from_id
        join source fs on fs.id = f.source_id
        join asset t on t.id = e.to_id
        join source ts on ts.id = t.source_id
        order by t.position, t.name, f.name, e.flow_id`,
      [...bind, limit, who.domainsAs('editor')],
    ),
    db.one<{ total: number }>(`select count(*)::int as total ${found}`, bind),
  ]);
  return { items, total: count?.total ?? 0 };
}

/** Edges that stand no more, as {@link edgesOf} tells those that do. */
async function endedEdgesOf(
  db: Db,
  who: Who,
  assetId: string,
  direction: 'upstream' | 'downstream',
  limit: number,
): Promise<EdgesAnswer> {
  const [here, there] = direction === 'upstream' ? ['to', 't'] : ['from', 'f'];
  const found = `
    from ended_edge e
    join asset f on f.id = e.from_id
    join asset t on t.id = e.to_id
    where e.${here}_id in (select $1::uuid union all select id from asset where parent_id = $1 and kind = 'column')
      and ${isSeen(there === 't' ? 'f' : 't', '$2')} and e.kind = any($3::text[])`;
  const bind = [assetId, who.domainsAs('reader'), [...VALUE_KINDS]];
  const [items, count] = await Promise.all([
    db.rows<EdgeRow>(
      `
        select
          ${endSql('f', 'fs')} as from, ${endSql('t', 'ts')} as to, e.kind, e.origin,
          (
            select json_build_object('id', a.id, 'name', a.name)
            from asset a
            where a.id = e.flow_id and a.kind in (${kindsSql('runs')}) and ${isSeen('a', '$2')}
          ) as flow,
          e.since, e.until as "lastSeen", e.until, ${runAt('t.source_id', 'e.since')} as run,
          null as said, null as wrong, false as "mayEdit", e.line, null as expression
        from (select e.* ${found} order by e.until desc, e.id limit $4) e
        join asset f on f.id = e.from_id
        join source fs on fs.id = f.source_id
        join asset t on t.id = e.to_id
        join source ts on ts.id = t.source_id
        order by e.until desc, t.position, t.name, e.id`,
      [...bind, limit],
    ),
    db.one<{ total: number }>(`select count(*)::int as total ${found}`, bind),
  ]);
  return { items, total: count?.total ?? 0 };
}

const CANNOT = ['database', 'schema', 'folder'];

/** An end of an edge, by what is said of it. @throws when it is not there for the person, or cannot be one */
async function endOf(db: Db, who: Who, end: EdgeBody['from']): Promise<Asset> {
  const id = 'id' in end ? end.id : await idAt(db, end.address);
  const asset =
    id === undefined
      ? undefined
      : await db.one<Asset>(
          `
            select a.id, a.kind, ${PATH} as path, a.domain_id as "domainId", a.gone_at is not null as gone
            from asset a
            join source s on s.id = a.source_id
            where a.id = $1 and ${isSeen('a', '$2')}`,
          [id, who.domainsAs('reader')],
        );
  if (!asset) throw notFound('id' in end ? 'The asset' : `The asset ${end.address}`);
  if (CANNOT.includes(asset.kind))
    throw invalid(`${asset.path} is a ${asset.kind}: it holds what edges lead to.`, 'Name what lies in it.');
  if (isKindThat('runs', asset.kind))
    throw invalid(
      `${asset.path} is a ${asset.kind}: values go through it.`,
      'Say which assets it stands between, and name it as the flow of the edge.',
    );
  if (asset.gone) throw invalid(`${asset.path} is gone from its source.`, 'Name what took its place.');
  return asset;
}

const told = (from: Asset, { kind, note }: Pick<EdgeBody, 'kind' | 'note'>, flow: Asset | undefined) => ({
  from: from.path,
  kind,
  ...(flow ? { flow: flow.path } : {}),
  ...(note ? { note } : {}),
});
const subjectOf = ({ id, kind, path, domainId }: Asset) => ({ kind, id, name: path, domainId });

/**
 * Policies can follow values along lineage: whoever ends a way that they go takes protection away that others gave.
 * @throws 403 where some policy follows lineage, without the right to set policies there
 */
async function mustBeLoosened(tx: Db, who: Who, to: Asset): Promise<void> {
  const followed = await tx.one("select from policy where enabled and carried and effect <> 'allow' limit 1");
  if (followed && !who.is('policy administrator', to.domainId))
    throw new ApiProblem(
      'forbidden',
      'Policies follow values along lineage: to end a way that they go takes the role policy administrator.',
      {
        mend: 'Ask a policy administrator of the domain to take it back.',
      },
    );
}
/** What goes on along an edge of this kind is followed by policies. */
const isFollowed = (kind: string) => kind !== 'masked' && kind !== 'aggregated';

/** Says one edge. @throws what keeps it from being said */
export async function sayEdge(tx: Db, who: Who, body: EdgeBody): Promise<SaidAnswer> {
  const [from, to] = [await endOf(tx, who, body.from), await endOf(tx, who, body.to)];
  who.must('editor', to.domainId);
  if (from.id === to.id) throw invalid('Nothing comes from itself.', 'Name another asset at one end.');
  const flow = body.flow === null ? undefined : await getAsset(tx, who, body.flow);
  if (flow && !isKindThat('runs', flow.kind))
    throw invalid(
      `${flow.path} is a ${flow.kind}, and no flow.`,
      'Name a flow, a function or a procedure, or leave it out.',
    );
  const known = await tx.rows<{ wrong: boolean; said: string | null; kind: string; flow: string | null; note: string }>(
    `
      select e.wrong, x.id as said, e.kind, x.flow_id as flow, x.note
      from lineage_edge e
      left join said_edge x on x.id = e.flow_id
      where (e.from_id, e.to_id) = ($1, $2)`,
    [from.id, to.id],
  );
  if (known.some(({ wrong }) => wrong))
    throw invalid('Somebody said that this edge is wrong.', 'Take that back first, or ask who said it.');
  const said = known.find((edge) => edge.said !== null);
  if (!said && known.length > 0) return { state: 'found already' };
  if (said?.said && said.kind === body.kind && said.note === body.note && said.flow === body.flow)
    return { state: 'as it was', id: said.said };
  if (said && isFollowed(said.kind) && !isFollowed(body.kind)) await mustBeLoosened(tx, who, to);
  const row = await tx.one<{ id: string }>(
    `
      insert into said_edge (from_id, to_id, kind, flow_id, note, said_by)
      values ($1, $2, $3, $4, $5, $6)
      on conflict (from_id, to_id) do update
      set kind = excluded.kind, flow_id = excluded.flow_id, note = excluded.note, said_by = excluded.said_by, said_at = now(),
        version = said_edge.version + 1
      returning id`,
    [from.id, to.id, body.kind, flow?.id ?? null, body.note, who.id],
  );
  const before = said ? { from: from.path, kind: said.kind, ...(said.note ? { note: said.note } : {}) } : null;
  await record(tx, who, said ? 'edge said otherwise' : 'edge said', subjectOf(to), before, told(from, body, flow));
  return { state: said ? 'changed' : 'said', id: row?.id ?? '' };
}

/** Says edges that no source tells of. One that cannot be said is refused with the reason; the others are said. */
export async function sayEdges(tx: Db, who: Who, edges: readonly EdgeBody[]): Promise<SaidAnswer[]> {
  const answers: SaidAnswer[] = [];
  for (const edge of edges) {
    try {
      answers.push(await sayEdge(tx, who, edge));
    } catch (error) {
      if (!(error instanceof ApiProblem)) throw error;
      answers.push({ state: 'refused', why: error.message, ...(error.more.mend ? { mend: error.more.mend } : {}) });
    }
  }
  return answers;
}

/** Takes back an edge that was said. */
export async function unsayEdge(tx: Db, who: Who, id: string): Promise<void> {
  const said = await tx.one<{ from: string; to: string; kind: EdgeBody['kind']; note: string }>(
    'select from_id as "from", to_id as "to", kind, note from said_edge where id = $1 for update',
    [id],
  );
  const to = said && (await getAsset(tx, who, said.to).catch(() => undefined));
  if (!said || !to) throw notFound('The edge');
  who.must('editor', to.domainId);
  if (isFollowed(said.kind)) await mustBeLoosened(tx, who, to);
  const from = await tx.one<{ path: string }>(
    `select ${PATH} as path from asset a join source s on s.id = a.source_id where a.id = $1`,
    [said.from],
  );
  await tx.run('delete from said_edge where id = $1', [id]);
  const before = { from: from?.path ?? '', kind: said.kind, ...(said.note ? { note: said.note } : {}) };
  await record(tx, who, 'edge taken back', subjectOf(to), before, null);
}

/** The two ends of an edge that was found, to be judged by this person. @throws 404 when there is none; 422 when a person said it */
async function foundEdge(tx: Db, who: Who, fromId: string, toId: string): Promise<readonly [Asset, Asset]> {
  const [from, to] = [await getAsset(tx, who, fromId), await getAsset(tx, who, toId)];
  who.must('editor', to.domainId);
  const edges = await tx.rows<{ said: boolean }>(
    `
      select x.id is not null as said
      from lineage_edge e
      left join said_edge x on x.id = e.flow_id
      where (e.from_id, e.to_id) = ($1, $2)`,
    [fromId, toId],
  );
  if (edges.length === 0) throw notFound('The edge');
  if (edges.every(({ said }) => said))
    throw invalid('A person said this edge, it was not found.', 'Take it back instead.');
  return [from, to];
}

/** Says that a found edge is wrong: it is followed no further, however often it is found. */
export async function sayWrong(tx: Db, who: Who, fromId: string, toId: string, reason: string): Promise<void> {
  const [from, to] = await foundEdge(tx, who, fromId, toId);
  const before = await tx.one<{ reason: string }>('select reason from wrong_edge where (from_id, to_id) = ($1, $2)', [
    fromId,
    toId,
  ]);
  await tx.run(
    `
      insert into wrong_edge (from_id, to_id, reason, said_by)
      values ($1, $2, $3, $4)
      on conflict (from_id, to_id) do update
      set reason = excluded.reason, said_by = excluded.said_by, said_at = now()`,
    [fromId, toId, reason, who.id],
  );
  await tx.run('update lineage_edge set wrong = true where (from_id, to_id) = ($1, $2)', [fromId, toId]);
  const what = (why: string) => ({ from: from.path, reason: why });
  await record(tx, who, 'edge called wrong', subjectOf(to), before ? what(before.reason) : null, what(reason));
}

/** Takes back that a found edge is wrong. */
export async function sayRight(tx: Db, who: Who, fromId: string, toId: string): Promise<void> {
  const [from, to] = [await getAsset(tx, who, fromId), await getAsset(tx, who, toId)];
  who.must('editor', to.domainId);
  const [gone] = await tx.rows<{ reason: string }>(
    'delete from wrong_edge where (from_id, to_id) = ($1, $2) returning reason',
    [fromId, toId],
  );
  if (!gone) throw notFound('The edge that is said to be wrong');
  await tx.run('update lineage_edge set wrong = false where (from_id, to_id) = ($1, $2)', [fromId, toId]);
  await record(tx, who, 'edge called right again', subjectOf(to), { from: from.path, reason: gone.reason }, null);
}
