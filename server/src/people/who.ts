import type { Grant, Role } from '@idrel/contract/people';
import type { Db } from '../platform/database.ts';
import { forbidden } from '../platform/problems.ts';

/** What a role includes beside itself. */
const INCLUDES: Record<Role, readonly Role[]> = {
  reader: [],
  editor: ['reader'],
  steward: ['editor', 'reader'],
  'source administrator': ['reader'],
  'policy administrator': ['reader'],
  administrator: ['reader', 'editor', 'steward', 'source administrator', 'policy administrator'],
};

interface GrantRow {
  role: Role;
  domain_id: string | null;
  domain: string | null;
}
interface DomainRow {
  id: string;
  parent_id: string | null;
}

/** A person who asks for something, with their roles spread over the tree of domains. */
export class Who {
  readonly kind = 'person';
  readonly id: string;
  readonly name: string;
  readonly job: string;
  readonly grants: readonly Grant[];
  readonly #domains = new Map<Role, Set<string>>();

  constructor(
    person: { id: string; name: string; job: string },
    grants: readonly GrantRow[],
    domains: readonly DomainRow[],
  ) {
    this.id = person.id;
    this.name = person.name;
    this.job = person.job;
    this.grants = grants.map((grant) => ({ role: grant.role, domain: grant.domain }));
    const children = new Map<string | null, string[]>();
    for (const domain of domains)
      children.set(domain.parent_id, [...(children.get(domain.parent_id) ?? []), domain.id]);
    const below = (id: string | null): string[] =>
      (children.get(id) ?? []).flatMap((child) => [child, ...below(child)]);
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

  /** Domains in which the person has the role, by grant or by inheritance. */
  domainsAs(role: Role): string[] {
    return [...(this.#domains.get(role) ?? [])];
  }

  is(role: Role, domainId: string): boolean {
    return this.#domains.get(role)?.has(domainId) ?? false;
  }

  isAnywhere(role: Role): boolean {
    return (this.#domains.get(role)?.size ?? 0) > 0;
  }

  isEverywhere(role: Role): boolean {
    return this.grants.some(
      (grant) => grant.domain === null && (grant.role === role || INCLUDES[grant.role].includes(role)),
    );
  }

  /** @throws 403 when the person does not have the role there */
  must(role: Role, domainId: string): void {
    if (!this.is(role, domainId)) throw forbidden(`${role} in this domain`);
  }

  mustAnywhere(role: Role): void {
    if (!this.isAnywhere(role)) throw forbidden(`${role} in at least one domain`);
  }
}

/** Loads a person with roles; undefined when there is none of that id. */
export async function loadWho(db: Db, personId: string): Promise<Who | undefined> {
  const person = await db.one<{ id: string; name: string; job: string }>(
    'select id, name, job from person where id = $1',
    [personId],
  );
  if (!person) return undefined;
  const grants = await db.rows<GrantRow>(
    'select g.role, g.domain_id, d.name as domain from role_grant g left join domain d on d.id = g.domain_id where g.person_id = $1',
    [personId],
  );
  const domains = await db.rows<DomainRow>('select id, parent_id from domain');
  return new Who(person, grants, domains);
}
