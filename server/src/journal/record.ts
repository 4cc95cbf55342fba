import type { Subject } from '@idrel/contract/things';
import type { Db } from '../platform/database.ts';
import type { Principal } from './principal.ts';

export interface JournalSubject {
  readonly kind: Subject;
  readonly id: string;
  readonly name: string;
  readonly domainId: string | null;
  /** Of what reaches into several domains: only who sees them all sees the entry. */
  readonly domainIds?: readonly string[];
}
/** What is kept of a thing: words rather than ids, so that it can be read years later. */
export type Told = Readonly<Record<string, unknown>>;

/** With each entry stands an event, for what listens outside. */
const WITH_EVENTS = `
  insert into event (journal_id, subject_kind, action)
  select id, subject_kind, action from entry`;

const ENTRY = `
  with entry as (
    insert into journal (
      principal_kind, person_id, principal, action, subject_kind, subject_id, subject_name, domain_id, before, after,
      domain_ids, run_id, by_key
    )
    values ($1, $2, $3, $6, $7, $8, $9, $10, $11, $12, $13::uuid[], $4::uuid, $5)
    returning id, subject_kind, action
  ) ${WITH_EVENTS}`;

const by = (principal: Principal) =>
  principal.kind === 'person'
    ? ['person', principal.id, null, principal.run ?? null, principal.key?.name ?? null]
    : [principal.kind, null, principal.name, null, null];

/**
 * Writes down who changed what, from what to what: called in the transaction of the change itself, so that neither is there without the other.
 * Only what differs is kept of before and after.
 *
 * @returns false when nothing differs: then nothing is written
 */
export async function record(
  tx: Db,
  principal: Principal,
  action: string,
  subject: JournalSubject,
  before: Told | null,
  after: Told | null,
): Promise<boolean> {
  const told = differing(before, after);
  if (!told) return false;
  const json = (value: Told | null) => value && JSON.stringify(value);
  const { kind, id, name, domainId, domainIds } = subject;
  const values = [action, kind, id, name, domainId, json(told.before), json(told.after), domainIds ?? null];
  await tx.run(ENTRY, [...by(principal), ...values]);
  return true;
}

/** One entry of many. */
export interface Entry {
  readonly action: string;
  readonly subject: Pick<JournalSubject, 'kind' | 'id' | 'name' | 'domainId'>;
  readonly before: Told | null;
  readonly after: Told | null;
}

/** The same for many subjects, each with what changed of it: written at once. */
export async function recordEach(tx: Db, principal: Principal, entries: readonly Entry[]): Promise<void> {
  const rows = entries.flatMap(({ action, subject, before, after }) => {
    const told = differing(before, after);
    return told ? [{ action, ...subject, ...told }] : [];
  });
  await tx.run(
    `
      with entry as (
        insert into journal (
          principal_kind, person_id, principal, run_id, by_key, action, subject_kind, subject_id, subject_name, domain_id, before, after
        )
        select $1, $2, $3, $4::uuid, $5, e.action, e.kind, e.id, e.name, e."domainId", e.before, e.after
        from json_to_recordset($6::json) as e(
          action text, kind text, id text, name text, "domainId" uuid, before jsonb, after jsonb
        )
        returning id, subject_kind, action
      ) ${WITH_EVENTS}`,
    [...by(principal), JSON.stringify(rows)],
  );
}

/** What differs of before and after; null where nothing does. */
function differing(before: Told | null, after: Told | null): { before: Told | null; after: Told | null } | null {
  const keys = [...new Set([...Object.keys(before ?? {}), ...Object.keys(after ?? {})])];
  const found =
    before && after ? keys.filter((key) => JSON.stringify(before[key]) !== JSON.stringify(after[key])) : keys;
  if (before && after && found.length === 0) return null;
  const pick = (all: Told | null) => all && Object.fromEntries(found.map((key) => [key, all[key] ?? null]));
  return { before: pick(before), after: pick(after) };
}

/** So long events wait for whoever listens; the journal keeps what they tell. */
const EVENT_DAYS = 90;

/** Takes away events that nobody came for, the oldest thousand at a time. @returns how many went */
export const forgetEvents = (db: Db): Promise<number> =>
  db.run(
    `delete from event e
     using (select id, at from event order by id limit 1000) oldest
     where e.id = oldest.id and oldest.at < now() - interval '${EVENT_DAYS} days'`,
  );

/**
 * The same for one field of many subjects at once.
 * @param query SQL of the changes: kind, id, name, domain_id, before, after (JSON of the field); subjects where it did not change are left out
 */
export async function recordMany(
  tx: Db,
  principal: Principal,
  action: string,
  field: string,
  query: string,
  values: readonly unknown[],
): Promise<void> {
  const param = (index: number) => `$${values.length + index}`;
  await tx.run(
    `
      with entry as (
        insert into journal (
          principal_kind, person_id, principal, run_id, by_key, action, subject_kind, subject_id, subject_name, domain_id, before, after
        )
        select
          ${param(1)}, ${param(2)}, ${param(3)}, ${param(4)}::uuid, ${param(5)}, ${param(6)}, c.kind, c.id::text, c.name, c.domain_id,
          jsonb_build_object(${param(7)}::text, c.before), jsonb_build_object(${param(7)}::text, c.after)
        -- Worked out once each, before they are compared.
        from (${query} offset 0) c
        where c.before::jsonb is distinct from c.after::jsonb
        returning id, subject_kind, action
      ) ${WITH_EVENTS}`,
    [...values, ...by(principal), action, field],
  );
}
