import type { GrantBody, GrantEffect, PolicyBody, RequestAnswer } from '@idrel/contract/access';
import { Engine, type Person, type Policy, reachOf } from '@idrel/core/access';
import { kindsSql } from '../../catalog/index.ts';
import { isSeen, type Who } from '../../people/index.ts';
import type { Db } from '../../platform/database.ts';
import { meantTables, policiesInForce, readPeople, readTables } from '../facts.ts';
import { policyName, policyNames } from '../policyNames.ts';
import { drafted, isDeciding } from '../reach.ts';

const SENSITIVE = 3;
const [TABLES_SHOWN, ROWS_SHOWN] = [500, 300];

/** The policies that a grant becomes: one that allows, and where something is masked one that protects. */
export function policiesOf(
  { number, person, purpose }: Pick<RequestAnswer, 'number' | 'person' | 'purpose'>,
  grant: GrantBody,
): PolicyBody[] {
  const { assetIds, columns, columnsBut, until, stated, masked } = grant;
  const name = `Request ${number} of ${person.name}`.slice(0, 140);
  const common: Omit<PolicyBody, 'effect'> = {
    name,
    everyone: false,
    groupIds: [],
    personIds: [person.id],
    exceptGroupIds: [],
    assetIds,
    classKeys: [],
    filter: null,
    carried: false,
    columns,
    columnsBut,
    mask: null,
    rows: null,
    until,
    hours: null,
    purposes: [],
    opens: 'read',
    passesOn: false,
    enabled: true,
  };
  return [{ ...common, effect: 'allow', purposes: stated ? [purpose] : [] }, ...maskedOf(common, masked)];
}

/** The policy that masks some of what another opens, where something is masked. */
export const maskedOf = (common: Omit<PolicyBody, 'effect'>, masked: GrantBody['masked']): PolicyBody[] =>
  masked ? [{ ...common, name: `${common.name}, masked`, effect: 'protect', ...masked }] : [];

/** What a grant would open to whoever asked, compared with the policies in force without what was granted to the same request before. */
export async function effectOfGrant(
  db: Db,
  who: Who,
  request: Pick<RequestAnswer, 'id' | 'number' | 'person' | 'purpose'>,
  grant: GrantBody,
): Promise<GrantEffect> {
  const own = await db.rows<{ id: string }>('select id from policy where request_id = $1', [request.id]);
  const [person] = await readPeople(db, [request.person.id]);
  if (!person) return { tables: [], total: 0, gains: 0, sensitive: 0, rows: [], kept: [] };
  return effectFor(db, who, person, own, policiesOf(request, grant));
}

/**
 * What policies would open to a person beside those in force.
 * @param own those in force that they stand in the place of
 */
export async function effectFor(
  db: Db,
  who: Who,
  person: Person & { readonly name: string },
  own: readonly { readonly id: string }[],
  bodies: readonly PolicyBody[],
): Promise<GrantEffect> {
  const replaced = new Set(own.map(({ id }) => id));
  const before = (await policiesInForce(db)).filter(({ id }) => !replaced.has(id));
  const drafts: Policy[] = [];
  for (const body of bodies.filter(isDeciding))
    drafts.push({ ...(await drafted(db, null, body, before)), id: `granted ${body.name}`, share: person.share });
  const after = [...before, ...drafts];
  const meant = meantTables(drafts, 2);
  const tables = await readTables(
    db,
    `${isSeen('t', '$1')} and t.kind in (${kindsSql('holdsRows')}) and (${meant.condition})`,
    [who.domainsAs('reader'), ...meant.bind],
    after,
    'any',
  );
  const [was, will] = [new Engine(before).for(person), new Engine(after).for(person)];
  const byId = new Map(tables.map((table) => [table.id, table]));
  const changes = reachOf(before, after, [person], tables);
  const levelOf = (tableId: string, columnId: string) => byId.get(tableId)?.levels[columnId] ?? null;
  const newlyPlain = changes.filter(
    ({ tableId, columnId, after: then }) => then === 'plain' && (levelOf(tableId, columnId) ?? 0) >= SENSITIVE,
  );
  const sensitiveIn = new Map<string, number>();
  for (const { tableId } of newlyPlain) sensitiveIn.set(tableId, (sensitiveIn.get(tableId) ?? 0) + 1);
  const names = await policyNames(db, who);
  const kept = new Map<string, number>();
  const counted = (columns: readonly { readonly access: string }[]) => ({
    plain: columns.filter(({ access }) => access === 'plain').length,
    masked: columns.filter(({ access }) => access === 'masked').length,
  });
  const rows = tables.map((table) => {
    const [now, then] = [was.decide(table), will.decide(table)];
    for (const { access, reasons } of then.columns)
      if (access === 'refused')
        for (const { policyId } of reasons) {
          const name = policyName(policyId, names);
          kept.set(name, (kept.get(name) ?? 0) + 1);
        }
    return {
      tableId: table.id,
      table: table.path,
      columns: table.columns.map(({ name }) => name),
      before: counted(now.columns),
      after: counted(then.columns),
      sensitive: sensitiveIn.get(table.id) ?? 0,
      limited: then.rowLimits.length > 0,
    };
  });
  return {
    tables: rows
      .sort((one, other) => other.sensitive - one.sensitive || (one.table < other.table ? -1 : 1))
      .slice(0, TABLES_SHOWN),
    total: rows.length,
    gains: changes.filter(({ before: then, after: now }) => then === 'refused' && now !== 'refused').length,
    sensitive: newlyPlain.length,
    rows: changes
      .map((change) => ({
        personId: person.id,
        person: person.name,
        table: byId.get(change.tableId)?.path ?? '',
        column: change.column,
        level: levelOf(change.tableId, change.columnId),
        before: change.before,
        after: change.after,
        beforeMask: change.beforeMask,
        afterMask: change.afterMask,
      }))
      .sort((one, other) => (other.level ?? 0) - (one.level ?? 0))
      .slice(0, ROWS_SHOWN),
    kept: [...kept].map(([policy, columns]) => ({ policy, columns })),
  };
}
