import type { AssetAnswer } from '@idrel/contract/catalog';
import type { AssetChange, PUT_BACK } from '@idrel/contract/curation';
import { PRIORITIES, STANDINGS } from '@idrel/core/catalog';
import { getAsset } from '../catalog/index.ts';
import type { Who } from '../people/index.ts';
import type { Db } from '../platform/database.ts';
import { conflict, notFound } from '../platform/problems.ts';
import { editAsset } from './service.ts';

type Field = (typeof PUT_BACK)[number];

/**
 * Puts one thing of an asset back as it stood before an entry of the journal, as an edit like any other. The journal keeps words: whom and what they name
 * must still be there, and be the only one of its name.
 * @throws 404 when the entry is not one of this asset, or did not change the field; 409 naming who or what is not there any more
 */
export async function putBack(
  tx: Db,
  who: Who,
  id: string,
  version: number,
  { entry, field }: { entry: string; field: Field },
): Promise<AssetAnswer> {
  const { domainId } = await getAsset(tx, who, id);
  const told = await tx.one<{ before: Record<string, unknown> | null }>(
    'select before from journal where id = $1 and subject_id = $2 and domain_id = $3',
    [entry, id, domainId],
  );
  if (!told?.before || !(field in told.before)) throw notFound('That change of it');
  return editAsset(tx, who, id, version, await changeTo(tx, field, told.before));
}

const textsOf = (value: unknown): string[] => (Array.isArray(value) ? value.map(String) : []);

async function changeTo(tx: Db, field: Field, before: Record<string, unknown>): Promise<AssetChange> {
  const value = before[field];
  switch (field) {
    case 'description':
      return { description: typeof value === 'string' ? value : null };
    case 'standing':
      return { standing: STANDINGS.find((standing) => standing === value) ?? 'unreviewed' };
    case 'level':
      return {
        level: typeof value === 'number' ? value : null,
        ...(typeof before.levelReason === 'string' ? { levelReason: before.levelReason } : {}),
      };
    case 'priority': {
      const grade = (PRIORITIES as readonly unknown[]).indexOf(value);
      return {
        priority: grade < 0 ? null : grade,
        ...(typeof before.priorityReason === 'string' ? { priorityReason: before.priorityReason } : {}),
      };
    }
    case 'owners':
      // Once there could be several.
      return { ownerIds: await named(tx, 'party', textsOf(value).slice(0, 1)) };
    case 'stewards':
      return { stewardIds: await named(tx, 'person', textsOf(value)) };
    case 'custodians':
      return { custodianIds: await named(tx, 'person', textsOf(value)) };
    case 'terms':
      return { termIds: await named(tx, 'term', textsOf(value)) };
    case 'tags': {
      const given = textsOf(value).map((text) => text.split('/'));
      const ids = await named(
        tx,
        'tag',
        given.map(([name = '']) => name),
      );
      return { tags: ids.map((id, at) => ({ id, value: given[at]?.slice(1).join('/') ?? '' })) };
    }
  }
}

/** Those that are there, of each table. */
const THERE = {
  party: 'left_at is null',
  person: 'left_at is null',
  term: 'removed_at is null',
  tag: 'removed_at is null',
} as const;

/** Ids by names, in their order. @throws 409 where a name is nobody's, or several have it */
async function named(tx: Db, table: keyof typeof THERE, names: readonly string[]): Promise<string[]> {
  const rows = await tx.rows<{ id: string; name: string }>(
    `select id, name from ${table} where name = any($1::text[]) and ${THERE[table]}`,
    [names],
  );
  const called = table === 'party' ? 'person or group' : table;
  return names.map((name) => {
    const [only, ...others] = rows.filter((row) => row.name === name);
    if (!only || others.length > 0)
      throw conflict(
        'gone-meanwhile',
        only ? `More than one ${called} is called “${name}” now.` : `There is no ${called} “${name}” any more.`,
        'Choose by hand what is to stand there.',
      );
    return only.id;
  });
}
