import type { AnswerOf } from '@idrel/contract/http';
import type { DomainRight, domainEndpoints, MoveEffect } from '@idrel/contract/people';
import { chainOf, type Given, includes, type Role, rightsChange } from '@idrel/core/people';
import type { Db } from '../platform/database.ts';
import { notFound } from '../platform/problems.ts';
import { getPerson } from './manage.ts';
import type { Who } from './who.ts';

const TOLD = 200;

interface Domain {
  readonly id: string;
  readonly name: string;
  readonly parentId: string | null;
}
const tree = (db: Db): Promise<Domain[]> =>
  db.rows<Domain>('select id, name, parent_id as "parentId" from domain order by lower(name)');
const parentsOf = (domains: readonly Domain[]) => new Map(domains.map(({ id, parentId }) => [id, parentId]));

const GIVEN = `
  select r.person_id as person, r.role, r.domain_id as domain
  from role_grant r
  join person p on p.id = r.person_id and p.left_at is null
  where r.domain_id is null or r.domain_id = any($1::uuid[])`;

/** What is different for people in something whose domains above are other ones. */
async function effectOf(
  db: Db,
  domains: readonly Domain[],
  { before, after, within }: { before: readonly string[]; after: readonly string[]; within: readonly string[] },
): Promise<MoveEffect> {
  const given = await db.rows<Given>(GIVEN, [[...new Set([...before, ...after, ...within])]]);
  const changes = rightsChange(given, before, after, within);
  const names = new Map(
    (
      await db.rows<{ id: string; name: string }>('select id, name from person where id = any($1::uuid[])', [
        changes.map(({ person }) => person),
      ])
    ).map(({ id, name }) => [id, name]),
  );
  const called = new Map(domains.map(({ id, name }) => [id, name]));
  const people = changes
    .map(({ person, gains, loses, keepsIn }) => ({
      id: person,
      name: names.get(person) ?? '',
      gains: [...gains],
      loses: [...loses],
      keepsIn: keepsIn.map((id) => called.get(id) ?? '').sort(),
    }))
    .sort((a, b) => a.name.localeCompare(b.name));
  const only = (some: readonly string[], others: readonly string[]) => some.filter((id) => !others.includes(id));
  const dismissals = await db.one<MoveEffect['dismissals']>(
    `
      select
        (count(*) filter (where domain_id = any($1::uuid[])))::int as begin,
        (count(*) filter (where domain_id = any($2::uuid[])))::int as end
      from remembered_dismissal
      where domain_id = any($1::uuid[] || $2::uuid[])`,
    [only(after, before), only(before, after)],
  );
  return {
    people: people.slice(0, TOLD),
    peopleCount: people.length,
    dismissals: dismissals ?? { begin: 0, end: 0 },
  };
}

/** What moving a domain below another one, or to the top, would change. @throws 404 when one of them is not there */
export async function domainMoveEffect(db: Db, who: Who, id: string, to: string | null): Promise<MoveEffect> {
  const domains = await tree(db);
  const parents = parentsOf(domains);
  if (!parents.has(id) || (to !== null && !parents.has(to))) throw notFound('The domain');
  who.must('administrator', id);
  const within = domains
    .map((domain) => domain.id)
    .filter((other) => other !== id && chainOf(other, parents).includes(id));
  return effectOf(db, domains, {
    before: chainOf(id, parents),
    after: [id, ...chainOf(to, parents)],
    within,
  });
}

/** What moving a source, with all its assets, from one domain to another would change. @throws 404 when one of them is not there */
export async function moveEffect(db: Db, from: string, to: string): Promise<MoveEffect> {
  const domains = await tree(db);
  const parents = parentsOf(domains);
  if (!parents.has(from) || !parents.has(to)) throw notFound('The domain');
  return effectOf(db, domains, { before: chainOf(from, parents), after: chainOf(to, parents), within: [] });
}

/** Who may do what in a domain, and by what; those nearest to it first. */
export async function domainRights(db: Db, id: string): Promise<AnswerOf<typeof domainEndpoints.rights>> {
  const parents = parentsOf(await tree(db));
  if (!parents.has(id)) throw notFound('The domain');
  const rows = await db.rows<DomainRight & { total: number }>(
    `
      select
        json_build_object('id', p.id, 'name', p.name, 'job', p.job) as person, r.role, d.name as from,
        (count(*) over ())::int as total
      from role_grant r
      join person p on p.id = r.person_id and p.left_at is null
      left join domain d on d.id = r.domain_id
      where r.domain_id is null or r.domain_id = any($1::uuid[])
      order by array_position($1::uuid[], r.domain_id) nulls last, r.role, p.name
      limit ${TOLD}`,
    [chainOf(id, parents)],
  );
  return { rights: rows.map(({ total: _, ...right }) => right), total: rows[0]?.total ?? 0 };
}

/** What a person may do in each domain, and by what; roles that another one includes are left out. */
export async function personRights(
  db: Db,
  who: Who,
  id: string,
): Promise<AnswerOf<typeof domainEndpoints.personRights>> {
  await getPerson(db, who, id);
  const domains = await tree(db);
  const parents = parentsOf(domains);
  const given = await db.rows<{ role: Role; domain: string | null }>(
    'select role, domain_id as domain from role_grant where person_id = $1',
    [id],
  );
  const called = new Map(domains.map((domain) => [domain.id, domain.name]));
  const rolesIn = (domain: string) => {
    const chain = [...chainOf(domain, parents), null];
    const here = given.filter((grant) => chain.includes(grant.domain));
    // The same role twice: by the nearest.
    const nearest = here.filter(
      ({ role, domain: from }) =>
        !here.some((other) => other.role === role && chain.indexOf(other.domain) < chain.indexOf(from)),
    );
    return nearest
      .filter(({ role }) => !nearest.some((other) => other.role !== role && includes(other.role, role)))
      .map(({ role, domain: from }) => ({ role, from: from === null ? null : (called.get(from) ?? '') }));
  };
  const below = (parent: string | null, depth: number): AnswerOf<typeof domainEndpoints.personRights> =>
    domains
      .filter(({ parentId }) => parentId === parent)
      .flatMap((domain) => [
        { domainId: domain.id, domain: domain.name, depth, roles: rolesIn(domain.id) },
        ...below(domain.id, depth + 1),
      ]);
  return below(null, 0);
}
