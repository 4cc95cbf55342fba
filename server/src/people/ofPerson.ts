import { type Principal, record, type Told } from '../journal/index.ts';
import type { Db } from '../platform/database.ts';

/** Writes an entry about a person into the journal, for what changes beside their row. */
export const recordOfPerson = (
  tx: Db,
  principal: Principal,
  action: string,
  { id, name }: { readonly id: string; readonly name: string },
  before: Told | null,
  after: Told | null,
): Promise<boolean> => record(tx, principal, action, { kind: 'person', id, name, domainId: null }, before, after);
