/** Roles, and what each includes beside itself. */
export const INCLUDES = {
  reader: [],
  editor: ['reader'],
  steward: ['editor', 'reader'],
  'source administrator': ['reader'],
  'policy administrator': ['reader'],
  administrator: ['reader', 'editor', 'steward', 'source administrator', 'policy administrator'],
} as const satisfies Readonly<Record<string, readonly string[]>>;
export type Role = keyof typeof INCLUDES;
const ORDER = Object.keys(INCLUDES) as Role[];

/** Whether who has one role may do what the other may. */
export const includes = (has: Role, wanted: Role): boolean =>
  has === wanted || (INCLUDES[has] as readonly Role[]).includes(wanted);

/** A role that somebody was given in a domain, and so in those below it; null: everywhere. */
export interface Given {
  readonly person: string;
  readonly role: Role;
  readonly domain: string | null;
}

/** Domains from the one meant up to the topmost. @throws never, also where a parent is missing or a circle was written */
export function chainOf(domain: string | null, parents: ReadonlyMap<string, string | null>): string[] {
  const chain: string[] = [];
  for (let at = domain; at !== null && !chain.includes(at); at = parents.get(at) ?? null) chain.push(at);
  return chain;
}

/** Without those that another one includes. */
const greatest = (roles: Iterable<Role>): Role[] => {
  const all = [...new Set(roles)];
  return ORDER.filter((role) => all.includes(role) && !all.some((other) => other !== role && includes(other, role)));
};

export interface RightsChange {
  readonly person: string;
  readonly gains: readonly Role[];
  readonly loses: readonly Role[];
  /** Domains within what moves where a role of their own keeps them some of what they lose. */
  readonly keepsIn: readonly string[];
}

/**
 * Whose rights become other ones in what lay in one chain of domains and will lie in another, and which.
 * @param given all roles that were given in either chain, in `within`, or everywhere
 * @param within domains that move along: roles given there stay as they are
 */
export function rightsChange(
  given: readonly Given[],
  before: readonly string[],
  after: readonly string[],
  within: readonly string[] = [],
): RightsChange[] {
  const people = new Map<string, Given[]>();
  for (const one of given) people.set(one.person, [...(people.get(one.person) ?? []), one]);
  const [were, will, inside] = [new Set(before), new Set(after), new Set(within)];
  const rolesIn = (grants: readonly Given[], chain: ReadonlySet<string>) =>
    grants.filter(({ domain }) => domain === null || chain.has(domain)).map(({ role }) => role);
  return [...people].flatMap(([person, grants]) => {
    const [had, has] = [rolesIn(grants, were), rolesIn(grants, will)];
    const expanded = (roles: readonly Role[]) => ORDER.filter((role) => roles.some((one) => includes(one, role)));
    const [could, can] = [expanded(had), expanded(has)];
    const gains = greatest(can.filter((role) => !could.includes(role)));
    const loses = greatest(could.filter((role) => !can.includes(role)));
    if (gains.length + loses.length === 0) return [];
    const keepsIn = grants
      .filter(
        ({ domain, role }) =>
          domain !== null && inside.has(domain) && loses.some((lost) => includes(role, lost) || includes(lost, role)),
      )
      .flatMap(({ domain }) => domain ?? []);
    return [{ person, gains, loses, keepsIn: loses.length > 0 ? [...new Set(keepsIn)] : [] }];
  });
}
