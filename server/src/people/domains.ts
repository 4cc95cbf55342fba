import type { DomainAnswer, DomainBody } from '@idrel/contract/people';
import { change, create, type Kept, remove } from '../journal/index.ts';
import type { Db } from '../platform/database.ts';
import { conflict, invalid, notFound } from '../platform/problems.ts';
import type { Held } from './holdings.ts';
import { DOMAIN, type DomainRow } from './models.ts';
import { oneEach } from './passing.ts';
import type { Who } from './who.ts';

const SELECT = `
  select
    d.id, d.parent_id as "parentId", d.name, d.purpose, d.shown_outside as "shownOutside", d.version,
    case when o.id is not null then json_build_object('id', o.id, 'name', o.name, 'job', o.job) end as owner
  from domain d
  left join person o on o.id = d.owner_id`;

export const listDomains = (db: Db): Promise<DomainAnswer[]> => db.rows<DomainAnswer>(`${SELECT} order by d.name`);

/** Domains that a person answers for: those they own, and those below that have no owner of their own. */
export async function ownedDomains(db: Db, personId: string): Promise<string[]> {
  const rows = await db.rows<{ id: string }>(
    `
      with recursive down as (
        select id from domain where owner_id = $1
        union
        select d.id from domain d join down on d.parent_id = down.id where d.owner_id is null
      )
      select id from down`,
    [personId],
  );
  return rows.map(({ id }) => id);
}

const DOMAINS: Kept<DomainRow, DomainAnswer> = {
  thing: 'domain',
  model: DOMAIN,
  async read(db, _who, id) {
    const domain = await db.one<DomainAnswer>(`${SELECT} where d.id = $1`, [id]);
    if (!domain) throw notFound('The domain');
    return domain;
  },
  told: async (db, { name, purpose, owner, parentId, shownOutside }) => ({
    name,
    purpose,
    owner: owner?.name ?? null,
    'lies in': (await db.one<{ name: string }>('select name from domain where id = $1', [parentId]))?.name ?? null,
    'shown outside': shownOutside ? 'yes' : 'no',
  }),
};

/** Holds the tree of domains: two moves at once could close a circle that neither closes by itself. */
const holdTree = (tx: Db): Promise<unknown> => tx.run("select pg_advisory_xact_lock(hashtext('domain.tree'))");

async function ownerMustBeThere(tx: Db, ownerId: string | null): Promise<void> {
  if (
    ownerId !== null &&
    !(await tx.one('select from person where id = $1 and left_at is null and partner_id is null', [ownerId]))
  )
    throw invalid('The owner is not there any more.', 'Choose somebody else, or nobody.', [
      { field: 'ownerId', message: 'is not there' },
    ]);
}

/** @throws 422 when the domain would lie in itself, or in one that is not there */
async function parentMustHold(tx: Db, id: string | null, parentId: string | null): Promise<void> {
  if (parentId === null) return;
  const above = await tx.rows<{ id: string; name: string }>(
    `
      with recursive up as (
        select id, name, parent_id from domain where id = $1
        union
        select d.id, d.name, d.parent_id from domain d join up on up.parent_id = d.id
      )
      select id, name from up`,
    [parentId],
  );
  if (above.length === 0)
    throw invalid('The domain that it would lie in is not there any more.', 'Choose another one.', [
      { field: 'parentId', message: 'is not there' },
    ]);
  if (above.some((domain) => domain.id === id))
    throw invalid('A domain cannot lie in itself, or in one that lies in it.', 'Choose one that does not lie in it.', [
      { field: 'parentId', message: 'lies in the domain itself' },
    ]);
}

export async function addDomain(tx: Db, who: Who, body: DomainBody): Promise<DomainAnswer> {
  who.mustEverywhere('administrator');
  await holdTree(tx);
  await ownerMustBeThere(tx, body.ownerId);
  await parentMustHold(tx, null, body.parentId);
  return create(tx, who, DOMAINS, body);
}

/**
 * Changes a domain; with another parent it moves, with all below it, and roles given above it there hold in it from then on.
 * @throws 403 without the role: in the domain for what is said of it, everywhere to move it
 */
export async function changeDomain(
  tx: Db,
  who: Who,
  id: string,
  version: number,
  body: DomainBody,
): Promise<DomainAnswer> {
  await holdTree(tx);
  const { after } = await change(tx, who, DOMAINS, id, {
    version,
    async values(now) {
      who.must('administrator', id);
      if (now.parentId !== body.parentId) {
        who.mustEverywhere('administrator');
        await parentMustHold(tx, id, body.parentId);
      }
      if (body.ownerId !== now.owner?.id) await ownerMustBeThere(tx, body.ownerId);
      return body;
    },
    action: 'edited',
  });
  return after;
}

/** What can lie in a domain, with what it is called where it stands in the way. */
const LIES_IN: readonly (readonly [sql: string, words: string])[] = [
  ['select d.name from domain d where d.parent_id = $1', 'the domain'],
  ['select s.name from source s where s.domain_id = $1', 'the source'],
  ['select a.name from asset a where a.domain_id = $1', 'the asset'],
  ['select a.name from agent a where a.domain_id = $1', 'the agent'],
  ['select p.name from role_grant r join person p on p.id = r.person_id where r.domain_id = $1', 'a role of'],
];

/**
 * Removes a domain in which nothing lies. What the journal tells of it, and the counts of its days, go to the domain that it lay in, whose readers could see
 * them already.
 * @throws 409 when something lies in it, or when there is no such domain and something is told of it
 */
export async function removeDomain(tx: Db, who: Who, id: string): Promise<void> {
  who.mustEverywhere('administrator');
  await holdTree(tx);
  await remove(tx, who, DOMAINS, id, {
    async unless({ parentId, name }) {
      for (const [sql, words] of LIES_IN) {
        const one = await tx.one<{ name: string }>(`${sql} limit 1`, [id]);
        if (one) throw conflict('still-used', `In it lies ${words} “${one.name}”.`, 'Move or remove that first.');
      }
      if (parentId === null && (await tx.one('select from journal where domain_id = $1 limit 1', [id])))
        throw conflict(
          'still-used',
          `The journal tells of what lay in ${name}, and of no domain above it that this could go to.`,
          'Move it into another domain first, then remove it.',
        );
      await tx.run('update journal set domain_id = $2 where domain_id = $1', [id, parentId]);
      await tx.run(
        'update journal set domain_ids = array_replace(domain_ids, $1::uuid, $2::uuid) where $1::uuid = any(domain_ids)',
        [id, parentId],
      );
      await tx.run(
        `
          insert into level_day (day, source_id, domain_id, kind, level, assets)
          select day, source_id, $2::uuid, kind, level, assets from level_day where domain_id = $1 and $2::uuid is not null
          on conflict (source_id, day, domain_id, kind, level)
          do update set assets = level_day.assets + excluded.assets`,
        [id, parentId],
      );
      await tx.run('delete from level_day where domain_id = $1', [id]);
      // Nothing lies in it any more: what it once held is told of where that would have counted, too.
      await tx.run(
        'update coverage_span set domain_id = $2, until_day = coalesce(until_day, current_date) where domain_id = $1 and $2::uuid is not null and from_day < current_date',
        [id, parentId],
      );
    },
  });
}

export const DOMAINS_HELD: readonly Held[] = [
  oneEach({
    what: 'domains',
    after: 'They go to whom you choose, with what lies in them and has no owner of its own.',
    thing: 'domain',
    table: 'domain',
    column: 'owner_id',
    word: 'owner',
    address: "'/settings/domains?domain=' || x.id",
  }),
];
