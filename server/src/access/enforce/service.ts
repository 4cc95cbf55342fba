import type { EnforcementAnswer, EnforcingPlanAnswer } from '@idrel/contract/access';
import {
  drifted,
  type EnforcingPlan,
  enforcingPlan,
  inTransaction,
  type Made,
  needsKeys,
  quoteIdentifier,
  shownInWords,
  tableKey,
  undoing,
} from '@idrel/core/access';
import { SourceProblem } from '@idrel/readers/connectors';
import type pg from 'pg';
import { record, service } from '../../journal/index.ts';
import type { Who } from '../../people/index.ts';
import type { Config } from '../../platform/config.ts';
import type { Database, Db } from '../../platform/database.ts';
import { ApiProblem, conflict, forbidden, invalid, mustBeCurrent } from '../../platform/problems.ts';
import { checkCredential, connectorInput, type SourceFacts, sourceFacts } from '../../sources/index.ts';
import { readPeople } from '../facts.ts';
import { readLogins } from '../native/rights.ts';
import { policyNames } from '../policyNames.ts';
import { checkReading } from './check.ts';
import { type Desired, desired, digestOf, policiesTold, readersTold } from './desired.ts';
import { lacks, readThere, type There, withEnforcer } from './there.ts';

const STEPS_SHOWN = 300;
const SHOWN = 200;
/** While somebody waits, a check takes about so long, in seconds; by itself it may take longer. */
const WAITED = 15;
const BY_ITSELF = 240;

interface Row {
  credentialId: string | null;
  credential: string | null;
  role: string | null;
  version: number;
  digest: string | null;
  madeAt: Date | null;
  madeBy: string | null;
  readers: NonNullable<EnforcementAnswer['made']>['readers'];
  made: Made[];
  checkedAt: Date | null;
  found: (Omit<NonNullable<EnforcementAnswer['checked']>, 'at'> & { readonly next: number }) | null;
  acceptedReason: string | null;
  acceptedBy: string | null;
  acceptedAt: Date | null;
}

const readRow = (db: Db, sourceId: string): Promise<Row | undefined> =>
  db.one<Row>(
    `
      select
        e.credential_id as "credentialId", c.name as credential, c.username as role, e.version, e.digest,
        e.made_at as "madeAt", m.name as "madeBy", e.readers, e.made, e.checked_at as "checkedAt", e.found,
        e.accepted_reason as "acceptedReason", a.name as "acceptedBy", e.accepted_at as "acceptedAt"
      from enforcement e
      left join credential c on c.id = e.credential_id
      left join person m on m.id = e.made_by
      left join person a on a.id = e.accepted_by
      where e.source_id = $1`,
    [sourceId],
  );

/** Why a source cannot hold policies itself; null where it can. */
const whyNot = ({ kind, agentGroup }: Pick<SourceFacts, 'kind' | 'agentGroup'>): string | null => {
  if (kind !== 'postgresql') return 'Only PostgreSQL is made to hold policies itself.';
  return agentGroup ? 'Only agents reach this source, and they do nothing but read.' : null;
};

/** Domains with tables of the source: what is planned for it tells of them. */
const domainsIn = async (db: Db, { id, domainId }: Pick<SourceFacts, 'id' | 'domainId'>): Promise<string[]> => {
  const rows = await db.rows<{ id: string }>(
    'select distinct domain_id as id from asset where source_id = $1 and gone_at is null',
    [id],
  );
  return [...new Set([domainId, ...rows.map((row) => row.id)])];
};
const mayMake = async (db: Db, who: Who, source: SourceFacts): Promise<boolean> =>
  (await domainsIn(db, source)).every((domain) => who.is('policy administrator', domain));

function toAnswer(row: Row | undefined, source: SourceFacts, who: Who, make: boolean): EnforcementAnswer {
  const why = whyNot(source);
  return {
    offered: why === null,
    why,
    credentialId: row?.credentialId ?? null,
    credential: row?.credential ?? null,
    role: row?.role ?? null,
    version: row?.version ?? 0,
    // Who reads what, and what differs, is told to whoever may make it: it names tables of all domains.
    made: row?.madeAt && make ? { at: row.madeAt.toISOString(), by: row.madeBy, readers: row.readers } : null,
    checked: row?.checkedAt && row.found && make ? checkedTold(row.checkedAt, row.found) : null,
    accepted:
      row?.acceptedAt && make
        ? { reason: row.acceptedReason ?? '', by: row.acceptedBy, at: row.acceptedAt.toISOString() }
        : null,
    mayChoose: who.is('source administrator', source.domainId),
    mayMake: make,
  };
}

const checkedTold = (at: Date, { next: _, ...found }: NonNullable<Row['found']>): EnforcementAnswer['checked'] => ({
  at: at.toISOString(),
  ...found,
});

/** How the policies are held by a source itself. @throws 403, 404 */
export async function enforcementOf(db: Db, who: Who, sourceId: string): Promise<EnforcementAnswer> {
  const source = await sourceFacts(db, who, sourceId);
  if (!who.is('source administrator', source.domainId)) who.must('policy administrator', source.domainId);
  return toAnswer(await readRow(db, source.id), source, who, await mayMake(db, who, source));
}

/** What is said of it names tables and people of all domains that the source has tables in: whoever sees it administers policies in each of them. */
const about = async (db: Db, source: Pick<SourceFacts, 'id' | 'name' | 'domainId'>) => ({
  kind: 'native right' as const,
  id: source.id,
  name: `${source.name}: policies held there`,
  domainId: null,
  domainIds: await domainsIn(db, source),
});

/** Chooses the role that makes policies hold at a source. @throws 403, 404, 409 while something stands that the one before made, 412 */
export async function changeEnforcement(
  tx: Db,
  who: Who,
  sourceId: string,
  version: number,
  credentialId: string | null,
): Promise<EnforcementAnswer> {
  const source = await sourceFacts(tx, who, sourceId);
  who.must('source administrator', source.domainId);
  await tx.rows('select from source where id = $1 for update', [source.id]);
  const before = await readRow(tx, source.id);
  mustBeCurrent(version, toAnswer(before, source, who, await mayMake(tx, who, source)));
  const why = whyNot(source);
  if (why !== null && credentialId !== null)
    throw invalid(why, 'Leave it out.', [{ field: 'credentialId', message: 'is of no use there' }]);
  await checkCredential(tx, who, source.kind, credentialId);
  if (before?.madeAt && credentialId !== before.credentialId)
    throw conflict(
      'still-used',
      'What was made there belongs to the role that made it.',
      'Take it back first, then choose another role.',
    );
  await tx.run(
    `
      insert into enforcement (source_id, credential_id)
      values ($1, $2)
      on conflict (source_id) do update set credential_id = excluded.credential_id, version = enforcement.version + 1`,
    [source.id, credentialId],
  );
  const after = await readRow(tx, source.id);
  await record(
    tx,
    who,
    'changed',
    await about(tx, source),
    { credential: before?.credential ?? null },
    { credential: after?.credential ?? null },
  );
  return toAnswer(after, source, who, await mayMake(tx, who, source));
}

/** @throws 403 without the right in each domain that it tells of; 409, 422 when it cannot be done there */
async function makeable(db: Db, who: Who, sourceId: string): Promise<{ source: SourceFacts; row: Row }> {
  const source = await sourceFacts(db, who, sourceId);
  if (!(await mayMake(db, who, source)))
    throw forbidden('policy administrator in the domains of the source and of all that lies in it');
  const why = whyNot(source);
  if (source.agentGroup) throw conflict('agent-only', why ?? '', 'Give the plan to whoever runs the database.');
  const row = await readRow(db, source.id);
  if (why !== null || !row?.credentialId)
    throw invalid(why ?? 'No role was chosen that makes it.', 'Choose the credential of a role of the database.', [
      { field: 'credentialId', message: 'is not chosen' },
    ]);
  return { source, row };
}

const enforcerInput = (db: Db, config: Config, sourceId: string, row: Row) =>
  connectorInput(db, config, sourceId, row.credentialId);

const planned = ({ readers }: Desired, there: There): EnforcingPlan =>
  enforcingPlan(
    there.database,
    readers,
    new Map(there.tables.map((table) => [tableKey(table.schema, table.name), table])),
    there.before,
  );

const titleOf = ({ name }: SourceFacts) => `${name}: the policies as this database holds them`;
const begun = (there: There) => [
  {
    why: 'Made by the role to which it will belong; names mean what they mean in the catalog of the system',
    sql: `SET LOCAL ROLE ${quoteIdentifier(there.role)};\nSET LOCAL search_path = pg_catalog;`,
  },
];

/** The policies as what a source can hold itself. Nothing is run. @throws 403, 404, 409, 422, 502 */
export async function planEnforcing(db: Db, config: Config, who: Who, sourceId: string): Promise<EnforcingPlanAnswer> {
  const { source, row } = await makeable(db, who, sourceId);
  const wanted = await desired(db, source.id);
  const seen = await policyNames(db, who);
  return withEnforcer(await enforcerInput(db, config, source.id, row), async (client) => {
    const there = await readThere(client);
    const plan = planned(wanted, there);
    const digest = digestOf(plan.readers);
    const opened = wanted.readers.flatMap(({ tables }) =>
      tables.flatMap(({ table, limits }) => [table, ...limits.flatMap(({ through }) => through ?? [])]),
    );
    return {
      steps: plan.steps.slice(0, STEPS_SHOWN),
      total: plan.steps.length,
      text: inTransaction(titleOf(source), [...begun(there), ...plan.steps]),
      back: inTransaction(`${titleOf(source)}: taken back`, [...begun(there), ...undoing(madeBy(plan), false)]),
      digest,
      same: digest === row.digest && drifted(row.made, there.made).length === 0,
      readers: readersTold(plan, wanted.people),
      tables: plan.readers
        .flatMap(({ role, tables }) =>
          tables.map((table) => ({
            role,
            table: `${table.table.schema}.${table.table.name}`,
            name: `${table.schema}.${table.name}`,
            how: table.how,
            told: shownInWords(table),
          })),
        )
        .sort((one, other) => Number(one.how === 'right') - Number(other.how === 'right'))
        .slice(0, STEPS_SHOWN),
      without: plan.without.slice(0, SHOWN),
      ...lacks(there, opened),
      cautions: [
        ...(there.superuser ? ['The role is a superuser: it needs far less, and should be given no more.'] : []),
        ...wanted.cautions,
        ...policiesTold(wanted, seen),
      ],
    };
  });
}

/** What stands there when a plan has been run. */
const madeBy = ({ readers }: EnforcingPlan) => ({
  roles: readers.map(({ role, logins }) => ({ name: role, logins })),
  schemas: [
    ...new Set(readers.flatMap(({ tables }) => tables.filter(({ how }) => how === 'view').map(({ schema }) => schema))),
  ],
  views: readers.flatMap(({ tables }) =>
    tables.filter(({ how }) => how === 'view').map(({ schema, name }) => ({ schema, name })),
  ),
  keys: needsKeys(readers),
});

/** Runs statements that make or take away, all of them or none; commits there as the last thing that is done here. */
async function run(
  client: pg.Client,
  steps: readonly { readonly sql: string }[],
  then: (there: There) => Promise<void>,
): Promise<void> {
  await client.query('begin');
  try {
    // Whoever works there is not kept waiting for long.
    await client.query("set local lock_timeout = '5s'");
    for (const { sql } of steps) await client.query(sql);
    await then(await readThere(client));
    await client.query('commit');
  } catch (error) {
    await client.query('rollback').catch(() => undefined);
    throw error;
  }
}

/** Makes the policies hold at a source, as the plan that was seen says. @throws 403, 404, 409, 422, 502 */
export async function enforce(
  db: Database,
  config: Config,
  who: Who,
  sourceId: string,
  digest: string,
): Promise<EnforcementAnswer> {
  const { source, row } = await makeable(db, who, sourceId);
  const wanted = await desired(db, source.id);
  await withEnforcer(await enforcerInput(db, config, source.id, row), async (client) => {
    const there = await readThere(client);
    const plan = planned(wanted, there);
    if (digestOf(plan.readers) !== digest)
      throw conflict('differs-now', 'Something else would be made now than was seen.', 'Look at the plan again.');
    const { needs } = lacks(there, []);
    if (needs.length > 0)
      throw new ApiProblem('source-error', `The role lacks a right: ${needs.map(({ what }) => what).join(' ')}`, {
        mend: 'The plan says which, with the statement that gives it.',
      });
    const told = readersTold(plan, wanted.people);
    await db.transaction(async (tx) => {
      await tx.rows('select from enforcement where source_id = $1 for update', [source.id]);
      await run(client, plan.steps, async ({ made }) => {
        await tx.run(
          `
            update enforcement
            set
              digest = $2, made_at = now(), made_by = $3, readers = $4, made = $5, checked_at = null, found = null,
              accepted_reason = null, accepted_by = null, accepted_at = null, version = version + 1
            where source_id = $1`,
          [source.id, digest, who.id, JSON.stringify(told), JSON.stringify(made)],
        );
        await record(tx, who, 'made', await about(tx, source), row.madeAt ? summary(row.readers) : null, summary(told));
      });
    });
  });
  return check(db, config, source, WAITED).then(() => enforcementOf(db, who, sourceId));
}

const summary = (readers: Row['readers']) =>
  Object.fromEntries(readers.map(({ role, logins, rights, views }) => [role, { logins, rights, views }]));

/** Takes back all that was made at a source. @throws 403, 404, 409, 422, 502 */
export async function endEnforcement(
  db: Database,
  config: Config,
  who: Who,
  sourceId: string,
): Promise<EnforcementAnswer> {
  const { source, row } = await makeable(db, who, sourceId);
  await withEnforcer(await enforcerInput(db, config, source.id, row), async (client) => {
    const { before } = await readThere(client);
    await db.transaction(async (tx) => {
      await tx.rows('select from enforcement where source_id = $1 for update', [source.id]);
      await run(client, undoing(before, false), async () => {
        await tx.run(
          `
            update enforcement
            set
              digest = null, made_at = null, made_by = null, readers = '[]', made = '[]', checked_at = null, found = null,
              accepted_reason = null, accepted_by = null, accepted_at = null, version = version + 1
            where source_id = $1`,
          [source.id],
        );
        await record(tx, who, 'taken back', await about(tx, source), summary(row.readers), null);
      });
    });
  });
  return enforcementOf(db, who, sourceId);
}

/** Looks at a source now. @param accept why what was changed by hand stays; null to look only. @throws 403, 404, 409, 422, 502 */
export async function checkEnforcement(
  db: Database,
  config: Config,
  who: Who,
  sourceId: string,
  accept: string | null,
): Promise<EnforcementAnswer> {
  const { source, row } = await makeable(db, who, sourceId);
  if (row.madeAt === null)
    throw invalid('Nothing was made there that could be looked at.', 'Plan it and make it first.');
  if (accept !== null)
    await withEnforcer(await enforcerInput(db, config, source.id, row), async (client) => {
      const { made } = await readThere(client);
      await db.transaction(async (tx) => {
        await tx.run(
          `
            update enforcement
            set made = $2, accepted_reason = $3, accepted_by = $4, accepted_at = now(), version = version + 1
            where source_id = $1`,
          [source.id, JSON.stringify(made), accept, who.id],
        );
        const drift = drifted(row.made, made).map(({ what, words }) => `${words}: ${what}`);
        await record(tx, who, 'accepted', await about(tx, source), null, {
          reason: accept,
          changes: drift.slice(0, SHOWN),
        });
      });
    });
  const problem = await check(db, config, source, WAITED);
  if (problem) throw problem;
  return enforcementOf(db, who, sourceId);
}

/** What was changed by hand, with since when at the earliest and who could read by it. */
async function driftTold(db: Db, sourceId: string, row: Row, there: There) {
  const drift = drifted(row.made, there.made).slice(0, SHOWN);
  if (drift.length === 0) return [];
  const said = await readLogins(db, sourceId, await readPeople(db, null));
  // Who was in a role when it was left so, and who is now: both could read by it.
  const inRole = new Map<string, Set<string>>();
  for (const { key, by } of [...row.made, ...there.made]) {
    const role = key.startsWith('member ') ? key.slice('member '.length).split('\u001f')[0] : undefined;
    if (role && by) inRole.set(role, (inRole.get(role) ?? new Set()).add(by));
  }
  const named = (login: string): string[] => {
    const people = said.get(login)?.people ?? [];
    return people.length > 0 ? people.map(({ name }) => name) : [login];
  };
  const before = new Map((row.found?.drift ?? []).map((one) => [`${one.what} ${one.words}`, one.after]));
  const seen = (row.checkedAt ?? row.madeAt ?? new Date()).toISOString();
  return drift.map(({ what, words, by }) => ({
    what,
    words,
    after: before.get(`${what} ${words}`) ?? seen,
    readers: by === null ? [] : [...new Set([...(inRole.get(by) ?? [by])].flatMap(named))],
  }));
}

/** Reads a source as its readers do, and keeps what was found. @returns the problem that stood in the way, which is kept as well */
async function check(
  db: Database,
  config: Config,
  source: Pick<SourceFacts, 'id' | 'name' | 'domainId'>,
  seconds: number,
): Promise<ApiProblem | SourceProblem | undefined> {
  const row = await readRow(db, source.id);
  if (!row?.madeAt) return undefined;
  let found: NonNullable<Row['found']>;
  let problem: ApiProblem | SourceProblem | undefined;
  try {
    const wanted = await desired(db, source.id);
    found = await withEnforcer(await enforcerInput(db, config, source.id, row), async (client) => {
      const there = await readThere(client);
      const plan = planned(wanted, there);
      return {
        ...(await checkReading(client, plan.readers, seconds, row.found ?? { differences: [], next: 0 })),
        drift: await driftTold(db, source.id, row, there),
        outdated: digestOf(plan.readers) !== row.digest,
        problem: null,
      };
    });
  } catch (error) {
    if (!(error instanceof ApiProblem) && !(error instanceof SourceProblem)) throw error;
    problem = error;
    found = {
      ...(row.found ?? { looked: 0, of: 0, differences: [], drift: [], outdated: false, next: 0 }),
      problem: error.message,
    };
  }
  await db.transaction(async (tx) => {
    await tx.run('update enforcement set checked_at = now(), found = $2 where source_id = $1 and digest = $3', [
      source.id,
      JSON.stringify(found),
      row.digest,
    ]);
    // What was found newly is told once: it is looked for every hour.
    const news = newly(row.found, found);
    if (news.length > 0) await record(tx, service('check'), 'found', await about(tx, source), null, { differs: news });
  });
  return problem;
}

const wordsOf = (found: Row['found']): string[] =>
  found
    ? [
        ...found.differences.map(({ table, what, role }) => `${role}, ${table}: ${what}`),
        ...found.drift.map(({ what, words }) => `${words}: ${what}`),
        ...(found.outdated ? ['the policies say otherwise now'] : []),
      ]
    : [];
function newly(before: Row['found'], now: NonNullable<Row['found']>): string[] {
  const known = new Set(wordsOf(before));
  return wordsOf(now)
    .filter((words) => !known.has(words))
    .slice(0, SHOWN);
}

/** Looks at what was made at sources, one at a time: each once an hour, and soon after its scan. @returns the name of the one that was looked at */
export async function tendEnforcements(db: Database, config: Config): Promise<string | undefined> {
  const due = await db.one<{ id: string; name: string; domainId: string }>(`
    select s.id, s.name, s.domain_id as "domainId"
    from enforcement e
    join source s on s.id = e.source_id
    where e.made_at is not null
      and (
        e.checked_at is null
        or e.checked_at < now() - interval '1 hour'
        or exists (select from scan_run r where r.source_id = s.id and r.ended_at > e.checked_at))
    order by e.checked_at nulls first
    limit 1`);
  if (!due) return undefined;
  try {
    await check(db, config, due, BY_ITSELF);
  } catch (error) {
    // What goes wrong here is looked at again as late as all else is.
    await db.run('update enforcement set checked_at = now() where source_id = $1', [due.id]);
    throw error;
  }
  return due.name;
}
