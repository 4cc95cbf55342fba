import type { ProfileAnswer } from '@idrel/contract/catalog';
import { decideTable, isFor, type Person, type Policy } from '@idrel/core/access';
import { guardProfile } from '@idrel/core/scanning';
import { getAsset } from '../catalog/index.ts';
import { isSeen, type Who } from '../people/index.ts';
import type { Db } from '../platform/database.ts';
import { factsFor, type TableFacts } from './facts.ts';

/** What of a column's profile somebody may see: all of it, its shape without any value, or nothing. */
type Sight = 'whole' | 'shape' | 'none';

/**
 * What a person may not read, no figure or text of theirs is made from. A profile is made from all rows, so who may read only some of them sees
 * nothing of it. Stewards of the domain, who judge findings by it, and administrators of its sources need no policy that allows them to read; one that
 * denies or protects holds for them as for all.
 */
function sightsOf(
  policies: readonly Policy[],
  person: Person,
  table: TableFacts,
  inCharge: boolean,
): Map<string, Sight> {
  const all: Policy = {
    id: '',
    name: '',
    effect: 'allow',
    everyone: true,
    groups: [],
    people: [],
    exceptGroups: [],
    assets: [table.id],
    classes: [],
    matched: null,
    carried: false,
    columns: null,
    columnsBut: false,
    mask: null,
    rows: null,
    until: null,
    hours: null,
    purposes: [],
    share: null,
    opens: 'read',
    passesOn: false,
    giver: null,
  };
  const decision = decideTable(
    inCharge ? [...policies.filter((policy) => isFor(policy, person)), all] : policies,
    person,
    table,
  );
  const limited = decision.rowLimits.length > 0;
  return new Map(
    decision.columns.map((column): [string, Sight] => [
      column.id,
      column.access === 'refused' || limited ? 'none' : column.access === 'masked' ? 'shape' : 'whole',
    ]),
  );
}

/** Profiles of a column, or of all columns of what holds them, as far as the person may read what they were made from. */
export async function seenProfiles(db: Db, who: Who, id: string): Promise<ProfileAnswer[]> {
  const asset = await getAsset(db, who, id);
  const rows = await db.rows<ProfileAnswer & { holder: string }>(
    `
      select a.id as "assetId", a.name, a.parent_id as holder, p.at, p.facts as profile
      from asset a
      join column_profile p on p.asset_id = a.id
      where (a.id = $1 or a.parent_id = $1) and a.gone_at is null and ${isSeen('a', '$2')}
      order by a.position, a.name`,
    [id, who.domainsAs('reader')],
  );
  const facts = await factsFor(
    db,
    { personId: who.id, purpose: null },
    't.id = any($1::uuid[])',
    [[...new Set(rows.map((row) => row.holder))]],
    'any',
  );
  if (!facts) return [];
  const { person, policies, tables } = facts;
  const sights = new Map(
    tables.flatMap((table) => [
      ...sightsOf(
        policies,
        person,
        table,
        who.is('steward', asset.domainId) || who.is('source administrator', asset.domainId),
      ),
    ]),
  );
  return rows.flatMap(({ holder, ...row }) => {
    const sight = sights.get(row.assetId) ?? 'none';
    return sight === 'none' ? [] : [sight === 'whole' ? row : { ...row, profile: guardProfile(row.profile) }];
  });
}
