import type { Db } from '../platform/database.ts';

export interface JournalSubject {
  readonly kind: string;
  readonly id: string;
  readonly name: string;
  readonly domainId: string | null;
  /** Of what reaches into several domains: only who sees them all sees the entry. */
  readonly domainIds?: readonly string[];
}

/**
 * Writes down who changed what, from what to what: called in the transaction of the change itself, so that neither is there without the other.
 * Only what differs is kept of before and after.
 *
 * @returns false when nothing differs: then nothing is written
 */
export async function record(
  tx: Db,
  personId: string | null,
  action: string,
  subject: JournalSubject,
  before: Record<string, unknown> | null,
  after: Record<string, unknown> | null,
): Promise<boolean> {
  const keys = [...new Set([...Object.keys(before ?? {}), ...Object.keys(after ?? {})])];
  const differing =
    before && after ? keys.filter((key) => JSON.stringify(before[key]) !== JSON.stringify(after[key])) : keys;
  if (before && after && differing.length === 0) return false;
  const pick = (all: Record<string, unknown> | null) =>
    all ? JSON.stringify(Object.fromEntries(differing.map((key) => [key, all[key] ?? null]))) : null;
  await tx.run(
    'insert into journal (person_id, action, subject_kind, subject_id, subject_name, domain_id, before, after, domain_ids) values ($1, $2, $3, $4, $5, $6, $7, $8, $9::uuid[])',
    [
      personId,
      action,
      subject.kind,
      subject.id,
      subject.name,
      subject.domainId,
      pick(before),
      pick(after),
      subject.domainIds ?? null,
    ],
  );
  return true;
}

/**
 * The same for one field of many subjects at once.
 * @param query SQL of the changes: kind, id, name, domain_id, before, after (JSON of the field); subjects where it did not change are left out
 */
export async function recordMany(
  tx: Db,
  personId: string | null,
  action: string,
  field: string,
  query: string,
  values: readonly unknown[],
): Promise<void> {
  const [person, act, key] = [values.length + 1, values.length + 2, values.length + 3].map((place) => `$${place}`);
  await tx.run(
    `insert into journal (person_id, action, subject_kind, subject_id, subject_name, domain_id, before, after)
     select ${person}, ${act}, c.kind, c.id::text, c.name, c.domain_id, jsonb_build_object(${key}::text, c.before), jsonb_build_object(${key}::text, c.after) from (${query}) c where c.before::jsonb is distinct from c.after::jsonb`,
    [...values, personId, action, field],
  );
}
