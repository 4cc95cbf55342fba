import type { Endpoint } from './index.ts';
import { isByKey } from './problems.ts';

/** What a key of a program can be given to do. */
export const SCOPES = ['read', 'write', 'lineage', 'scan', 'access', 'admin'] as const;
export type Scope = (typeof SCOPES)[number];

/** What each scope opens, in words. */
export const SCOPE_WORDS: Readonly<Record<Scope, string>> = {
  read: 'reads what you may see',
  write: 'describes, classifies, tags, documents assets, terms and all else that is neither of the others',
  lineage: 'says lineage, and strikes it',
  scan: 'registers sources, starts scans, pushes assets',
  access: 'sets policies, grants and shares, and asks through the gateway',
  admin: 'changes people, groups and domains',
};

const BY_AREA: Readonly<Record<string, Scope>> = {
  lineage: 'lineage',
  sources: 'scan',
  scanning: 'scan',
  access: 'access',
  people: 'admin',
};
/** Where what is made acts later with all rights of who keeps it, and no key begins that. */
const ACTS_LATER: readonly string[] = ['routines', 'exchange'];
/** What is done later with all rights of the person: a key that holds for some domains only must not begin it. */
const LATER: readonly string[] = ['startBulkEdit', 'undoBulkEdit'];

/** What a key needs for an operation. */
export interface ScopeOf {
  readonly scope: Scope;
  /** Only keys that hold for all domains of their person: the operation does not ask for each domain, or acts later. */
  readonly whole: boolean;
}

/**
 * What a key of a program needs for an operation; null where none opens it: what is about the person's own sessions and keys, and routines and webhooks, which act
 * later with all rights of who keeps them.
 */
export function scopeOf({ id, may, method, area, inSession, lines }: Endpoint): ScopeOf | null {
  // Lines are of several kinds: what each of them takes is asked for at the line.
  if (lines) return { scope: 'read', whole: false };
  if (inSession || isByKey(may) || (ACTS_LATER.includes(area) && method !== 'get')) return null;
  if (method === 'get') return { scope: 'read', whole: false };
  const scope = BY_AREA[area] ?? 'write';
  return { scope, whole: scope === 'access' || scope === 'admin' || LATER.includes(id) };
}
