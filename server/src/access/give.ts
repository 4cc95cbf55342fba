import type { GiveBody, Given, GivenAnswer, PolicyBody } from '@idrel/contract/access';
import { type Opens, passableOf, type TableDecision, toldAccess } from '@idrel/core/access';
import { getAsset, kindsSql } from '../catalog/index.ts';
import type { Who } from '../people/index.ts';
import type { Db } from '../platform/database.ts';
import { ApiProblem, invalid, notFound } from '../platform/problems.ts';
import { type Facts, factsFor } from './facts.ts';
import { grantPolicies, removeGiven } from './policies.ts';
import { unseen } from './sight.ts';

/** So much may somebody have given on: everything is decided by it. */
const GIVEN_MOST = 200;

interface Passable {
  readonly id: string;
  readonly path: string;
  readonly facts: Facts;
  readonly decide: (opens: Opens) => TableDecision;
}

/**
 * What somebody may pass on of a table or file.
 * @throws 404 when it is not there for them; 422 when it holds no rows
 */
async function passable(db: Db, who: Who, assetId: string): Promise<Passable> {
  const asset = await getAsset(db, who, assetId);
  const facts = await factsFor(
    db,
    { personId: who.id, purpose: null, preview: true },
    `t.id = $1 and t.kind in (${kindsSql('holdsRows')})`,
    [assetId],
    'any',
  );
  if (!facts) throw notFound('The person');
  const [table] = facts.tables;
  if (!table)
    throw invalid(`Of a ${asset.kind} nothing is given on here.`, 'Give on what tables, views and files hold.');
  // What asks for a purpose is passed on to who states it: as if each were stated, its policies let one pass on.
  const policies = facts.policies.map((policy) => ({ ...policy, purposes: [] }));
  return {
    id: table.id,
    path: table.path,
    facts,
    decide: (opens) => passableOf(policies, facts.person, table, opens),
  };
}

const open = ({ columns }: TableDecision) => columns.filter(({ access }) => access !== 'refused');

/** What somebody gave on, of an asset or by its policy. @param condition on the policy `p` */
const givenSql = (condition: string): string => `
  select
    p.id as "policyId", p.version, p.columns, p.opens, p.passes_on as "passesOn", p.until, p.created_at as at,
    coalesce(
      (select json_agg(
         json_build_object(
           'kind', case when s.person_id is null then 'group' else 'person' end,
           'id', coalesce(s.person_id, s.group_id), 'name', coalesce(q.name, g.name))
         order by coalesce(q.name, g.name))
       from policy_subject s
       left join person q on q.id = s.person_id
       left join person_group g on g.id = s.group_id
       where s.policy_id = p.id), '[]') as to
  from policy p
  where p.given_by = $1 and (p.until is null or p.until > now()) and ${condition}
  order by p.created_at, p.id`;

const told = (row: Omit<Given, 'holds'>, decide: Passable['decide']): Given => {
  const columns = open(decide(row.opens));
  return { ...row, holds: columns.some(({ name }) => row.columns === null || row.columns.includes(name)) };
};

/** What somebody may pass on of an asset, and what they gave on of it. @throws 404, 422 */
export async function givenOn(db: Db, who: Who, assetId: string): Promise<GivenAnswer> {
  const { id, decide } = await passable(db, who, assetId);
  const decision = decide('preview');
  const readable = new Set(open(decide('read')).map(({ name }) => name));
  const rows = await db.rows<Omit<Given, 'holds'>>(
    givenSql('p.id in (select o.policy_id from policy_object o where o.asset_id = $2)'),
    [who.id, id],
  );
  return {
    columns: open(decision).map((column) => ({
      name: column.name,
      masked: column.mask !== null,
      preview: !readable.has(column.name) || toldAccess(column) === 'preview',
    })),
    limited: decision.rowLimits.length > 0,
    given: rows.map((row) => told(row, decide)),
  };
}

/** A name that no policy has yet. */
async function freeName(tx: Db, wished: string): Promise<string> {
  const name = wished.slice(0, 140);
  const taken = new Set(
    (
      await tx.rows<{ name: string }>('select name from policy where left(lower(name), $2) = lower($1)', [
        name,
        name.length,
      ])
    ).map((row) => row.name.toLowerCase()),
  );
  for (let number = 1; ; number += 1) {
    const tried = number === 1 ? name : `${name} (${number})`;
    if (!taken.has(tried.toLowerCase())) return tried;
  }
}

/** Gives on what somebody may pass on. @throws 403, 404, 422 */
export async function giveOn(tx: Db, who: Who, assetId: string, body: GiveBody): Promise<Given> {
  const { id, path, facts, decide } = await passable(tx, who, assetId);
  const mine = open(decide(body.opens));
  if (mine.length === 0)
    throw new ApiProblem(
      'forbidden',
      `You may not give on anything of ${path}${body.opens === 'read' ? ' to be read' : ''}.`,
      {
        mend: 'Ask who sets the policies of it: one that allows can say that what it opens may be given on.',
      },
    );
  const [table] = facts.tables;
  const blind = await unseen(
    tx,
    body.personIds.map((personId) => ({ personId, sourceId: table?.sourceId ?? '', tableIds: [id] })),
  );
  const names = new Set(mine.map(({ name }) => name));
  const { n } = (await tx.one<{ n: number }>(
    'select count(*)::int as n from policy where given_by = $1 and (until is null or until > now())',
    [who.id],
  )) ?? {
    n: 0,
  };
  if (n >= GIVEN_MOST)
    throw invalid(
      `You gave on ${n} times already: more is not kept.`,
      'Take back what is not needed any more, or give to a group.',
    );
  const flaws = [
    ...(body.personIds.length + body.groupIds.length === 0
      ? [{ field: 'personIds', message: 'name nobody: choose people or groups' }]
      : []),
    ...(body.personIds.includes(who.id) ? [{ field: 'personIds', message: 'name yourself' }] : []),
    ...blind.map(({ person, source, domain }) => ({
      field: 'personIds',
      message: `name ${person}, who does not see ${source}: without a role in ${domain} nothing of it is there for them`,
    })),
    ...(body.columns ?? [])
      .filter((name) => !names.has(name))
      .map((name) => ({ field: 'columns', message: `name ${name}, which you may not give on` })),
    ...(body.until !== null && Date.parse(body.until) <= Date.now() ? [{ field: 'until', message: 'has passed' }] : []),
  ];
  if (flaws.length > 0)
    throw invalid(
      `It cannot be given on: ${flaws.map(({ field, message }) => `${field} ${message}`).join('; ')}.`,
      'Choose them anew.',
      flaws,
    );
  const policy: PolicyBody = {
    name: await freeName(tx, `${path}, given on by ${who.name}`),
    effect: 'allow',
    everyone: false,
    groupIds: body.groupIds,
    personIds: body.personIds,
    exceptGroupIds: [],
    assetIds: [id],
    classKeys: [],
    filter: null,
    carried: false,
    columns: body.columns,
    columnsBut: false,
    mask: null,
    rows: null,
    until: body.until,
    hours: null,
    purposes: [],
    opens: body.opens,
    passesOn: body.passesOn,
    enabled: true,
  };
  const made = await grantPolicies(tx, who, { givenBy: who.id }, [policy]);
  const row = await tx.one<Omit<Given, 'holds'>>(givenSql('p.id = $2'), [who.id, made]);
  if (!row) throw notFound('What was given');
  return told(row, decide);
}

/** Takes back what somebody gave on themselves. @throws 404 */
export async function takeGiven(tx: Db, who: Who, policyId: string): Promise<void> {
  const mine = await tx.one('select from policy where id = $1 and given_by = $2 for update', [policyId, who.id]);
  if (!mine) throw notFound('What was given');
  await removeGiven(tx, who, policyId);
}
