import { thingsSeen } from '@idrel/contract/things';
import type { Who } from '../people/index.ts';

/** What somebody may see of the journal beside what lies in domains that they may read, by the registry of things. */
export function seenBy(who: Who) {
  const role = (anywhere: (role: Parameters<Who['isAnywhere']>[0]) => boolean, inEachDomain: boolean) =>
    thingsSeen(
      (seen) => typeof seen === 'object' && (seen.inEachDomain ?? false) === inEachDomain && anywhere(seen.role),
    );
  return {
    /** Things that lie in no domain. */
    anywhere: [...thingsSeen((seen) => seen === 'everybody'), ...role((name) => who.isAnywhere(name), false)],
    /** Things that reach into several domains, for who may read each of them. */
    inEachDomain: role((name) => who.isAnywhere(name), true),
    /** The same, of which it is not known where they reach. */
    everywhere: role((name) => who.isEverywhere(name), true),
  };
}

/** Whether somebody may see an entry of `journal j`: $1 the domains in which they may read, $2 to $4 as {@link seenBy} tells them. */
export const SEEN_IN_JOURNAL = `(
  j.domain_id = any($1::uuid[])
  or j.domain_id is null and j.subject_kind = any($2::text[])
  or j.domain_id is null and j.subject_kind = any($3::text[]) and j.domain_ids <@ $1::uuid[]
  or j.domain_id is null and j.subject_kind = any($4::text[]) and j.domain_ids is null
)`;
