import { hash } from 'node:crypto';
import type { FoundRights } from '@idrel/readers/connectors';
import type { Tx } from '../platform/database.ts';
import { inBatches } from './batches.ts';
import { completeIds } from './ids.ts';

interface GrantRow {
  readonly asset: string;
  readonly holder: string;
  readonly how: string;
  readonly by: string;
  readonly passesOn: boolean;
}

/**
 * Keeps the rights that a run found at its source. What stood before keeps the moment at which it was first found; what is there no more goes.
 * @param covers what the run looked at: rights on other things stay as they were
 */
export async function storeRights(
  tx: Tx,
  sourceId: string,
  rights: FoundRights,
  covers: (key: string) => boolean,
  ids: Map<string, string>,
): Promise<void> {
  await completeIds(
    tx,
    ids,
    rights.grants.flatMap(({ keys }) => keys),
  );
  await storeRoles(tx, sourceId, rights.roles);
  const idOf = (key: string) => ids.get(key);
  const grants = rights.grants.flatMap(({ keys, holder, how, by, passesOn }) =>
    keys.flatMap((key): GrantRow[] => {
      const asset = covers(key) ? idOf(key) : undefined;
      return asset ? [{ asset, holder, how, by, passesOn }] : [];
    }),
  );
  const digest = hash('sha256', JSON.stringify(grants), 'hex');
  const [read] = await tx.rows<{ digest: string }>('select digest from native_read where source_id = $1', [sourceId]);
  if (read?.digest !== digest)
    await storeGrants(
      tx,
      sourceId,
      grants,
      // Where none were read before there is nothing to take away.
      read ? [...ids].flatMap(([key, id]) => (covers(key) ? [id] : [])) : [],
    );
  await tx.run(
    `
      insert into native_read (source_id, read_at, digest)
      values ($1, now(), $2)
      on conflict (source_id) do update set read_at = excluded.read_at, digest = excluded.digest`,
    [sourceId, digest],
  );
  const later = rights.later.flatMap(({ maker, key, holder }) => {
    const schema = key === null ? null : idOf(key);
    return schema === undefined ? [] : [{ maker, schema, holder }];
  });
  await tx.run(
    `
      delete from native_later l
      where l.source_id = $1
        and not exists (
          select
          from json_to_recordset($2::json) as g(maker text, schema uuid, holder text)
          where g.maker = l.maker and g.schema is not distinct from l.schema_id and g.holder = l.holder)`,
    [sourceId, JSON.stringify(later)],
  );
  await tx.run(
    `
      insert into native_later (source_id, maker, schema_id, holder)
      select $1, maker, schema, holder
      from json_to_recordset($2::json) as g(maker text, schema uuid, holder text)
      on conflict do nothing`,
    [sourceId, JSON.stringify(later)],
  );
  const ownRows = rights.ownRows.flatMap(({ key, forced }) => {
    const asset = idOf(key);
    return asset ? [{ asset, forced }] : [];
  });
  await tx.run(
    `
      delete from native_own_rows w
      using asset a
      where a.id = w.asset_id and a.source_id = $1 and w.asset_id <> all($2::uuid[])`,
    [sourceId, ownRows.map(({ asset }) => asset)],
  );
  await tx.run(
    `
      insert into native_own_rows (asset_id, forced)
      select asset, forced
      from json_to_recordset($1::json) as g(asset uuid, forced boolean)
      on conflict (asset_id) do update set forced = excluded.forced`,
    [JSON.stringify(ownRows)],
  );
}

async function storeRoles(tx: Tx, sourceId: string, roles: FoundRights['roles']): Promise<void> {
  await tx.run('delete from native_role where source_id = $1 and name <> all($2::text[])', [
    sourceId,
    roles.map(({ name }) => name),
  ]);
  await tx.run(
    `
      insert into native_role (source_id, name, login, superuser, bypasses_rows, scans, member_of)
      select $1, name, login, superuser, "bypassesRows", scans, array(select jsonb_array_elements_text("memberOf"))
      from jsonb_to_recordset($2::jsonb)
        as r(name text, login boolean, superuser boolean, "bypassesRows" boolean, scans boolean, "memberOf" jsonb)
      on conflict (source_id, name) do update
      set
        login = excluded.login, superuser = excluded.superuser, bypasses_rows = excluded.bypasses_rows,
        scans = excluded.scans, member_of = excluded.member_of`,
    [sourceId, JSON.stringify(roles)],
  );
}

/** Rights out of the JSON that is the parameter. */
const FROM_JSON = `json_to_recordset($1::json) as g(asset uuid, holder text, how text, by text, "passesOn" boolean)`;

/** Writes rights, whoever knew them before. @param from where they come from, as SQL with these columns */
const keep = (from: string, columns: { readonly by: string; readonly passesOn: string }) => `
  insert into native_grant (asset_id, holder, how, given_by, passes_on)
  select asset, holder, how, ${columns.by}, bool_or(${columns.passesOn})
  from ${from}
  group by 1, 2, 3, 4
  on conflict (asset_id, holder, how, given_by) do update set passes_on = excluded.passes_on
    where native_grant.passes_on <> excluded.passes_on`;

/** @param looked ids of all that the run looked at, but for columns that nobody holds a right on; none where no rights were known before */
async function storeGrants(
  tx: Tx,
  sourceId: string,
  grants: readonly GrantRow[],
  looked: readonly string[],
): Promise<void> {
  const each = (sql: string) =>
    inBatches(
      grants,
      (grant) => grant,
      (batch) => tx.run(sql, [JSON.stringify(batch)]),
    );
  if (looked.length === 0) {
    await each(keep(FROM_JSON, { by: 'by', passesOn: '"passesOn"' }));
    return;
  }
  await tx.rows(
    `
      create temporary table found_grant (
        asset uuid not null, holder text not null, how text not null, given_by text not null, passes_on boolean not null
      ) on commit drop`,
  );
  await each(`insert into found_grant select asset, holder, how, by, "passesOn" from ${FROM_JSON}`);
  await tx.rows('analyze found_grant');
  // Of a relation that was looked at, its columns were as well.
  await tx.run(
    `
      delete from native_grant n
      using asset a
      where a.id = n.asset_id and a.source_id = $1 and (a.id = any($2::uuid[]) or a.kind = 'column' and a.parent_id = any($2::uuid[]))
        and not exists (
          select
          from found_grant g
          where g.asset = n.asset_id and g.holder = n.holder and g.how = n.how and g.given_by = n.given_by)`,
    [sourceId, looked],
  );
  await tx.run(keep('found_grant', { by: 'given_by', passesOn: 'passes_on' }));
  await tx.rows('drop table found_grant');
}
