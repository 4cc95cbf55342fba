import type { RunAnswer } from '@idrel/contract/scanning';
import type { AssetKind } from '@idrel/contract/things';
import { type LikelyRename, likelyRenames, type Shape } from '@idrel/core/scanning';
import { type FoundAsset, KEY_SEPARATOR } from '@idrel/readers/connectors';
import { say } from '../journal/index.ts';
import type { Who } from '../people/index.ts';
import type { Db, Tx } from '../platform/database.ts';
import { conflict, notFound } from '../platform/problems.ts';
import { settleLevels } from '../recognition/index.ts';
import type { Changes, KnownAsset } from './compare.ts';
import { shownPath } from './compare.ts';
import { getRun } from './service.ts';

/** More than this is no renaming but another source: nothing is offered. */
const MOST = 1000;
const whereOf = (key: string) => key.slice(0, Math.max(0, key.lastIndexOf(KEY_SEPARATOR)));

interface Facts {
  readonly key: string;
  readonly kind: AssetKind;
  readonly name: string;
  readonly native: Readonly<Record<string, unknown>>;
  readonly stats: Readonly<Record<string, unknown>>;
  readonly position: number;
}

/** Shapes of tables (with their columns) and of columns of tables that stay. */
function toShapes(assets: readonly Facts[], classesOf: (key: string) => readonly string[]): Shape[] {
  const columns = new Map<string, Facts[]>();
  for (const asset of assets)
    if (asset.kind === 'column') columns.set(whereOf(asset.key), [...(columns.get(whereOf(asset.key)) ?? []), asset]);
  const holders = new Set(assets.filter((asset) => asset.kind !== 'column').map((asset) => asset.key));
  const text = (value: unknown) => (typeof value === 'string' ? value : '');
  return assets
    .filter((asset) => asset.kind !== 'column' || !holders.has(whereOf(asset.key)))
    .map((asset): Shape => {
      const own = columns.get(asset.key) ?? [];
      return {
        key: asset.key,
        lies: whereOf(asset.key),
        kind: asset.kind,
        name: asset.name,
        columns:
          asset.kind === 'column' ? [] : own.map((column) => ({ name: column.name, type: text(column.native.type) })),
        type: asset.kind === 'column' ? text(asset.native.type) : null,
        position: asset.position,
        rows: typeof asset.stats.rows === 'number' ? asset.stats.rows : null,
        classes: asset.kind === 'column' ? classesOf(asset.key) : own.flatMap((column) => classesOf(column.key)),
      };
    });
}

/** What of a run's new and gone assets is likely the same. */
export async function findRenames(
  tx: Db,
  changes: Pick<Changes, 'fresh'>,
  gone: readonly KnownAsset[],
  classesFound: (key: string) => readonly string[],
): Promise<LikelyRename[]> {
  const fresh: readonly FoundAsset[] = changes.fresh;
  if (gone.length === 0 || fresh.length === 0 || gone.length > MOST * 20 || fresh.length > MOST * 20) return [];
  const rows = await tx.rows<{ key: string; classes: string[] }>(
    `
      select a.key, array_agg(f.class_key) as classes
      from finding f
      join asset a on a.id = f.asset_id
      where f.asset_id = any($1::uuid[])
      group by 1`,
    [gone.map((asset) => asset.id)],
  );
  const classesBefore = new Map(rows.map((row) => [row.key, row.classes]));
  const name = (asset: KnownAsset): Facts => ({
    ...asset,
    name: asset.key.slice(asset.key.lastIndexOf(KEY_SEPARATOR) + 1),
  });
  const before = toShapes(gone.map(name), (key) => classesBefore.get(key) ?? []);
  const now = toShapes(fresh, classesFound);
  return before.length > MOST || now.length > MOST ? [] : likelyRenames(before, now);
}

interface Row {
  id: string;
  source_id: string;
  parent_id: string | null;
  kind: AssetKind;
  name: string;
  key: string;
}
const rowOf = (tx: Db, id: string) =>
  tx.one<Row>('select id, source_id, parent_id, kind, name, key from asset where id = $1 for update', [id]);
const childrenOf = (tx: Db, id: string) =>
  tx.rows<Row>('select id, source_id, parent_id, kind, name, key from asset where parent_id = $1 for update', [id]);

/**
 * Every column that names an asset, and whose word stands when a gone asset takes the place of a new one. A test holds this to the database: whoever
 * adds a table that says something of assets is asked here what becomes of it.
 *
 * - `source`: what the source says. That of the new one stands; that of the old one only where the new one has none.
 * - `people`: what people say. That of the old one stands; of the new one there is none, else nothing is offered.
 * - `both`: what happened. It stands of both, the same once.
 * - `followed`: kept from other tables, by triggers or by what tends it.
 * - `told`: put together by hand below.
 */
export const SAID_OF_ASSETS = {
  'access_request_asset.asset_id': 'people',
  // What a right under review opens follows its policy, also before somebody decides on it.
  'access_review_item.asset_ids': 'followed',
  'asked_for.asset_id': 'source',
  'asset_link.asset_id': 'people',
  'asset_person.asset_id': 'people',
  'asset_priority.asset_id': 'followed',
  'asset_priority.from_id': 'followed',
  'priority_match.asset_id': 'followed',
  'asset_tag.asset_id': 'people',
  'tag_came.asset_id': 'followed',
  'tag_came.from_id': 'followed',
  'tag_refusal.asset_id': 'people',
  'ticket.asset_id': 'people',
  'asset_term.asset_id': 'people',
  'asset_use.asset_id': 'source',
  'breaking_change.asset_id': 'both',
  'breaking_change.reached_id': 'both',
  'broken.asset_id': 'followed',
  'broken_seen.asset_id': 'followed',
  'bulk_edit_asset.asset_id': 'both',
  'claim.asset_id': 'source',
  'carried.asset_id': 'followed',
  'carried.from_id': 'followed',
  'class_hold.asset_id': 'both',
  'native_grant.asset_id': 'source',
  'native_later.schema_id': 'source',
  'native_own_rows.asset_id': 'source',
  'policy_match.asset_id': 'both',
  'column_profile.asset_id': 'source',
  'discussion.asset_id': 'people',
  'ended_edge.flow_id': 'both',
  'ended_edge.from_id': 'both',
  'ended_edge.to_id': 'both',
  'failed_seen.asset_id': 'both',
  'finding_decision.asset_id': 'people',
  'flow.asset_id': 'source',
  'flow_run.asset_id': 'both',
  'former_name.asset_id': 'followed',
  'former_name.parent_id': 'followed',
  'guide.asset_id': 'people',
  'guide_version.asset_id': 'people',
  'kept_view.asset_id': 'people',
  'lineage_edge.from_id': 'source',
  'lineage_edge.to_id': 'source',
  'lineage_feed.from_id': 'followed',
  'lineage_feed.to_id': 'followed',
  'lineage_influence.from_id': 'source',
  'lineage_influence.to_id': 'source',
  'notice.asset_id': 'people',
  'certification.asset_id': 'people',
  'picture.asset_id': 'people',
  'policy_object.asset_id': 'people',
  'retirement.asset_id': 'people',
  'retirement.replacement_id': 'people',
  'retirement_told.asset_id': 'people',
  'retirement_told.replacement_id': 'people',
  'remote_edge.from_id': 'source',
  'remote_edge.to_id': 'source',
  'routine_ask.asset_id': 'both',
  'routine_asset.asset_id': 'both',
  'run_change.asset_id': 'told',
  'said_edge.flow_id': 'people',
  'said_edge.from_id': 'people',
  'said_edge.to_id': 'people',
  'said_words.asset_id': 'followed',
  'share_asset.asset_id': 'people',
  'subscription.asset_id': 'both',
  'suggestion_refused.asset_id': 'people',
  'touched.asset_ids': 'followed',
  'wrong_edge.from_id': 'people',
  'wrong_edge.to_id': 'people',
  'travel_moved.asset_id': 'followed',
  'writer_here.asset_id': 'followed',
} as const;

const keys = new Map<string, readonly string[]>();
/** The columns of a table's primary key, looked up once: a table of a thousand columns is renamed with each of them. */
async function keyOf(tx: Tx, table: string): Promise<readonly string[]> {
  const known = keys.get(table);
  if (known) return known;
  const rows = await tx.rows<{ name: string }>(
    `select a.attname as name
     from pg_index i
     join pg_attribute a on a.attrelid = i.indrelid and a.attnum = any(i.indkey)
     where i.indrelid = $1::regclass and i.indisprimary`,
    [table],
  );
  const found = rows.map((row) => row.name);
  keys.set(table, found);
  return found;
}

/** What the tables say of the new asset comes to be said of the old one. */
async function takeWords(tx: Tx, oldId: string, freshId: string): Promise<void> {
  for (const [column, whose] of Object.entries(SAID_OF_ASSETS)) {
    const [table, name] = column.split('.');
    if (whose === 'source') {
      // Old edges and claims go also where the new asset has none: the source no longer tells them. Profiles, statements and uses are not told by every run.
      const kept = ['column_profile', 'asset_use', 'asked_for'].includes(table ?? '');
      const unless = kept ? `and exists (select from ${table} n where n.${name} = $2)` : 'and $2::uuid is not null';
      // An edge that people said is their word, and not the source's.
      const found = table === 'lineage_edge' ? 'and flow_id not in (select id from said_edge)' : '';
      await tx.run(`delete from ${table} where ${name} = $1 ${found} ${unless}`, [oldId, freshId]);
      await tx.run(`update ${table} set ${name} = $1 where ${name} = $2`, [oldId, freshId]);
    }
    if (whose === 'both') {
      const others = (await keyOf(tx, table ?? '')).filter((other) => other !== name);
      const same = others.map((other) => `o.${other} is not distinct from ${table}.${other}`).join(' and ');
      await tx.run(
        `update ${table} set ${name} = $1
         where ${name} = $2 and not exists (select from ${table} o where o.${name} = $1 and ${same || 'true'})`,
        [oldId, freshId],
      );
    }
  }
}

/**
 * Puts a gone asset into the place of a new one: it takes name, key, facts, findings and lineage of the new one and keeps its id, so that
 * everything people wrote, decided and allowed on it stays. What lies in them is put together by name.
 */
async function takePlace(tx: Tx, old: Row, fresh: Row): Promise<void> {
  const before = new Map((await childrenOf(tx, old.id)).map((child) => [`${child.kind}:${child.name}`, child]));
  for (const child of await childrenOf(tx, fresh.id)) {
    const same = before.get(`${child.kind}:${child.name}`);
    if (same) await takePlace(tx, same, child);
    else await tx.run('update asset set parent_id = $2 where id = $1', [child.id, old.id]);
  }
  await takeWords(tx, old.id, fresh.id);
  // What was gone under one name and new under another has changed its name.
  await tx.run('delete from run_change where asset_id = $1', [fresh.id]);
  await tx.run(
    `
      update run_change c
      set change = 'changed', path = $2, what = array[$3]
      where c.asset_id = $1
        and c.change = 'gone'
        and c.run_id = (
          select x.run_id
          from run_change x
          join scan_run r on r.id = x.run_id
          where x.asset_id = $1 and x.change = 'gone'
          order by r.asked_at desc
          limit 1
        )`,
    [old.id, shownPath(fresh.key), `name: ${old.name} → ${fresh.name}`],
  );
  const [taken] = await tx.rows<Record<string, unknown>>(
    'select name, key, position, native, stats, native_comment, words, print from asset where id = $1',
    [fresh.id],
  );
  await tx.run('delete from asset where id = $1', [fresh.id]);
  await tx.run(
    `
      update asset
      set
        name = $2, key = $3, position = $4, native = $5, stats = $6, native_comment = $7, words = words || $8::tsvector,
        print = $9, mark_structure = null, mark_data = null, last_seen = now(), gone_at = null, version = version + 1
      where id = $1`,
    [
      old.id,
      taken?.name,
      taken?.key,
      taken?.position,
      JSON.stringify(taken?.native),
      JSON.stringify(taken?.stats),
      taken?.native_comment,
      taken?.words,
      taken?.print,
    ],
  );
  await tx.run('select settle_domains($1::uuid[])', [[old.id]]);
  // What is gone for good within it lies in it under its new name.
  await tx.run(`update asset set key = $2 || chr(31) || name where parent_id = $1 and gone_at is not null`, [
    old.id,
    taken?.key,
  ]);
}

type Rename = NonNullable<NonNullable<RunAnswer['comparison']>['renames']>[number];

/** The two assets of a likely rename, when they can be one: the old one is gone still, and nothing was said of the new one. @throws 409 */
async function bothOf(tx: Tx, { from, to }: Rename): Promise<readonly [Row, Row]> {
  const [old, fresh] = [await rowOf(tx, from.id), await rowOf(tx, to.id)];
  if (!old || !fresh)
    throw conflict(
      'moved-on',
      'One of the two is no longer there.',
      'Scan again; what is likely the same is offered anew.',
    );
  const state = await tx.one<{ gone: boolean; written: boolean }>(
    `select (select gone_at is not null from asset where id = $1) as gone,
       exists (
         select from asset a
         where (a.id = $2 or a.parent_id = $2)
           and (a.description is not null or a.level_set is not null or a.priority_set is not null or a.standing <> 'unreviewed'
             or exists (select from asset_person p where p.asset_id = a.id)
             or exists (select from asset_term t where t.asset_id = a.id)
             or exists (select from asset_tag g where g.asset_id = a.id)
             or exists (select from notice n where n.asset_id = a.id)
             or exists (select from guide g where g.asset_id = a.id)
             or exists (select from discussion x where x.asset_id = a.id)
             or exists (select from asset_link l where l.asset_id = a.id)
             or exists (select from finding_decision d where d.asset_id = a.id)
             or exists (select from said_edge e where a.id in (e.from_id, e.to_id, e.flow_id))
             or exists (select from wrong_edge e where a.id in (e.from_id, e.to_id))))
       or exists (
         select from policy_object o
         join asset a on a.id = o.asset_id
         where a.id = $2 or a.parent_id = $2
       ) as written`,
    [from.id, to.id],
  );
  if (!state?.gone) throw conflict('moved-on', `${from.path} is back in the source.`, 'The two are different: say so.');
  if (state.written)
    throw conflict(
      'documented-already',
      `${to.path} has been documented or named in a policy since it was found.`,
      'Take that back first, so that nothing is lost.',
    );
  return [old, fresh];
}

/** A person's word on a likely rename: the same, or different. The run remembers it. */
export async function settleRename(
  tx: Tx,
  who: Who,
  runId: string,
  { from, to, same }: { from: string; to: string; same: boolean },
): Promise<RunAnswer> {
  await say(tx, who, {
    action: same ? 'renamed' : 'not renamed',
    async held() {
      const { sourceId } = await getRun(tx, who, runId);
      const source = await tx.one<{ id: string; domainId: string }>(
        'select id, domain_id as "domainId" from source where id = $1 for update',
        [sourceId],
      );
      if (!source) throw notFound('The source');
      // What others settled is seen only now, when nobody else can.
      const renames = (await getRun(tx, who, runId)).comparison?.renames ?? [];
      const index = renames.findIndex((rename) => rename.from.id === from && rename.to.id === to);
      const rename = renames[index];
      if (!rename) throw notFound('The likely rename');
      const asset = await tx.one<{ domainId: string }>('select domain_id as "domainId" from asset where id = $1', [
        same ? from : to,
      ]);
      return { source, rename, index, domainId: asset?.domainId ?? source.domainId };
    },
    may({ source, rename }) {
      who.must('source administrator', source.domainId);
      if (rename.settled)
        throw conflict('settled-already', `It was settled already: ${rename.settled}.`, 'Look at the run again.');
    },
    async write({ source, rename, index }) {
      if (same) {
        await takePlace(tx, ...(await bothOf(tx, rename)));
        await settleLevels(tx, source.id);
      }
      await tx.run(
        `
          update scan_run
          set comparison = jsonb_set(comparison, array['renames', $2::text, 'settled'], to_jsonb($3::text))
          where id = $1`,
        [runId, String(index), same ? 'same' : 'different'],
      );
      return [{ path: rename.from.path }, { path: rename.to.path }];
    },
    about: ({ rename, domainId }) => ({ kind: rename.to.kind, id: same ? from : to, name: rename.to.path, domainId }),
  });
  return getRun(tx, who, runId);
}
