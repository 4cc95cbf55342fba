import { type JournalEntry, journalEndpoints } from '@idrel/contract/journal';
import type { Router } from 'express';
import type { Who } from '../people/index.ts';
import { serve } from '../platform/api.ts';
import type { Context } from '../platform/context.ts';
import type { Db } from '../platform/database.ts';
import { SEEN_IN_JOURNAL, seenBy } from './seen.ts';

const SEEN = `
  select j.id::text, j.at, coalesce(p.name, j.principal) as person, j.by_key as "byKey", j.action,
         j.subject_kind as "subjectKind", j.subject_id as "subjectId", j.subject_name as subject, j.before, j.after
  from journal j
  left join person p on p.id = j.person_id
  where ${SEEN_IN_JOURNAL}
    and ($5::text is null or j.subject_id = $5)
    and ($6::bigint is null or j.id < $6)
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
    who.domainsAs('reader'),
    anywhere,
    inEachDomain,
    everywhere,
    subject ?? null,
    before ?? null,
    limit,
  ]);
};

export function journalRoutes(router: Router, { db }: Context): void {
  serve(router, journalEndpoints.list, ({ who, query }) => listJournal(db, who, query));
}
