import type { Grant, Role } from '@idrel/contract/people';
import { INCLUDES, includes } from '@idrel/core/people';
import type { Db } from '../platform/database.ts';
import { forbidden } from '../platform/problems.ts';

interface GrantRow {
  role: Role;
  domain_id: string | null;
  domain: string | null;
}
/** An organisation that something is shared with. */
interface Partner {
  readonly id: string;
  readonly name: string;
  readonly leads: boolean;
}
interface DomainRow {
  id: string;
  parent_id: string | null;
}
/** Assets of a domain that policies let somebody see (`asset.opened_id`). */
interface SightRow {
  id: string;
  domain_id: string;
}

/** A person who asks for something, with their roles spread over the tree of domains. */
export class Who {
  readonly kind = 'person';
  readonly id: string;
  readonly name: string;
  readonly job: string;
  readonly grants: readonly Grant[];
  /** The partner organisation that they are of, and whether they speak for it; null for people of this one. */
  readonly partner: Partner | null;
  /** By which key of theirs a program asks for them; null where they ask themselves. */
  readonly key: { readonly id: string; readonly name: string } | null;
  /** Domains that the person was given a role in, by name, with those below: where they work. */
  readonly ownDomains: readonly string[];
  readonly #domains = new Map<Role, Set<string>>();
  readonly #sights: readonly SightRow[];

  constructor(
    person: { id: string; name: string; job: string },
    grants: readonly GrantRow[],
    domains: readonly DomainRow[],
    partner: Partner | null = null,
    sights: readonly SightRow[] = [],
    kept: Pick<Who, 'key' | 'grants' | 'ownDomains'> | null = null,
  ) {
    this.partner = partner;
    this.key = kept?.key ?? null;
    this.#sights = sights;
    this.id = person.id;
    this.name = person.name;
    this.job = person.job;
    this.grants = kept?.grants ?? grants.map((grant) => ({ role: grant.role, domain: grant.domain }));
    const children = new Map<string | null, string[]>();
    for (const domain of domains)
      children.set(domain.parent_id, [...(children.get(domain.parent_id) ?? []), domain.id]);
    const below = (id: string | null): string[] =>
      (children.get(id) ?? []).flatMap((child) => [child, ...below(child)]);
    this.ownDomains =
      kept?.ownDomains ?? grants.flatMap(({ domain_id: id }) => (id === null ? [] : [id, ...below(id)]));
    for (const grant of grants) {
      const reached =
        grant.domain_id === null ? domains.map((domain) => domain.id) : [grant.domain_id, ...below(grant.domain_id)];
      for (const role of [grant.role, ...INCLUDES[grant.role]]) {
        const known = this.#domains.get(role) ?? new Set<string>();
        for (const id of reached) known.add(id);
        this.#domains.set(role, known);
      }
    }
  }

  /**
   * The person as somebody sees the catalog who looks at it as them: a reader where they are one and the other administers policies, and nothing else.
   * @param looker who looks
   */
  asSeenBy(looker: Who): Who {
    const near = new Set(looker.domainsAs('policy administrator'));
    const sights = this.#sights.filter(({ domain_id }) => near.has(domain_id));
    const seen = new Who(this, [], [], this.partner, sights);
    const read = [...(this.#domains.get('reader') ?? [])].filter((id) => near.has(id));
    seen.#domains.set('reader', new Set(read));
    return seen;
  }

  /**
   * The person as far as a key goes that they gave to a program. One that holds for some domains is nobody's everywhere.
   * @param domains ids of those in which it holds, with those below; null: wherever they have rights
   */
  byKey(key: NonNullable<Who['key']>, domains: ReadonlySet<string> | null): Who {
    const holds = (id: string) => domains === null || domains.has(id);
    const seen = new Who(
      this,
      [],
      [],
      this.partner,
      this.#sights.filter((sight) => holds(sight.domain_id)),
      {
        key,
        grants: domains === null ? this.grants : [],
        ownDomains: this.ownDomains.filter(holds),
      },
    );
    for (const [role, ids] of this.#domains) seen.#domains.set(role, new Set([...ids].filter(holds)));
    return seen;
  }

  /**
   * Domains in which the person has the role, by grant or by inheritance; of what they read also the sights that policies open to them, by which they see assets of
   * others. Whatever asks for the domain alone, of a source or a run, finds nothing by these.
   */
  domainsAs(role: Role): string[] {
    return [...(this.#domains.get(role) ?? []), ...(role === 'reader' ? this.#sights.map(({ id }) => id) : [])];
  }

  /** Of what they read only what policies let them see without a role in its domain. */
  openedSights(): string[] {
    return this.#sights.filter(({ domain_id }) => !this.is('reader', domain_id)).map(({ id }) => id);
  }

  is(role: Role, domainId: string): boolean {
    return this.#domains.get(role)?.has(domainId) ?? false;
  }

  isAnywhere(role: Role): boolean {
    return (this.#domains.get(role)?.size ?? 0) > 0;
  }

  isEverywhere(role: Role): boolean {
    return this.grants.some((grant) => grant.domain === null && includes(grant.role, role));
  }

  /** @throws 403 when the person does not have the role there */
  must(role: Role, domainId: string): void {
    if (!this.is(role, domainId)) throw forbidden(`${role} in this domain`);
  }

  mustAnywhere(role: Role): void {
    if (!this.isAnywhere(role)) throw forbidden(`${role} in at least one domain`);
  }

  mustEverywhere(role: Role): void {
    if (!this.isEverywhere(role)) throw forbidden(`${role} everywhere`);
  }
}

interface WhoRow {
  id: string;
  name: string;
  job: string;
  grants: GrantRow[];
  domains: DomainRow[];
  partner: Partner | null;
  sights: SightRow[];
}

/** Of a person `p`, all that decides on their rights: it is asked for with every request, so in one question. */
const WHO = `
  p.id, p.name, p.job,
  coalesce((
    select json_agg(json_build_object('role', g.role, 'domain_id', g.domain_id, 'domain', d.name))
    from role_grant g
    left join domain d on d.id = g.domain_id
    where g.person_id = p.id
  ), '[]') as grants,
  (select coalesce(json_agg(json_build_object('id', id, 'parent_id', parent_id)), '[]') from domain) as domains,
  (select json_build_object('id', q.id, 'name', q.name, 'leads', p.leads) from partner q where q.id = p.partner_id) as partner,
  (
    select coalesce(json_agg(json_build_object('id', x.id, 'domain_id', x.domain_id)), '[]')
    from sight x
    where x.policy_ids && array(select sees_by(p.id))
  ) as sights`;
const whoOf = (row: WhoRow): Who => new Who(row, row.grants, row.domains, row.partner, row.sights);

/** Loads a person with roles; undefined when there is none of that id. */
export async function loadWho(db: Db, personId: string): Promise<Who | undefined> {
  const row = await db.one<WhoRow>(`select ${WHO} from person p where p.id = $1 and p.left_at is null`, [personId]);
  return row && whoOf(row);
}

/** The person of an open session, and the token that its changes carry. */
export async function whoInSession(
  db: Db,
  tokenHash: Buffer,
): Promise<
  { readonly who: Who; readonly csrf: string; readonly seenAt: Date; readonly lookingAs: string | null } | undefined
> {
  const [row] = await db.often<WhoRow & { csrf: string; seen_at: string; as_person: string | null }>(
    `select s.csrf, s.seen_at, s.as_person, ${WHO} from session s join person p on p.id = s.person_id where s.token_hash = $1 and s.expires_at > now() and p.left_at is null`,
    [tokenHash],
  );
  return row && { who: whoOf(row), csrf: row.csrf, seenAt: new Date(row.seen_at), lookingAs: row.as_person };
}
