import type { PolicyAnswer, PolicyBody } from '@idrel/contract/access';
import { hoursInWords, isZone, limitInWords, maskInWords } from '@idrel/core/access';
import { FROM, PATH } from '../catalog/index.ts';
import { change, create, type Kept, type Principal, record, remove } from '../journal/index.ts';
import { isSeen, type Who } from '../people/index.ts';
import type { Db } from '../platform/database.ts';
import { ApiProblem, forbidden, invalid, notFound } from '../platform/problems.ts';
import { knownClasses } from '../recognition/index.ts';
import { checkFilter, keepMatches } from './matches.ts';
import { POLICY, type PolicyRow } from './models.ts';
import { LISTS, writeLists } from './policyRows.ts';
import { checkSeen } from './sight.ts';

const SELECT = `
  select p.id, p.name, p.effect, p.everyone, p.filter, p.carried, p.columns, p.columns_but as "columnsBut", p.mask, p.rows, p.until, p.hours,
         p.purposes, p.opens, p.passes_on as "passesOn", p.enabled, p.version,
         ${LISTS.groups} as "groupIds", ${LISTS.people} as "personIds", ${LISTS.exceptGroups} as "exceptGroupIds",
         ${LISTS.assets} as "assetIds", ${LISTS.classes} as "classKeys",
         w.name as "createdBy", p.request_id as "requestId", p.share_id as "shareId", y.name as "givenBy",
         array(
           select distinct a.domain_id
           from policy_object o
           join asset a on a.id = o.asset_id
           where o.policy_id = p.id) as "domainIds",
         (select ${PATH} from ${FROM} where a.id = (p.rows #>> '{through,tableId}')::uuid and ${isSeen('a', '$1')}) as rights,
         coalesce(
           (select json_agg(json_build_object('id', a.id, 'kind', a.kind, 'path', ${PATH}) order by s.name, a.key)
            from ${FROM}
            join policy_object o on o.asset_id = a.id
            where o.policy_id = p.id and ${isSeen('a', '$1')}), '[]') as assets
  from policy p
  left join person w on w.id = p.created_by
  left join person y on y.id = p.given_by`;

/** The domains that assets reach, with all that lies in them: part of a source can lie in another domain than the source. */
async function domainsOf(db: Db, assetIds: readonly string[]): Promise<string[]> {
  const rows = await db.rows<{ id: string }>(
    'select distinct d as id from unnest($1::uuid[]) a, unnest(domains_within(a)) d',
    [assetIds],
  );
  return rows.map((row) => row.id);
}

/** A policy is a policy administrator's of every domain it reaches; one that holds by class alone reaches everywhere. */
const mayWriteIn = (who: Who, domains: readonly string[], assets: readonly string[]): boolean =>
  assets.length === 0
    ? who.isEverywhere('policy administrator')
    : domains.every((domain) => who.is('policy administrator', domain));

export const mayWrite = async (db: Db, who: Who, { assetIds }: Pick<PolicyBody, 'assetIds'>): Promise<boolean> =>
  mayWriteIn(who, await domainsOf(db, assetIds), assetIds);

/** A policy with the domains of all that it names: in a list without those of what lies in that, which are looked at when it is to be changed. */
interface Read extends PolicyAnswer {
  readonly domainIds: readonly string[];
}

/**
 * A policy as somebody may see it: of assets only those they may see, and what is told of rows only when they see all that it is about.
 * Undefined when nothing of it is theirs to see.
 */
function seenBy(who: Who, { domainIds, ...row }: Read): PolicyAnswer | undefined {
  const mayEdit = mayWriteIn(who, domainIds, row.assetIds);
  const whole = row.assets.length === row.assetIds.length;
  if (whole) return { ...row, mayEdit };
  if (row.assets.length === 0) return undefined;
  return {
    ...row,
    mayEdit,
    assetIds: row.assets.map((asset) => asset.id),
    filter: row.filter && '…',
    columns: row.columns && [],
    rows: row.rows && { column: '', values: [], attribute: null, through: null },
  };
}

/** @param domain only those that name something in this domain, or in one below it */
export async function listPolicies(db: Db, who: Who, domain?: string): Promise<PolicyAnswer[]> {
  const within = domain
    ? `
        where exists (
          select
          from policy_object o
          join asset a on a.id = o.asset_id
          where o.policy_id = p.id and a.domain_id = any(domains_from($2::uuid))
        )`
    : '';
  const rows = await db.rows<Read>(
    `${SELECT} ${within} order by array_position(array['deny', 'protect', 'allow'], p.effect), p.name`,
    [who.domainsAs('reader'), ...(domain ? [domain] : [])],
  );
  return rows.flatMap((row) => seenBy(who, row) ?? []);
}

async function getPolicy(db: Db, who: Who, id: string): Promise<PolicyAnswer> {
  const row = await db.one<Read>(`${SELECT} where p.id = $2`, [who.domainsAs('reader'), id]);
  const seen = row && seenBy(who, { ...row, domainIds: await domainsOf(db, row.assetIds) });
  if (!seen) throw notFound('The policy');
  return seen;
}

/** What a policy names must be there, and be the person's to see: a name that nothing answers to would pass every question about rights. */
async function checkNames(db: Db, who: Who, body: PolicyBody, ofShare = false): Promise<void> {
  const count = async (sql: string, bind: unknown[]) => (await db.one<{ n: number }>(sql, bind))?.n ?? 0;
  const assets = await count(
    `select count(*)::int as n from asset where id = any($1::uuid[]) and ${isSeen('asset', '$2')}`,
    [body.assetIds, who.domainsAs('reader')],
  );
  const groups = await count('select count(*)::int as n from person_group where id = any($1::uuid[])', [body.groupIds]);
  const except = await count('select count(*)::int as n from person_group where id = any($1::uuid[])', [
    body.exceptGroupIds,
  ]);
  const people = await count(
    'select count(*)::int as n from person where id = any($1::uuid[]) and partner_id is null',
    [body.personIds],
  );
  const partners =
    ofShare || body.effect !== 'allow'
      ? []
      : await db.rows<{ name: string }>(
          'select name from person_group where id = any($1::uuid[]) and partner_id is not null',
          [body.groupIds],
        );
  const known = await knownClasses(db);
  const rights = body.rows?.through
    ? await count(
        `select count(distinct c.name)::int as n
         from asset t join asset c on c.parent_id = t.id and c.kind = 'column' and c.gone_at is null
         where t.id = $1 and ${isSeen('t', '$2')} and c.name = any($3::text[])
           and (cardinality($4::uuid[]) = 0 or exists (
             select from asset o where o.id = any($4::uuid[]) and o.source_id = t.source_id))`,
        [
          body.rows.through.tableId,
          who.domainsAs('reader'),
          [body.rows.through.column, body.rows.through.reader],
          body.assetIds,
        ],
      )
    : 0;
  const unknown = [
    ...(assets < new Set(body.assetIds).size
      ? [{ field: 'assetIds', message: 'holds an asset that is not there, or that you may not see' }]
      : []),
    ...(groups < new Set(body.groupIds).size
      ? [{ field: 'groupIds', message: 'holds a group that is not there' }]
      : []),
    ...partners.map(({ name }) => ({
      field: 'groupIds',
      message: `names ${name}, a partner organisation: what it may read is offered to it as a share`,
    })),
    ...(except < new Set(body.exceptGroupIds).size
      ? [{ field: 'exceptGroupIds', message: 'holds a group that is not there' }]
      : []),
    ...(people < new Set(body.personIds).size
      ? [{ field: 'personIds', message: 'holds a person who is not there' }]
      : []),
    ...(body.rows?.through && rights < new Set([body.rows.through.column, body.rows.through.reader]).size
      ? [
          {
            field: 'rows',
            message:
              'names a table of rights that is not there with these columns in a source that the policy holds for',
          },
        ]
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

/** What lets be seen is said of listed assets: what is there at all is asked with every question, and cannot hang on values, hours or what somebody states. */
function flawsOfSeeing(body: PolicyBody): { field: string; message: string }[] {
  return [
    ...(body.assetIds.length === 0 ? [{ field: 'assetIds', message: 'which assets are seen: choose some' }] : []),
    ...(body.classKeys.length > 0 || body.filter !== null
      ? [
          {
            field: 'filter',
            message: 'the assets themselves: what is seen is listed, not found by a class or a filter',
          },
        ]
      : []),
    ...(body.columns !== null
      ? [{ field: 'columns', message: 'whole assets: who sees a table sees its columns' }]
      : []),
    ...(body.hours !== null ? [{ field: 'hours', message: 'no hours: what is there is seen at any time' }] : []),
    ...(body.purposes.length > 0
      ? [{ field: 'purposes', message: 'no purpose: what is there is seen whatever for' }]
      : []),
    ...(body.passesOn ? [{ field: 'passesOn', message: 'nothing to give on: what is given on is values' }] : []),
  ];
}

/** A policy must say for whom, on what, and for protect how. */
export function checkPolicy(body: PolicyBody): void {
  const fields: { field: string; message: string }[] = [];
  if (!body.everyone && body.groupIds.length + body.personIds.length === 0)
    fields.push({ field: 'groupIds', message: 'for whom it is: choose a group, a person or everyone' });
  if (body.assetIds.length + body.classKeys.length === 0 && body.filter === null)
    fields.push({ field: 'assetIds', message: 'what it holds for: choose assets, data classes or a filter' });
  if (body.effect === 'protect' && body.mask === null && body.rows === null)
    fields.push({ field: 'mask', message: 'how values are masked or rows limited' });
  if (body.rows !== null && body.rows.column.trim() === '')
    fields.push({ field: 'rows', message: 'the column that limits the rows' });
  if (
    body.rows?.least !== undefined &&
    (body.rows.through || body.rows.attribute !== null || body.rows.values.length > 0)
  )
    fields.push({
      field: 'rows',
      message: 'by which of the two rows are limited: which they are, or how many are told together',
    });
  if (body.rows?.through && body.rows.attribute !== null)
    fields.push({ field: 'rows', message: 'by which of the two rows are limited: an attribute, or a table of rights' });
  if (body.hours && !isZone(body.hours.zone))
    fields.push({ field: 'hours', message: 'in which time zone its hours are: one such as Europe/Oslo' });
  if (body.hours && body.hours.from === body.hours.to)
    fields.push({ field: 'hours', message: 'from when to when it holds: the two are the same' });
  if (body.purposes.length > 0 && body.effect !== 'allow')
    fields.push({ field: 'purposes', message: 'no purpose: only a policy that allows can ask for one' });
  if (body.effect !== 'allow' && body.opens !== 'read')
    fields.push({ field: 'opens', message: 'nothing that it opens: only a policy that allows does' });
  if (body.opens === 'see') fields.push(...flawsOfSeeing(body));
  if (body.effect !== 'allow' && body.passesOn)
    fields.push({ field: 'passesOn', message: 'nothing to give on: only a policy that allows opens something' });
  if (body.columnsBut && body.columns === null)
    fields.push({ field: 'columns', message: 'which columns are left out: choose some, or take all' });
  if (body.mask?.kind === 'partial' && body.mask.first + body.mask.last === 0)
    fields.push({ field: 'mask', message: 'which characters are shown: to show none, choose blank' });
  if (body.effect !== 'protect' && (body.mask !== null || body.rows !== null))
    fields.push({ field: 'mask', message: 'only a policy that protects masks values or limits rows' });
  if (body.filter !== null) checkFilter(body.filter);
  if (body.rows !== null && body.assetIds.length === 0 && body.filter === null)
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

async function pathOf(db: Db, assetId: string): Promise<string> {
  const row = await db.one<{ path: string }>(`select ${PATH} as path from ${FROM} where a.id = $1`, [assetId]);
  return row?.path ?? assetId;
}

/** What the journal keeps of a policy: names, not ids, so that it can be read years later. */
async function policyForJournal(db: Db, policy: PolicyAnswer): Promise<Record<string, unknown>> {
  const rows = await db.rows<{ id: string; name: string }>(
    `
      select id, name
      from person_group
      where id = any($1::uuid[])
      union all
      select id, name
      from person
      where id = any($1::uuid[])`,
    [[...policy.groupIds, ...policy.personIds, ...policy.exceptGroupIds]],
  );
  const named = (ids: readonly string[]) => ids.map((id) => rows.find((row) => row.id === id)?.name ?? id);
  const { name, effect, everyone, columns, columnsBut, mask, enabled, filter, carried, until, hours, purposes } =
    policy;
  const { opens, passesOn, givenBy } = policy;
  const through = policy.rows?.through;
  const rights = through && (await pathOf(db, through.tableId));
  const limit = policy.rows && limitInWords(policy.rows, rights);
  return {
    name,
    effect,
    everyone,
    groups: named(policy.groupIds),
    people: named(policy.personIds),
    except: named(policy.exceptGroupIds),
    assets: policy.assets.map((asset) => asset.path),
    classes: policy.classKeys,
    ...(filter === null ? {} : { filter }),
    carriedOn: carried,
    columns,
    ...(columnsBut ? { columnsAre: 'all but these' } : {}),
    mask: mask && maskInWords(mask),
    rows: limit,
    until,
    hours: hours && hoursInWords(hours),
    purposes,
    ...(opens === 'read' ? {} : { opens }),
    ...(passesOn ? { passesOn } : {}),
    ...(givenBy === null ? {} : { givenBy }),
    enabled,
  };
}

/** @throws 403 when it is part of a share, or reaches where who asks does not administer policies */
function mustBeEditable({ shareId, mayEdit }: Pick<PolicyAnswer, 'shareId' | 'mayEdit'>): void {
  if (shareId !== null)
    throw new ApiProblem('forbidden', 'This policy is part of a share.', {
      mend: 'Change or end the share, under Access → Shares.',
    });
  if (!mayEdit) throw forbidden('policy administrator in every domain that the policy reaches');
}

const POLICIES: Kept<PolicyRow, PolicyAnswer> = {
  thing: 'policy',
  model: POLICY,
  read: getPolicy,
  told: policyForJournal,
  subject: async (db, policy, before) => ({
    domainIds: await domainsOf(db, [...(before?.assetIds ?? []), ...policy.assetIds]),
  }),
  may: (_db, _who, policy) => mustBeEditable(policy),
};

/** What was given on is its giver's: it can be removed, and not made into something else. */
const CHANGED: Kept<PolicyRow, PolicyAnswer> = {
  ...POLICIES,
  may(_db, _who, policy) {
    mustBeEditable(policy);
    if (policy.givenBy !== null)
      throw new ApiProblem('forbidden', `${policy.givenBy} gave this on: it is not changed.`, {
        mend: 'Remove it, or write a policy of its own.',
      });
  },
};

/** What of a body stands in the row itself. */
const rowOf = ({
  groupIds: _groups,
  personIds: _people,
  exceptGroupIds: _except,
  assetIds: _assets,
  classKeys: _classes,
  until,
  ...row
}: PolicyBody) => ({ ...row, until: until === null ? null : new Date(until) });

/** Whether a policy can be written as it is said, by this person. @throws 403, 422 */
export async function checkWritten(tx: Db, who: Who, body: PolicyBody): Promise<void> {
  checkPolicy(body);
  await checkNames(tx, who, body);
  if (!(await mayWrite(tx, who, body))) throw forbidden('policy administrator in every domain that the policy reaches');
  if (body.opens === 'see') await checkSeen(tx, body.assetIds);
}

export async function createPolicy(tx: Db, who: Who, body: PolicyBody): Promise<PolicyAnswer> {
  await checkWritten(tx, who, body);
  const values = { ...rowOf(body), createdBy: who.id };
  const made = await create(tx, who, POLICIES, values, { parts: (id) => writeLists(tx, id, body) });
  await keepMatches(tx, made, true);
  return made;
}

export async function changePolicy(
  tx: Db,
  who: Who,
  id: string,
  version: number,
  body: PolicyBody,
): Promise<PolicyAnswer> {
  await checkWritten(tx, who, body);
  const parts = (policy: string) => writeLists(tx, policy, body);
  const { before, after } = await change(tx, who, CHANGED, id, { version, values: rowOf(body), parts });
  await keepMatches(tx, after, before.filter !== after.filter);
  return after;
}

export async function removePolicy(tx: Db, who: Who, id: string): Promise<void> {
  await remove(tx, who, POLICIES, id);
}

/** A policy with all that it says, whoever looks. */
async function readWhole(db: Db, id: string): Promise<Read> {
  const row = await db.one<Read>(`${SELECT} where p.id = $2`, [
    (await db.rows<{ id: string }>('select id from domain')).map((domain) => domain.id),
    id,
  ]);
  if (!row) throw notFound('The policy');
  return row;
}

/** What answering a request grants, or a share: whoever may do that may, whatever their role over policies is. Beside others it opens or protects, and takes nothing of what they say. */
const GRANTED: Kept<PolicyRow, PolicyAnswer> = {
  ...POLICIES,
  async read(db, _who, id) {
    const { domainIds: _domains, ...policy } = await readWhole(db, id);
    return { ...policy, mayEdit: true };
  },
  may: () => undefined,
};

/** What policies are made of, and end with. */
export type PartOf = { readonly requestId: string } | { readonly shareId: string };
/** By whom it is made, where they give on what they have. */
type Gift = { readonly givenBy: string };

/** Makes the policies of an answered request, or of a share. @throws 422 @returns the id of the one that allows */
export async function grantPolicies(
  tx: Db,
  who: Who,
  of: PartOf | Gift,
  bodies: readonly PolicyBody[],
): Promise<string | undefined> {
  let allowing: string | undefined;
  for (const body of bodies) {
    checkPolicy(body);
    await checkNames(tx, who, body, 'shareId' in of);
    const values = { ...rowOf(body), createdBy: who.id, ...of };
    const { id } = await create(tx, who, GRANTED, values, {
      parts: (made) => writeLists(tx, made, body),
      action: 'givenBy' in of ? 'given on' : 'granted',
    });
    if (body.effect === 'allow') allowing = id;
  }
  return allowing;
}

/** How a policy is written down when it changes without being edited. */
const recordPolicy = async (tx: Db, principal: Principal, action: string, before: Read, after: Read | null) =>
  record(
    tx,
    principal,
    action,
    { kind: 'policy', id: before.id, name: before.name, domainId: null, domainIds: before.domainIds },
    await policyForJournal(tx, before),
    after && (await policyForJournal(tx, after)),
  );

const partsOf = (tx: Db, of: PartOf): Promise<{ id: string }[]> =>
  'requestId' in of
    ? tx.rows('select id from policy where request_id = $1 order by id for update', [of.requestId])
    : tx.rows('select id from policy where share_id = $1 order by id for update', [of.shareId]);

/** Has the policies of a share hold. */
export async function switchOn(tx: Db, principal: Principal, of: PartOf): Promise<void> {
  for (const { id } of await partsOf(tx, of)) {
    const before = await readWhole(tx, id);
    await tx.run('update policy set enabled = true, version = version + 1 where id = $1', [id]);
    await recordPolicy(tx, principal, 'granted', before, await readWhole(tx, id));
  }
}

/** Removes the policies of a request or a share: who ends a right need not see what it was on any more. @returns how many there were */
export async function endGrants(tx: Db, principal: Principal, of: PartOf): Promise<number> {
  const rows = await partsOf(tx, of);
  for (const { id } of rows) {
    const before = await readWhole(tx, id);
    await tx.run('delete from policy where id = $1', [id]);
    await recordPolicy(tx, principal, 'ended', before, null);
  }
  return rows.length;
}

/** Removes what somebody gave on: whoever gave it may take it back, whatever they may see of it by now. */
export async function removeGiven(tx: Db, who: Who, id: string): Promise<void> {
  const before = await readWhole(tx, id);
  await tx.run('delete from policy where id = $1', [id]);
  await recordPolicy(tx, who, 'taken back', before, null);
}

/** For whom a policy is, as one of those whom it names; both null: everyone. */
export interface Subject {
  readonly personId: string | null;
  readonly groupId: string | null;
}

/**
 * Takes somebody out of a policy, or puts them back; one that is for nobody any more is off.
 * @param there `on`: puts them back, and the policy on
 * @returns its version then, and whether it was switched off
 */
export async function changeSubject(
  tx: Db,
  principal: Principal,
  policyId: string,
  { personId, groupId }: Subject,
  there: 'out' | 'back' | 'on',
): Promise<{ readonly version: number; readonly switchedOff: boolean }> {
  await tx.run('select from policy where id = $1 for update', [policyId]);
  const before = await readWhole(tx, policyId);
  const changed = (ids: readonly string[], id: string | null) =>
    id === null ? [...ids] : there === 'out' ? ids.filter((other) => other !== id) : [...new Set([...ids, id])];
  const isEveryone = personId === null && groupId === null;
  const everyone = isEveryone ? there !== 'out' : before.everyone;
  const lists = {
    ...before,
    personIds: changed(before.personIds, personId),
    groupIds: changed(before.groupIds, groupId),
  };
  const named = everyone || lists.personIds.length + lists.groupIds.length > 0;
  const enabled = there === 'on' || (before.enabled && named);
  await writeLists(tx, policyId, lists);
  await tx.run('update policy set everyone = $2, enabled = $3, version = version + 1 where id = $1', [
    policyId,
    everyone,
    enabled,
  ]);
  const after = await readWhole(tx, policyId);
  await recordPolicy(tx, principal, there === 'out' ? 'right ended' : 'right brought back', before, after);
  return { version: after.version, switchedOff: before.enabled && !enabled };
}
