import type { Mask } from '../maskKinds.ts';
import type { Hours } from '../types.ts';
import type { FileEntry, FileFlaw, PolicyInFile } from './types.ts';

/**
 * Policies in the Open Digital Rights Language (W3C Recommendation, ODRL Information Model 2.2), as JSON-LD. What ODRL has words for stands in these: permission,
 * prohibition, duty, parties, assets, constraints by time and purpose. The rest (filters, masks, limits of rows) stands in refinements of a profile of our own.
 */
const PROFILE = 'urn:idrel:odrl:';
const CONTEXT = {
  odrl: 'http://www.w3.org/ns/odrl/2/',
  dct: 'http://purl.org/dc/terms/',
  rdf: 'http://www.w3.org/1999/02/22-rdf-syntax-ns#',
  xsd: 'http://www.w3.org/2001/XMLSchema#',
  vcard: 'http://www.w3.org/2006/vcard/ns#',
  idrel: PROFILE,
} as const;

type Json = Record<string, unknown>;
const iri = (kind: string, name: string): string => `urn:idrel:${kind}:${encodeURIComponent(name)}`;

const constraint = (left: string, operator: string, right: unknown): Json => ({
  '@type': 'odrl:Constraint',
  'odrl:leftOperand': { '@id': left },
  'odrl:operator': { '@id': `odrl:${operator}` },
  'odrl:rightOperand': right,
});
const lists = (left: string, operator: string, values: readonly string[] | undefined): Json[] =>
  values === undefined || values.length === 0 ? [] : [constraint(left, operator, values)];
/** What has no words in ODRL is told as JSON, so that nothing is lost. */
const said = (left: string, value: unknown): Json[] =>
  value === undefined ? [] : [constraint(left, 'eq', { '@type': '@json', '@value': value })];

function partyOf({ everyone, groups = [], people = [] }: PolicyInFile['for']): Json[] {
  return [
    ...(everyone ? [{ '@id': iri('party', 'everyone'), '@type': 'odrl:PartyCollection' }] : []),
    ...groups.map((name) => ({ '@id': iri('group', name), '@type': 'odrl:PartyCollection', 'vcard:fn': name })),
    ...people.map((email) => ({ '@id': `mailto:${email}`, '@type': 'odrl:Party' })),
  ];
}

function targetOf({ assets = [], classes, filter, columns, allBut, carried }: PolicyInFile['on']): Json[] {
  const refinement = [
    ...lists('idrel:class', 'isAnyOf', classes),
    ...said('idrel:filter', filter),
    ...lists('idrel:column', 'isAnyOf', columns),
    ...lists('idrel:column', 'isNoneOf', allBut),
    ...said('idrel:carried', carried || undefined),
  ];
  const refined = refinement.length > 0 ? { 'odrl:refinement': refinement } : {};
  return assets.length === 0
    ? [{ '@type': 'odrl:AssetCollection', ...refined }]
    : assets.map((address) => ({
        '@type': refinement.length > 0 ? 'odrl:AssetCollection' : 'odrl:Asset',
        ...(refinement.length > 0
          ? { 'odrl:source': { '@id': iri('asset', address) } }
          : { '@id': iri('asset', address) }),
        ...refined,
      }));
}

/** One policy as a set of ODRL. */
function toSet(policy: PolicyInFile): Json {
  const { name, effect, enabled, until, hours, purposes, mask, rows } = policy;
  const constraints = [
    ...(until === undefined ? [] : [constraint('odrl:dateTime', 'lt', { '@type': 'xsd:dateTime', '@value': until })]),
    ...lists('odrl:purpose', 'isAnyOf', purposes),
    ...said('idrel:hours', hours),
    ...lists('idrel:group', 'isNoneOf', policy.for.exceptGroups),
  ];
  const duties = [
    ...(mask === undefined
      ? []
      : [{ 'odrl:action': { 'rdf:value': { '@id': 'odrl:anonymize' }, 'odrl:refinement': said('idrel:mask', mask) } }]),
    ...(rows === undefined
      ? []
      : [
          { 'odrl:action': { 'rdf:value': { '@id': 'idrel:limitRows' }, 'odrl:refinement': said('idrel:rows', rows) } },
        ]),
  ];
  const rule: Json = {
    'odrl:target': targetOf(policy.on),
    'odrl:assignee': partyOf(policy.for),
    'odrl:action': [
      { '@id': policy.opens === undefined || policy.opens === 'read' ? 'odrl:read' : `idrel:${policy.opens}` },
      ...(policy.passesOn ? [{ '@id': 'odrl:grantUse' }] : []),
    ],
    ...(constraints.length > 0 ? { 'odrl:constraint': constraints } : {}),
    ...(duties.length > 0 ? { 'odrl:duty': duties } : {}),
  };
  return {
    '@id': iri('policy', name),
    '@type': 'odrl:Set',
    'odrl:profile': { '@id': PROFILE },
    'dct:title': name,
    ...(enabled === false ? { 'idrel:enabled': false } : {}),
    [effect === 'deny' ? 'odrl:prohibition' : 'odrl:permission']: [
      // What protects opens nothing: it says what must be done where something else opens it.
      effect === 'protect' ? { ...rule, 'idrel:opens': false } : rule,
    ],
  };
}

/** Policies as ODRL. Nothing needs to be fetched to read it: what its words mean stands in it. */
export const toOdrl = (policies: readonly PolicyInFile[]): string =>
  `${JSON.stringify({ '@context': CONTEXT, '@graph': policies.map(toSet) }, null, 2)}\n`;

const ODRL = CONTEXT.odrl;
/** Nodes of JSON-LD as they are when it is expanded: each property a list. */
type Node = { readonly '@id'?: string; readonly '@type'?: readonly string[] | string; readonly '@value'?: unknown } & {
  readonly [property: string]: unknown;
};
const all = (node: Node | undefined, property: string): Node[] => {
  const found = node?.[property];
  return Array.isArray(found) ? (found as Node[]) : [];
};
const first = (node: Node | undefined, property: string): Node | undefined => all(node, property)[0];
function named(kind: string, id: string | undefined): string | undefined {
  const start = `urn:idrel:${kind}:`;
  if (!id?.startsWith(start)) return undefined;
  try {
    return decodeURIComponent(id.slice(start.length));
  } catch {
    throw new Unsaid(`${id} cannot be read`, 'Write its name as part of an address: %20 for a space.');
  }
}
/** What a node may say of ODRL; what else it says is not passed over. */
function only(node: Node, what: string, properties: readonly string[]): void {
  const other = Object.keys(node).find(
    (key) => key.startsWith(ODRL) && !properties.includes(key.slice(ODRL.length)) && key !== `${ODRL}uid`,
  );
  if (other) throw new Unsaid(`${what} says ${other}, which means nothing here`, 'Leave it out.');
}

class Unsaid extends Error {
  readonly mend: string;
  constructor(what: string, mend: string) {
    super(what);
    this.mend = mend;
  }
}

/** Constraints by their left operands, with the values and the operator; each is used up, so that none is passed over. */
function constraintsOf(node: Node | undefined, property: string): Map<string, { operator: string; values: unknown[] }> {
  const found = new Map(
    all(node, property).map((one) => {
      only(one, 'a constraint', ['leftOperand', 'operator', 'rightOperand']);
      const left = first(one, `${ODRL}leftOperand`)?.['@id'] ?? '';
      const operator = (first(one, `${ODRL}operator`)?.['@id'] ?? '').slice(ODRL.length);
      const values = all(one, `${ODRL}rightOperand`).map((value) => value['@value'] ?? value['@id']);
      return [`${left} ${operator}`, { operator, values }] as const;
    }),
  );
  if (found.size < all(node, property).length)
    throw new Unsaid('it has two constraints of one kind', 'Put them together, or make sets of their own.');
  return found;
}
function taker(constraints: Map<string, { operator: string; values: unknown[] }>) {
  const take = (left: string, operator: string): unknown[] | undefined => {
    const key = `${left} ${operator}`;
    const found = constraints.get(key);
    constraints.delete(key);
    return found?.values;
  };
  const done = () => {
    const [left] = constraints.keys();
    if (left !== undefined)
      throw new Unsaid(
        `a constraint by ${left} is nothing that a policy can hold by here`,
        'Leave it out, or say it by a filter.',
      );
  };
  return { take, done };
}

const [PREVIEW, SEE, GRANT_USE] = [`${PROFILE}preview`, `${PROFILE}see`, `${ODRL}grantUse`];
const ACTIONS: ReadonlySet<string> = new Set([`${ODRL}read`, `${ODRL}use`, PREVIEW, SEE]);

function fromSet(set: Node): PolicyInFile {
  const name =
    (first(set, `${CONTEXT.dct}title`)?.['@value'] as string | undefined) ?? named('policy', set['@id']) ?? set['@id'];
  const rules = ['permission', 'prohibition', 'obligation'].flatMap((kind) =>
    all(set, `${ODRL}${kind}`).map((rule) => ({ kind, rule })),
  );
  const [one, more] = rules;
  if (!name) throw new Unsaid('it has no name', 'Give it a dct:title.');
  if (!one || more || one.kind === 'obligation')
    throw new Unsaid('it is not one permission or one prohibition', 'Make a set of its own of each rule.');
  const { rule, kind } = one;
  only(set, 'the set', ['profile', 'permission', 'prohibition', 'obligation']);
  only(rule, 'its rule', ['target', 'assignee', 'assigner', 'action', 'constraint', 'duty']);
  const actions = all(rule, `${ODRL}action`).map((action) => action['@id'] ?? '');
  const [action, other] = actions.filter((one) => one !== GRANT_USE);
  if (action === undefined || other !== undefined || !ACTIONS.has(action))
    throw new Unsaid(
      `its action is ${other === undefined ? (action ?? 'not said') : `${action} and ${other}`}`,
      'Here policies are about odrl:read, idrel:preview or idrel:see; odrl:grantUse beside it lets it be given on.',
    );
  const { take, done } = taker(constraintsOf(rule, `${ODRL}constraint`));
  const [until] = (take(`${ODRL}dateTime`, 'lt') ?? take(`${ODRL}dateTime`, 'lteq') ?? []) as string[];
  const purposes = take(`${ODRL}purpose`, 'isAnyOf') ?? take(`${ODRL}purpose`, 'eq');
  const [hours] = (take(`${PROFILE}hours`, 'eq') ?? []) as Hours[];
  const exceptGroups = take(`${PROFILE}group`, 'isNoneOf') as string[] | undefined;
  done();
  const parties = all(rule, `${ODRL}assignee`).map(({ '@id': id }) => id);
  const groups = parties.flatMap((id) => named('group', id) ?? []);
  const people = parties.flatMap((id) => (id?.startsWith('mailto:') ? [id.slice('mailto:'.length)] : []));
  const everyone = parties.some((id) => named('party', id) === 'everyone');
  const strange = parties.find(
    (id) => !id?.startsWith('mailto:') && named('group', id) === undefined && named('party', id) === undefined,
  );
  if (parties.length === 0 || strange !== undefined)
    throw new Unsaid(
      strange ? `${strange} is nobody that is known here` : 'it says for nobody',
      'Name people by mailto:, groups by urn:idrel:group:.',
    );
  const targets = all(rule, `${ODRL}target`);
  const idOf = (target: Node) => target['@id'] ?? first(target, `${ODRL}source`)?.['@id'];
  for (const target of targets) {
    only(target, 'its target', ['source', 'refinement']);
    const id = idOf(target);
    if (id !== undefined && named('asset', id) === undefined)
      throw new Unsaid(`${id} is nothing that is known here`, 'Name assets by urn:idrel:asset: and their address.');
  }
  const refinements = new Set(targets.map((target) => JSON.stringify(target[`${ODRL}refinement`] ?? null)));
  if (
    targets.length === 0 ||
    refinements.size > 1 ||
    new Set(targets.map((target) => idOf(target) === undefined)).size > 1
  )
    throw new Unsaid(
      targets.length === 0 ? 'it is about nothing' : 'its targets are refined in different ways',
      'Make a set of its own of each target.',
    );
  const refined = taker(constraintsOf(targets[0], `${ODRL}refinement`));
  const on: PolicyInFile['on'] = {
    assets: targets.flatMap((target) => named('asset', idOf(target)) ?? []),
    classes: (refined.take(`${PROFILE}class`, 'isAnyOf') ?? []) as string[],
    columns: (refined.take(`${PROFILE}column`, 'isAnyOf') ?? []) as string[],
    allBut: (refined.take(`${PROFILE}column`, 'isNoneOf') ?? []) as string[],
    carried: refined.take(`${PROFILE}carried`, 'eq')?.[0] === true,
  };
  const [filter] = (refined.take(`${PROFILE}filter`, 'eq') ?? []) as string[];
  refined.done();
  const duties = new Map(
    all(rule, `${ODRL}duty`).map((duty) => {
      const what = first(duty, `${ODRL}action`);
      const [[, { values }] = ['', { values: [] as unknown[] }]] = constraintsOf(what, `${ODRL}refinement`);
      return [first(what, `${CONTEXT.rdf}value`)?.['@id'] ?? what?.['@id'] ?? '', values[0]];
    }),
  );
  const mask = duties.get(`${ODRL}anonymize`) as Mask | undefined;
  const rows = duties.get(`${PROFILE}limitRows`) as PolicyInFile['rows'] | undefined;
  const odd = [...duties.keys()].find((duty) => ![`${ODRL}anonymize`, `${PROFILE}limitRows`].includes(duty));
  if (odd !== undefined) throw new Unsaid(`it asks for ${odd}`, 'Here a duty masks values or limits rows.');
  const protects = first(rule, `${PROFILE}opens`)?.['@value'] === false;
  if (!protects && duties.size > 0)
    throw new Unsaid(
      'it opens and protects at once',
      'Make a set of its own of what protects, with idrel:opens false.',
    );
  return {
    name,
    effect: kind === 'prohibition' ? 'deny' : protects ? 'protect' : 'allow',
    ...(first(set, `${PROFILE}enabled`)?.['@value'] === false ? { enabled: false } : {}),
    for: { everyone, groups, people, ...(exceptGroups ? { exceptGroups } : {}) },
    on: { ...on, ...(filter === undefined ? {} : { filter }) },
    ...(mask === undefined ? {} : { mask }),
    ...(rows === undefined ? {} : { rows }),
    ...(until === undefined ? {} : { until }),
    ...(hours === undefined ? {} : { hours }),
    ...(purposes === undefined ? {} : { purposes: purposes as string[] }),
    ...(action === PREVIEW ? { opens: 'preview' as const } : {}),
    ...(action === SEE ? { opens: 'see' as const } : {}),
    ...(actions.includes(GRANT_USE) ? { passesOn: true } : {}),
  };
}

/** Entries of a file in ODRL. @param nodes its JSON-LD, expanded */
export function fromOdrl(nodes: readonly unknown[]): { readonly entries: FileEntry[]; readonly flaws: FileFlaw[] } {
  const entries: FileEntry[] = [];
  const flaws: FileFlaw[] = [];
  const KINDS = ['Set', 'Offer', 'Agreement', 'Policy'].map((kind) => `${ODRL}${kind}`);
  for (const node of nodes as Node[]) {
    if (![node['@type'] ?? []].flat().some((type) => KINDS.includes(type))) continue;
    const at = node['@id'] ?? 'a policy without a name';
    try {
      entries.push({ at, policy: fromSet(node) });
    } catch (error) {
      if (!(error instanceof Unsaid)) throw error;
      flaws.push({ at, what: `The policy is not taken: ${error.message}.`, mend: error.mend });
    }
  }
  if (entries.length + flaws.length === 0)
    flaws.push({
      at: 'the file',
      what: 'There is no policy of ODRL in it.',
      mend: 'It holds sets, offers or agreements.',
    });
  return { entries, flaws };
}
