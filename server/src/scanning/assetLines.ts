import type { AssetLine } from '@idrel/contract/exchange';
import type { PushedAsset } from '@idrel/contract/sources';
import { readPlace } from '@idrel/core/catalog';
import { type FoundAsset, keyOf } from '@idrel/readers/connectors';
import { record } from '../journal/index.ts';
import type { Who } from '../people/index.ts';
import type { Tx } from '../platform/database.ts';
import { type GivenLine, type LineSaid, refusedLine } from '../platform/lines.ts';
import { ApiProblem, invalid, notFound } from '../platform/problems.ts';
import type { SourceFacts } from '../sources/index.ts';
import { pushedSource, readPushed } from './push.ts';
import { writeTold } from './told.ts';

interface Placed extends GivenLine<AssetLine> {
  readonly names: readonly string[];
  readonly key: string;
}
/** What is known of an asset before, or after, lines are taken. */
interface Known {
  readonly id: string;
  readonly key: string;
  readonly kind: string;
  readonly print: string | null;
  readonly gone: boolean;
  readonly comment: string | null;
  readonly facts: PushedAsset['facts'];
  readonly rows: number | null;
}

const parentOf = (names: readonly string[]): string => keyOf(...names.slice(0, -1));

/**
 * Takes what programs say that sources hold, source by source, as a run of each: compared with what was there and recognised, like a push. A line that cannot be is
 * refused, with what lies in it, and the others are taken.
 */
export async function takeAssetLines(tx: Tx, who: Who, lines: readonly GivenLine<AssetLine>[]): Promise<LineSaid[]> {
  const said: LineSaid[] = [];
  const bySource = new Map<string, Placed[]>();
  for (const given of lines) {
    const place = readPlace(given.value.of);
    if (!place || place.names.length === 0 || place.names.length > 30) {
      said.push(
        refusedLine(
          given.line,
          invalid(`${given.value.of} is no address.`, 'Write /at/, the source, and the names from the top.'),
        ),
      );
      continue;
    }
    const placed = { ...given, names: place.names, key: keyOf(...place.names) };
    const others = bySource.get(place.source);
    if (others) others.push(placed);
    else bySource.set(place.source, [placed]);
  }
  for (const [name, placed] of bySource) {
    try {
      const found = await tx.one<{ id: string }>('select id from source where name = $1', [name]);
      if (!found) throw notFound(`The source “${name}”`);
      const source = await pushedSource(tx, who, found.id);
      for (const round of roundsOf(placed)) said.push(...(await takeRound(tx, who, source, round)));
    } catch (error) {
      if (!(error instanceof ApiProblem)) throw error;
      const told = new Set(said.map(({ line }) => line));
      said.push(...placed.filter(({ line }) => !told.has(line)).map(({ line }) => refusedLine(line, error)));
    }
  }
  return said;
}

/** Lines in rounds in which each asset stands once: what is said later of the same one is said after. */
function roundsOf(placed: readonly Placed[]): Placed[][] {
  const rounds: Placed[][] = [];
  const times = new Map<string, number>();
  for (const one of placed) {
    const nth = times.get(one.key) ?? 0;
    times.set(one.key, nth + 1);
    rounds[nth] ??= [];
    rounds[nth].push(one);
  }
  return rounds;
}

async function takeRound(tx: Tx, who: Who, source: SourceFacts, round: readonly Placed[]): Promise<LineSaid[]> {
  const said: LineSaid[] = [];
  const before = await known(tx, source.id, [
    ...round.map(({ key }) => key),
    ...round.flatMap(({ names }) => (names.length > 1 ? [parentOf(names)] : [])),
  ]);
  const there = new Set([...before].filter(([, { gone }]) => !gone).map(([key]) => key));
  const taken: Placed[] = [];
  // What holds others comes first.
  for (const one of [...round].sort((a, b) => a.names.length - b.names.length)) {
    if (one.names.length > 1 && !there.has(parentOf(one.names))) {
      const path = one.names.slice(0, -1).join('/');
      said.push(
        refusedLine(
          one.line,
          invalid(`What it lies in, ${path}, is not there.`, 'Say that first, on a line of its own.'),
        ),
      );
      continue;
    }
    there.add(one.key);
    taken.push(one);
  }
  if (taken.length === 0) return said;
  const pushed = taken.flatMap(({ names, key, value }): PushedAsset[] => {
    const { kind, columns = [] } = value;
    // What a line does not speak of stays as it was told last.
    const was = before.get(key);
    const comment = value.comment ?? was?.comment ?? undefined;
    const facts = value.facts ?? was?.facts;
    const rows = value.rows ?? was?.rows ?? undefined;
    const holder: PushedAsset = {
      path: names,
      kind,
      ...(comment === undefined ? {} : { comment }),
      ...(facts === undefined ? {} : { facts }),
      ...(rows === undefined ? {} : { rows }),
    };
    return [
      holder,
      ...columns.map(({ name, ...column }, position) => ({
        path: [...names, name],
        kind: 'column' as const,
        position,
        ...column,
      })),
    ];
  });
  const { assets, findings, profiles } = await readPushed(tx, pushed);
  const silent = taken.filter(({ value }) => value.columns === undefined).map(({ key }) => key);
  const kept = await columnsOf(tx, source.id, silent);
  const named = new Set(taken.map(({ key }) => key));
  const { runId, comparison } = await writeTold(tx, source, who.id, {
    assets: [...assets, ...kept],
    findings,
    profiles,
    covers: (key) => named.has(key),
  });
  await record(
    tx,
    who,
    'pushed',
    { kind: 'source', id: source.id, name: source.name, domainId: source.domainId },
    null,
    { run: runId, ...comparison.counts },
  );
  const after = await known(tx, source.id, [...named]);
  for (const { line, key } of taken) {
    const [was, is] = [before.get(key), after.get(key)];
    const outcome = !was ? 'made' : was.gone || was.print !== is?.print || was.kind !== is.kind ? 'changed' : 'same';
    said.push({ line, outcome, ...(is ? { id: is.id } : {}) } as LineSaid);
  }
  return said;
}

async function known(tx: Tx, sourceId: string, keys: readonly string[]): Promise<Map<string, Known>> {
  const rows = await tx.rows<Known>(
    `
      select
        id, key, kind, print::text, gone_at is not null as gone, native_comment as comment, native as facts,
        (stats ->> 'rows')::float as rows
      from asset
      where source_id = $1 and key = any($2::text[]) and kind <> 'column'`,
    [sourceId, [...new Set(keys)]],
  );
  return new Map(rows.map((row) => [row.key, row]));
}

/** Columns as they were told last, of what is said again without a word of them. */
async function columnsOf(tx: Tx, sourceId: string, keys: readonly string[]): Promise<FoundAsset[]> {
  if (keys.length === 0) return [];
  const rows = await tx.rows<Omit<FoundAsset, 'kind'>>(
    `
      select c.key, h.key as "parentKey", c.name, c.depth, c.native_comment as comment, c.position, c.native, c.stats
      from asset h
      join asset c on c.parent_id = h.id and c.kind = 'column' and c.gone_at is null
      where h.source_id = $1 and h.key = any($2::text[]) and h.kind <> 'column'
      order by h.key, c.position, c.name`,
    [sourceId, keys],
  );
  return rows.map((row) => ({ ...row, kind: 'column' }));
}
