import { decideTable } from '@idrel/core/access';
import { IMAGE_MOST } from '@idrel/readers/connectors';
import { getAsset } from '../catalog/index.ts';
import { isSeen, type Who } from '../people/index.ts';
import type { Db } from '../platform/database.ts';
import { imageFacts } from '../platform/images.ts';
import { ApiProblem, invalid, notFound } from '../platform/problems.ts';
import { endAt } from '../scanning/index.ts';
import { askedSource, type connectorInput, type SourceFacts } from '../sources/index.ts';
import { factsFor } from './facts.ts';
import { mustReach, withReading } from './readNow.ts';

/** So many columns are named that keep an image from somebody. */
const NAMED = 5;

interface Behind {
  readonly id: string;
  readonly tableId: string | null;
  /** Where it lies, for who may see that; null for who may not. */
  readonly seen: string | null;
  /** Nothing, or not all, is known of where its values come from. */
  readonly unknown: boolean;
}

/**
 * What a report or a dashboard shows: columns of tables, also through other reports, with those that decide about rows; and fields of which it is not known where
 * they come from.
 */
const behind = (db: Db, who: Who, reportId: string): Promise<Behind[]> =>
  db.rows<Behind>(
    `
      with recursive shown(id, within, of_report) as (
        select c.id, c.parent_id, true
        from asset c
        where c.parent_id = $1 and c.kind = 'column' and c.gone_at is null
        union
        select o.id, o.parent_id, p.kind in ('report', 'dashboard')
        from shown
        join lateral (
          select e.from_id
          from lineage_edge e
          where e.to_id = shown.id
          union
          select i.from_id
          from flow f
          join lineage_influence i on i.flow_id = f.id
          where f.asset_id = shown.within
        ) by on true
        join asset o on o.id = by.from_id
        join asset p on p.id = o.parent_id
        where shown.of_report
      )
      select
        o.id,
        case when shown.of_report then null else o.parent_id end as "tableId",
        case
          when p.id = $1 then o.name
          when ${isSeen('o', '$2')} then p.name || '.' || o.name
        end as seen,
        o.gone_at is not null or shown.of_report and (
          not exists (select from lineage_edge e where e.to_id = o.id)
          or exists (
            select from remote_edge e
            where e.to_id = o.id and e.from_place is not null and not exists (select from (${endAt('from')}) there)
          )
          or exists (select from flow f where f.asset_id = shown.within and f.problems <> '[]')
        ) as unknown
      from shown
      join asset o on o.id = shown.id
      join asset p on p.id = o.parent_id
      order by p.name, o.position`,
    [reportId, who.domainsAs('reader')],
  );

const kept = (detail: string, mend: string) => new ApiProblem('forbidden', detail, { mend });

/** @throws 403 unless the person may read all that stands behind a report as it is, and it is known what that is */
async function mustBeOpen(db: Db, who: Who, reportId: string): Promise<void> {
  const columns = await behind(db, who, reportId);
  const unknown = columns.filter((column) => column.unknown);
  if (columns.length === 0 || unknown.length > 0)
    throw kept(
      `Its image is not shown: it is not known where all that it shows comes from${unknown.length > 0 ? ` (${told(unknown)})` : ''}, so not whether you may read that.`,
      'Scan the source that lies behind it.',
    );
  const read = columns.filter(({ tableId }) => tableId !== null);
  const facts = await factsFor(
    db,
    { personId: who.id, purpose: null },
    't.id = any($1::uuid[])',
    [[...new Set(read.map(({ tableId }) => tableId))]],
    'any',
  );
  if (!facts) throw notFound('The person');
  const open = new Set(
    facts.tables.flatMap((table) => {
      const decision = decideTable(facts.policies, facts.person, table);
      return decision.rowLimits.length > 0
        ? []
        : decision.columns.filter(({ access }) => access === 'plain').map(({ id }) => id);
    }),
  );
  const closed = read.filter(({ id, seen }) => seen === null || !open.has(id));
  if (closed.length > 0)
    throw kept(
      `Its image is not shown: in it are values that you may not read as they are, of ${told(closed)}.`,
      'Ask the owner of what lies behind it for access; Access on its page tells which policy decides.',
    );
}

/** Columns by name, those that the person may know of; the others by their number. */
function told(columns: readonly Behind[]): string {
  const names = columns.flatMap(({ seen }) => (seen === null ? [] : [seen]));
  const more = columns.length - Math.min(names.length, NAMED);
  const all = [
    ...names.slice(0, NAMED),
    ...(more > 0 ? [`${more} ${names.length > 0 ? 'more' : more === 1 ? 'column' : 'columns'}`] : []),
  ];
  return new Intl.ListFormat('en').format(all);
}

interface Kept {
  readonly source: SourceFacts;
  readonly path: string;
  /** Where the source said that it is. */
  readonly at: readonly string[];
}

/**
 * Of which image an asset's page may show, to this person.
 * @throws 404 when the asset is not there for them; 422 when its source keeps no image of it; 403 when it shows what they may not read
 */
export async function imageFor(db: Db, who: Who, assetId: string): Promise<Kept> {
  const { kind, sourceId, native, path, gone } = await getAsset(db, who, assetId);
  const at: unknown = native.image;
  if (!['report', 'dashboard'].includes(kind) || gone || !Array.isArray(at))
    throw invalid(`Of this ${kind} its source keeps no image.`, 'Open it where it is made.');
  const { source } = await askedSource(db, who, sourceId);
  mustReach(source, 'images');
  await mustBeOpen(db, who, assetId);
  return { source, path, at: at.map(String) };
}

/** Asks the source for an image. @throws 502 when it does not give one that can be shown */
export async function readImage(
  input: Awaited<ReturnType<typeof connectorInput>>,
  at: readonly string[],
  left: AbortSignal,
): Promise<{ type: string; bytes: Buffer }> {
  const bytes = await withReading(input, left, 'an image', async (reading) => {
    if (!reading.image) throw invalid(`${input.name} is of a kind that keeps no images.`, 'Open it where it is made.');
    return Buffer.from(await reading.image(at));
  });
  try {
    return { type: imageFacts(bytes, ['png', 'jpg', 'webp', 'gif', 'svg'], IMAGE_MOST).type, bytes };
  } catch (error) {
    throw new ApiProblem(
      'source-error',
      `What ${input.name} gives as an image cannot be shown: ${(error as Error).message}`,
      {
        mend: 'Open it where it is made.',
      },
    );
  }
}
