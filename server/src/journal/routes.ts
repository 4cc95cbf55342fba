import { type JournalEntry, journalEndpoints } from '@idrel/contract/journal';
import { thingsSeen } from '@idrel/contract/things';
import type { Router } from 'express';
import type { Who } from '../people/index.ts';
import { serve } from '../platform/api.ts';
import type { Context } from '../platform/context.ts';
import type { Db } from '../platform/database.ts';

/** What somebody may see of the journal beside what lies in domains that they may read, by the registry of things. */
function seenBy(who: Who) {
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

const SEEN = `
  select j.id::text, j.at, coalesce(p.name, j.principal) as person, j.by_key as "byKey", j.action,
         j.subject_kind as "subjectKind", j.subject_id as "subjectId", j.subject_name as subject, j.before, j.after
  from journal j
  left join person p on p.id = j.person_id
  where ($1::text is null or j.subject_id = $1)
    and ($2::bigint is null or j.id < $2)
    and (j.domain_id = any($3::uuid[])
      or j.domain_id is null and j.subject_kind = any($4::text[])
      or j.domain_id is null and j.subject_kind = any($5::text[]) and j.domain_ids <@ $3::uuid[]
      or j.domain_id is null and j.subject_kind = any($6::text[]) and j.domain_ids is null)
  order by j.id desc
  limit $7`;

/** Entries of what somebody may see, newest first. */
const listJournal = (
  db: Db,
  who: Who,
  { subject, before, limit }: { subject?: string; before?: number; limit: number },
): Promise<JournalEntry[]> => {
  const { anywhere, inEachDomain, everywhere } = seenBy(who);
  return db.rows<JournalEntry>(SEEN, [
    subject ?? null,
    before ?? null,
    who.domainsAs('reader'),
    anywhere,
    inEachDomain,
    everywhere,
    limit,
  ]);
};

export function journalRoutes(router: Router, { db }: Context): void {
  serve(router, journalEndpoints.list, ({ who, query }) => listJournal(db, who, query));
}
