import type { PolicyAnswer, PolicyBody } from '@idrel/contract/access';
import { FROM, PATH } from '../catalog/index.ts';
import { record } from '../journal/index.ts';
import type { Who } from '../people/index.ts';
import type { Db } from '../platform/database.ts';
import { conflict, forbidden, invalid, mustBeCurrent, notFound } from '../platform/problems.ts';
import { knownClasses } from '../recognition/index.ts';

const SELECT = `select p.id, p.name, p.effect, p.everyone, p.group_ids as "groupIds", p.person_ids as "personIds", p.except_group_ids as "exceptGroupIds", p.asset_ids as "assetIds", p.class_keys as "classKeys", p.carried, p.columns, p.mask, p.rows, p.enabled, p.version,
  w.name as "createdBy", coalesce((select json_agg(json_build_object('id', a.id, 'kind', a.kind, 'path', ${PATH}) order by s.name, a.key) from ${FROM} where a.id = any(p.asset_ids) and a.domain_id = any($1::uuid[])), '[]') as assets from policy p left join person w on w.id = p.created_by`;

async function domainsOf(db: Db, assetIds: readonly string[]): Promise<string[]> {
  const rows = await db.rows<{ domain_id: string }>('select distinct domain_id from asset where id = any($1::uuid[])', [
    assetIds,
  ]);
  return rows.map((row) => row.domain_id);
}

/** A policy is a policy administrator's of every domain it reaches; one that holds by class alone reaches everywhere. */
export async function mayWrite(db: Db, who: Who, body: Pick<PolicyBody, 'assetIds'>): Promise<boolean> {
  if (body.assetIds.length === 0) return who.isEverywhere('policy administrator');
  return (await domainsOf(db, body.assetIds)).every((domain) => who.is('policy administrator', domain));
}

/**
 * A policy as somebody may see it: of assets only those they may see, and what is told of rows only when they see all that it is about.
 * Undefined when nothing of it is theirs to see.
 */
async function seenBy(db: Db, who: Who, row: PolicyAnswer): Promise<PolicyAnswer | undefined> {
  const mayEdit = await mayWrite(db, who, row);
  const whole = row.assets.length === row.assetIds.length;
  if (whole) return { ...row, mayEdit };
  if (row.assets.length === 0) return undefined;
  return {
    ...row,
    mayEdit,
    assetIds: row.assets.map((asset) => asset.id),
    columns: row.columns && [],
    rows: row.rows && { column: '', values: [] },
  };
}

export async function listPolicies(db: Db, who: Who): Promise<PolicyAnswer[]> {
  const rows = await db.rows<PolicyAnswer>(
    `${SELECT} order by array_position(array['deny', 'protect', 'allow'], p.effect), p.name`,
    [who.domainsAs('reader')],
  );
  return (await Promise.all(rows.map((row) => seenBy(db, who, row)))).flatMap((row) => row ?? []);
}

async function getPolicy(db: Db, who: Who, id: string): Promise<PolicyAnswer> {
  const row = await db.one<PolicyAnswer>(`${SELECT} where p.id = $2`, [who.domainsAs('reader'), id]);
  const seen = row && (await seenBy(db, who, row));
  if (!seen) throw notFound('The policy');
  return seen;
}

/** What a policy names must be there, and be the person's to see: a name that nothing answers to would pass every question about rights. */
async function checkNames(db: Db, who: Who, body: PolicyBody): Promise<void> {
  const count = async (sql: string, bind: unknown[]) => (await db.one<{ n: number }>(sql, bind))?.n ?? 0;
  const assets = await count(
    'select count(*)::int as n from asset where id = any($1::uuid[]) and domain_id = any($2::uuid[])',
    [body.assetIds, who.domainsAs('reader')],
  );
  const groups = await count('select count(*)::int as n from person_group where id = any($1::uuid[])', [body.groupIds]);
  const except = await count('select count(*)::int as n from person_group where id = any($1::uuid[])', [
    body.exceptGroupIds,
  ]);
  const people = await count('select count(*)::int as n from person where id = any($1::uuid[])', [body.personIds]);
  const known = await knownClasses(db);
  const unknown = [
    ...(assets < new Set(body.assetIds).size
      ? [{ field: 'assetIds', message: 'holds an asset that is not there, or that you may not see' }]
      : []),
    ...(groups < new Set(body.groupIds).size
      ? [{ field: 'groupIds', message: 'holds a group that is not there' }]
      : []),
    ...(except < new Set(body.exceptGroupIds).size
      ? [{ field: 'exceptGroupIds', message: 'holds a group that is not there' }]
      : []),
    ...(people < new Set(body.personIds).size
      ? [{ field: 'personIds', message: 'holds a person who is not there' }]
      : []),
    ...(body.classKeys.some((key) => !known.has(key))
      ? [{ field: 'classKeys', message: 'holds a class that is not there' }]
      : []),
  ];
  if (unknown.length > 0)
    throw invalid(
      `The policy cannot be saved: ${unknown.map((entry) => `${entry.field} ${entry.message}`).join('; ')}.`,
      'Choose them anew.',
      unknown,
    );
}

/** A policy must say for whom, on what, and for protect how. */
export function checkPolicy(body: PolicyBody): void {
  const fields: { field: string; message: string }[] = [];
  if (!body.everyone && body.groupIds.length + body.personIds.length === 0)
    fields.push({ field: 'groupIds', message: 'for whom it is: choose a group, a person or everyone' });
  if (body.assetIds.length + body.classKeys.length === 0)
    fields.push({ field: 'assetIds', message: 'what it holds for: choose assets or data classes' });
  if (body.effect === 'protect' && body.mask === null && body.rows === null)
    fields.push({ field: 'mask', message: 'how values are masked or rows limited' });
  if (body.effect !== 'protect' && (body.mask !== null || body.rows !== null))
    fields.push({ field: 'mask', message: 'only a policy that protects masks values or limits rows' });
  if (body.rows !== null && body.assetIds.length === 0)
    fields.push({ field: 'rows', message: 'the tables whose rows are limited' });
  if (body.columns !== null && body.columns.length === 0)
    fields.push({ field: 'columns', message: 'which columns: choose some, or all' });
  if (fields.length > 0)
    throw invalid(
      `The policy does not say ${fields.map((field) => field.message).join('; ')}.`,
      'Complete the sentence.',
      fields,
    );
}

const values = (body: PolicyBody) => [
  body.name,
  body.effect,
  body.everyone,
  body.groupIds,
  body.personIds,
  body.exceptGroupIds,
  body.assetIds,
  body.classKeys,
  body.columns,
  body.mask,
  body.rows ? JSON.stringify(body.rows) : null,
  body.enabled,
  body.carried,
];
/** What the journal keeps of a policy: names, not ids, so that it can be read years later. */
async function spoken(db: Db, policy: PolicyAnswer): Promise<Record<string, unknown>> {
  const rows = await db.rows<{ id: string; name: string }>(
    'select id, name from person_group where id = any($1::uuid[]) union all select id, name from person where id = any($1::uuid[])',
    [[...policy.groupIds, ...policy.personIds, ...policy.exceptGroupIds]],
  );
  const named = (ids: readonly string[]) => ids.map((id) => rows.find((row) => row.id === id)?.name ?? id);
  const { name, effect, everyone, columns, mask, enabled, carried } = policy;
  const limit = policy.rows ? `${policy.rows.column}: ${policy.rows.values.join(', ')}` : null;
  return {
    name,
    effect,
    everyone,
    groups: named(policy.groupIds),
    people: named(policy.personIds),
    except: named(policy.exceptGroupIds),
    assets: policy.assets.map((asset) => asset.path),
    classes: policy.classKeys,
    carriedOn: carried,
    columns,
    mask,
    rows: limit,
    enabled,
  };
}
const taken =
  (name: string) =>
  (error: unknown): never => {
    if ((error as { name?: string }).name === 'SequelizeUniqueConstraintError')
      throw conflict('name-taken', `There already is a policy “${name}”.`, 'Choose another name.');
    throw error;
  };

export async function createPolicy(tx: Db, who: Who, body: PolicyBody): Promise<PolicyAnswer> {
  checkPolicy(body);
  await checkNames(tx, who, body);
  if (!(await mayWrite(tx, who, body))) throw forbidden('policy administrator in every domain that the policy reaches');
  const [row] = await tx
    .rows<{ id: string }>(
      `insert into policy (name, effect, everyone, group_ids, person_ids, except_group_ids, asset_ids, class_keys, columns, mask, rows, enabled, carried, created_by)
     values ($1, $2, $3, $4::uuid[], $5::uuid[], $6::uuid[], $7::uuid[], $8::text[], $9::text[], $10, $11, $12, $13, $14) returning id`,
      [...values(body), who.id],
    )
    .catch(taken(body.name));
  const policy = await getPolicy(tx, who, row?.id ?? '');
  await record(
    tx,
    who.id,
    'created',
    {
      kind: 'policy',
      id: policy.id,
      name: policy.name,
      domainId: null,
      domainIds: await domainsOf(tx, policy.assetIds),
    },
    null,
    await spoken(tx, policy),
  );
  return policy;
}

export async function changePolicy(
  tx: Db,
  who: Who,
  id: string,
  version: number | undefined,
  body: PolicyBody,
): Promise<PolicyAnswer> {
  checkPolicy(body);
  await checkNames(tx, who, body);
  await tx.rows('select 1 from policy where id = $1 for update', [id]);
  const before = await getPolicy(tx, who, id);
  if (!before.mayEdit || !(await mayWrite(tx, who, body)))
    throw forbidden('policy administrator in every domain that the policy reaches');
  mustBeCurrent(version, before);
  await tx
    .run(
      `update policy set name = $1, effect = $2, everyone = $3, group_ids = $4::uuid[], person_ids = $5::uuid[], except_group_ids = $6::uuid[], asset_ids = $7::uuid[], class_keys = $8::text[], columns = $9::text[], mask = $10, rows = $11, enabled = $12, carried = $13, version = version + 1 where id = $14`,
      [...values(body), id],
    )
    .catch(taken(body.name));
  const after = await getPolicy(tx, who, id);
  await record(
    tx,
    who.id,
    'edited',
    {
      kind: 'policy',
      id,
      name: after.name,
      domainId: null,
      domainIds: await domainsOf(tx, [...before.assetIds, ...after.assetIds]),
    },
    await spoken(tx, before),
    await spoken(tx, after),
  );
  return after;
}

export async function removePolicy(tx: Db, who: Who, id: string): Promise<void> {
  const before = await getPolicy(tx, who, id);
  if (!before.mayEdit) throw forbidden('policy administrator in every domain that the policy reaches');
  await tx.run('delete from policy where id = $1', [id]);
  await record(
    tx,
    who.id,
    'removed',
    { kind: 'policy', id, name: before.name, domainId: null, domainIds: await domainsOf(tx, before.assetIds) },
    await spoken(tx, before),
    null,
  );
}
