import { journalEndpoints } from '@idrel/contract/journal';
import type { Router } from 'express';
import { serve } from '../platform/api.ts';
import type { Context } from '../platform/context.ts';

export function journalRoutes(router: Router, { db }: Context): void {
  serve(router, journalEndpoints.list, ({ who, query }) =>
    db.rows(
      `select j.id::text, j.at, p.name as person, j.action, j.subject_kind as "subjectKind", j.subject_id as "subjectId", j.subject_name as subject, j.before, j.after
       from journal j left join person p on p.id = j.person_id
       where ($1::text is null or j.subject_id = $1::text) and ($2::bigint is null or j.id < $2) and (j.domain_id = any($3::uuid[]) or (j.domain_id is null and (j.subject_kind in ('term', 'routine', 'detector set', 'detector', 'data class', 'level rule', 'certainty rule', 'threshold', 'level', 'dismissal') or (j.subject_kind in ('policy', 'held class') and $5 and (j.domain_ids <@ $3::uuid[] or (j.domain_ids is null and $7))) or (j.subject_kind = 'credential' and $6))))
       order by j.id desc limit $4`,
      [
        query.subject ?? null,
        query.before ?? null,
        who.domainsAs('reader'),
        query.limit,
        who.isAnywhere('policy administrator'),
        who.isAnywhere('source administrator'),
        who.isEverywhere('policy administrator'),
      ],
    ),
  );
}
