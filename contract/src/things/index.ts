import { type AssetKind, isAssetKind } from '@idrel/core/things';
import type { Role } from '../people/index.ts';

export { ASSET_KINDS, type AssetKind, isAssetKind, type KindTraits, kindsThat } from '@idrel/core/things';

/**
 * Who sees that there is a thing, and what became of it: whoever may read in its domain; everybody who is signed in; or who has a role in some domain,
 * and for what reaches into several domains in each of them.
 */
export type Visibility = 'in its domain' | 'everybody' | { readonly role: Role; readonly inEachDomain?: true };

export interface ThingFacts {
  /** As it is called within a sentence. */
  readonly label: string;
  /** Where it is shown in the interface; nothing where it has no place of its own. */
  readonly address?: (id: string) => string;
  readonly seen: Visibility;
}

const within = (page: string, name: string) => (id: string) => `${page}${name}=${encodeURIComponent(id)}`;
const recognition = (show: string, name: string) => within(`/recognition?show=${show}&`, name);

/** Whatever can be named, linked, journalled, discussed or hidden, beside the assets themselves (whose kinds stand in `ASSET_KINDS`). */
export const THINGS = {
  asset: { label: 'asset', address: (id) => `/assets/${id}`, seen: 'in its domain' },
  source: { label: 'source', address: (id) => `/sources/${id}`, seen: 'in its domain' },
  'scan plan': { label: 'scan plan', address: (id) => `/plans/${id}`, seen: 'in its domain' },
  run: { label: 'run', address: (id) => `/runs/${id}`, seen: 'in its domain' },
  agent: { label: 'agent', address: () => '/sources/agents', seen: 'in its domain' },
  credential: {
    label: 'credential',
    address: () => '/sources/credentials',
    seen: { role: 'source administrator' },
  },
  finding: { label: 'finding', address: (id) => `/assets/${id}`, seen: 'in its domain' },
  person: { label: 'person', address: within('/settings/people?', 'person'), seen: { role: 'administrator' } },
  group: { label: 'group', address: within('/settings/people?show=groups&', 'group'), seen: 'everybody' },
  domain: { label: 'domain', address: within('/settings/domains?', 'domain'), seen: 'everybody' },
  term: { label: 'term', address: within('/glossary?', 'term'), seen: 'everybody' },
  checklist: { label: 'checklist', address: () => '/settings/checklists', seen: 'everybody' },
  guide: { label: 'guide', address: (id) => `/assets/${id}#guide`, seen: 'in its domain' },
  'guide template': { label: 'template of guides', address: () => '/settings/guides', seen: 'everybody' },
  discussion: { label: 'discussion', seen: 'in its domain' },
  remark: { label: 'remark', seen: 'in its domain' },
  link: { label: 'link', seen: 'in its domain' },
  notice: { label: 'notice', address: (id) => `/assets/${id}`, seen: 'in its domain' },
  scheme: { label: 'scheme', address: within('/glossary?', 'scheme'), seen: 'everybody' },
  tag: { label: 'tag', address: within('/glossary/tags?', 'tag'), seen: 'everybody' },
  'saved search': { label: 'search', address: () => '/catalog/searches', seen: { role: 'administrator' } },
  'kept view': { label: 'picture of lineage', address: within('/lineage?', 'view'), seen: { role: 'administrator' } },
  routine: { label: 'routine', address: within('/routines?', 'routine'), seen: 'everybody' },
  webhook: { label: 'webhook', address: () => '/settings/webhooks', seen: { role: 'administrator' } },
  'coverage target': { label: 'target', address: () => '/coverage?show=targets', seen: 'in its domain' },
  'room price': { label: 'price of room', address: () => '/coverage?show=room', seen: 'everybody' },
  'priority rule': { label: 'rule of priority', address: () => '/settings/priority', seen: 'everybody' },
  'data class': { label: 'data class', address: recognition('classes', 'class'), seen: 'everybody' },
  detector: { label: 'detector', address: recognition('bench', 'detector'), seen: 'everybody' },
  'detector set': { label: 'detector set', address: recognition('sets', 'set'), seen: 'everybody' },
  level: { label: 'level', address: () => '/recognition?show=levels', seen: 'everybody' },
  'level rule': { label: 'rule of levels', address: recognition('levels', 'rule'), seen: 'everybody' },
  'certainty rule': { label: 'rule that confirms', address: recognition('certainty', 'rule'), seen: 'everybody' },
  threshold: { label: 'threshold', address: () => '/recognition?show=certainty', seen: 'everybody' },
  dismissal: { label: 'dismissal', address: () => '/recognition?show=certainty', seen: 'everybody' },
  policy: {
    label: 'policy',
    address: within('/access?', 'edit'),
    seen: { role: 'policy administrator', inEachDomain: true },
  },
  request: {
    label: 'request for access',
    address: within('/access?show=requests&', 'request'),
    seen: { role: 'policy administrator', inEachDomain: true },
  },
  partner: {
    label: 'partner organisation',
    address: () => '/access?show=shares',
    seen: { role: 'policy administrator' },
  },
  share: {
    label: 'share',
    address: within('/access?show=shares&', 'share'),
    seen: { role: 'policy administrator', inEachDomain: true },
  },
  review: {
    label: 'review of rights',
    address: within('/access?show=reviews&', 'review'),
    seen: { role: 'policy administrator', inEachDomain: true },
  },
  'native right': {
    label: 'right at a source',
    address: () => '/access?show=sources',
    seen: { role: 'policy administrator', inEachDomain: true },
  },
  'held class': {
    label: 'held class',
    address: () => '/access',
    seen: { role: 'policy administrator', inEachDomain: true },
  },
} as const satisfies Record<string, ThingFacts>;
export type Thing = keyof typeof THINGS;

/** What the journal can be about. */
export type Subject = Thing | AssetKind;

/** What is known of a subject; nothing of a word that is none. */
export function factsOf(subject: string): ThingFacts | undefined {
  if (isAssetKind(subject)) return { label: subject, address: (id) => `/assets/${id}`, seen: 'in its domain' };
  return Object.hasOwn(THINGS, subject) ? THINGS[subject as Thing] : undefined;
}

/** The things whose visibility is as asked. */
export const thingsSeen = (how: (seen: Visibility) => boolean): readonly Thing[] =>
  Object.entries<ThingFacts>(THINGS).flatMap(([thing, { seen }]) => (how(seen) ? [thing as Thing] : []));
