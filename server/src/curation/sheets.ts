import { createHash } from 'node:crypto';
import {
  type AssetChange,
  type FileAnswer,
  SHEET_MOST,
  type SheetChange,
  type SheetFormat,
  type sheetEndpoints,
} from '@idrel/contract/curation';
import type { BodyOf, QueryOf } from '@idrel/contract/http';
import type { lineageEndpoints } from '@idrel/contract/lineage';
import {
  type CellChange,
  compareSheet,
  type NoticeCell,
  noticeIn,
  noticeInCell,
  readSheetRows,
  type SheetAsset,
  type SheetField,
  type SheetNames,
  type SheetRead,
  STANDINGS,
  type Standing,
  sheetRows,
} from '@idrel/core/catalog';
import { joined } from '@idrel/core/text';
import { FROM, getAsset, PATH } from '../catalog/index.ts';
import { impactList, proposedImpact } from '../lineage/index.ts';
import { isSeen, type Who } from '../people/index.ts';
import type { Database, Db, Tx } from '../platform/database.ts';
import { ApiProblem, conflict, invalid } from '../platform/problems.ts';
import { asSheet, readSheet, SHEET_TYPES } from '../platform/sheets.ts';
import { beginDiscussion } from '../writing/index.ts';
import { addNotice } from './notices.ts';
import { editAsset } from './service.ts';

const TOLD = { cells: 2000, flaws: 500 } as const;

/** People, terms and tags by what they are called in sheets, with their ids. */
interface Known {
  readonly owners: ReadonlyMap<string, string>;
  readonly people: ReadonlyMap<string, string>;
  readonly terms: ReadonlyMap<string, string>;
  readonly tags: ReadonlyMap<string, { readonly id: string; readonly permitted: readonly string[] | null }>;
  /** The same by each name that is understood. */
  readonly names: SheetNames;
}

/** What stands twice is told apart by more: a person's address, a term's scheme. */
async function known(db: Db): Promise<Known> {
  const parties = await db.rows<{ id: string; name: string; email: string; group: boolean }>(
    `select id, name, coalesce(email, 'group/' || name) as email, is_group as "group" from party where left_at is null`,
  );
  const terms = await db.rows<{ id: string; name: string; scheme: string }>(
    'select t.id, t.name, s.name as scheme from term t join scheme s on s.id = t.scheme_id where t.removed_at is null',
  );
  const tags = await db.rows<{ id: string; name: string; permitted: string[] | null }>(
    'select id, name, permitted from tag where removed_at is null',
  );
  const of = <T extends { id: string; name: string }>(things: readonly T[], more: (thing: T) => string) => {
    const times = new Map<string, number>();
    for (const { name } of things) times.set(name.toLowerCase(), (times.get(name.toLowerCase()) ?? 0) + 1);
    const ids = new Map<string, string>();
    const names = new Map<string, string | null>();
    for (const thing of things) {
      const several = (times.get(thing.name.toLowerCase()) ?? 0) > 1;
      const called = several ? more(thing) : thing.name;
      ids.set(called, thing.id);
      names.set(more(thing).toLowerCase(), called);
      names.set(thing.name.toLowerCase(), several ? null : called);
    }
    return { ids, names };
  };
  const people = parties.filter(({ group }) => !group);
  const address = ({ email }: { email: string }) => email;
  const [byPerson, byOwner] = [of(people, address), of(parties, address)];
  const byTerm = of(terms, ({ scheme, name }) => `${scheme}/${name}`);
  const tagNames = new Map<string, string | null>();
  for (const { name, permitted } of tags) {
    tagNames.set(name.toLowerCase(), name);
    for (const value of permitted ?? []) tagNames.set(`${name}/${value}`.toLowerCase(), `${name}/${value}`);
  }
  return {
    owners: byOwner.ids,
    people: byPerson.ids,
    terms: byTerm.ids,
    tags: new Map(tags.map((tag) => [tag.name.toLowerCase(), tag])),
    names: { owners: byOwner.names, people: byPerson.names, terms: byTerm.names, tags: tagNames },
  };
}

/** Assets as a sheet has them: those that the person may see, in the order of the ids. */
async function readAssets(db: Db, who: Who, ids: readonly string[], { people, terms }: Known): Promise<SheetAsset[]> {
  const rows = await db.rows<{
    id: string;
    version: number;
    path: string;
    kind: string;
    source: string;
    description: string | null;
    standing: string;
    people: { role: 'owner' | 'steward' | 'custodian'; id: string }[];
    terms: string[];
    tags: string[];
    notices: NoticeCell[];
    remark: string[];
  }>(
    `
      select
        a.id, a.version, ${PATH} as path, a.kind, s.name as source, a.description, a.standing,
        coalesce((select json_agg(json_build_object('role', p.role, 'id', p.person_id) order by p.person_id) from asset_person p where p.asset_id = a.id), '[]') as people,
        array(select x.term_id from asset_term x join term t on t.id = x.term_id and t.removed_at is null where x.asset_id = a.id order by t.name) as terms,
        array(select t.name || case when x.value <> '' then '/' || x.value else '' end from asset_tag x join tag t on t.id = x.tag_id and t.removed_at is null where x.asset_id = a.id order by 1) as tags,
        coalesce(
          (
            select json_agg(json_build_object('kind', n.kind, 'text', n.text, 'starts', n.starts::text, 'ends', n.ends::text) order by n.starts, n.id)
            from notice n
            where n.asset_id = a.id and n.removed_at is null and (n.ends is null or n.ends >= (now() at time zone 'UTC')::date)
          ),
          '[]'
        ) as notices,
        array(
          select x.text
          from discussion d
          join remark r on r.discussion_id = d.id and r.removed_at is null
          cross join lateral (values (r.text), (r.plain)) x(text)
          where d.asset_id = a.id and d.settled_at is null
        ) as remark
      from unnest($1::uuid[]) with ordinality as page(id, nth)
      join ${FROM.replace('asset a', 'asset a on a.id = page.id')}
      where ${isSeen('a', '$2')}
      order by page.nth`,
    [ids, who.domainsAs('reader')],
  );
  const [personOf, termOf] = [people, terms].map((map) => new Map([...map].map(([name, id]) => [id, name])));
  return rows.map(({ people: persons, terms: termIds, description, standing, notices, ...row }) => {
    const inRole = (role: string) =>
      persons.flatMap((entry) => (entry.role === role ? (personOf?.get(entry.id) ?? []) : []));
    return {
      ...row,
      description: description ? [description] : [],
      owners: inRole('owner'),
      stewards: inRole('steward'),
      custodians: inRole('custodian'),
      terms: termIds.flatMap((id) => termOf?.get(id) ?? []),
      standing: [standing],
      notices: notices.map(noticeInCell),
    };
  });
}

/** Assets as a file. Called in a thread: to write thousands of cells takes a while. */
export async function writeAssets(db: Db, who: Who, ids: readonly string[], format: SheetFormat): Promise<FileAnswer> {
  const rows = sheetRows(await readAssets(db, who, ids, await known(db)));
  const content = await asSheet(format, 'Assets', rows, {
    wide: ['path', 'description', 'owners', 'terms', 'tags', 'notices', 'remark'],
    lists: { standing: STANDINGS },
  });
  return { name: `assets.${format}`, type: SHEET_TYPES[format], content: content.toString('base64') };
}

/** What lies downstream or upstream of an asset, or what a proposed change of it would do, as a sheet to be filled in and brought back. */
export async function writeImpact(
  db: Db,
  who: Who,
  asked: QueryOf<typeof lineageEndpoints.impactSheet>,
): Promise<FileAnswer> {
  const { asset, what, to, format } = asked;
  const { name } = await getAsset(db, who, asset);
  const cells = what
    ? (await proposedImpact(db, who, { asset, what, to })).rows.map((row) => ({ ...row, how: '' }))
    : (await impactList(db, who, asset, asked.direction)).map((row) => ({
        ...row,
        consequence: '',
        why: '',
        asked: 0,
      }));
  const told = new Map(
    cells.map(({ id, distance, consequence, why, how, way, level, asked: calls, owners }) => [
      id,
      {
        steps: String(distance),
        consequence,
        why,
        how,
        way: way.join(' > '),
        level: level === null ? '' : String(level),
        asked: calls === 0 ? '' : String(Math.round(calls)),
        answers: joined(owners),
      },
    ]),
  );
  const rows = sheetRows(await readAssets(db, who, [...told.keys()], await known(db)), told);
  const content = await asSheet(format, 'Impact', rows, {
    wide: ['path', 'why', 'way', 'owners', 'notices', 'remark'],
    lists: { standing: STANDINGS },
  });
  return {
    name: `impact of ${name.replace(/[^\p{L}\p{N}_.-]+/gu, ' ').trim()}.${format}`,
    type: SHEET_TYPES[format],
    content: content.toString('base64'),
  };
}

/** @throws 422 where more is found than a sheet takes */
export function mustFit(ids: readonly string[]): void {
  if (ids.length > SHEET_MOST.out)
    throw invalid(
      `More than ${SHEET_MOST.out.toLocaleString('en')} assets are found.`,
      'Narrow the filter, and take them out in parts.',
      [{ field: 'filter', message: 'finds too many' }],
    );
}

type Body = BodyOf<typeof sheetEndpoints.back>;

/**
 * Takes a sheet back, or tells what would come of it: each asset that it changes is edited as by hand, with the same rights and rules, and those that cannot
 * be are told.
 * @throws 422 when it cannot be read, or changes more assets than one sheet may; 409 when something else would come of it than was seen
 */
export async function takeSheet(db: Database, who: Who, body: Body, preview: boolean): Promise<SheetChange> {
  const read = readSheetRows(await readSheet(body.name, Buffer.from(body.content, 'base64')));
  const things = await known(db);
  const now = new Map(
    (await readAssets(db, who, [...new Set(read.lines.map(({ id }) => id))], things)).map((asset) => [asset.id, asset]),
  );
  const { cells, same, flaws } = compareSheet(read, now, { ...things.names, tags: withValues(things, read, now) });
  const seen = createHash('sha256').update(JSON.stringify(cells)).digest('base64url');
  const told = {
    cells: cells.slice(0, TOLD.cells).map(({ before, after, ...cell }) => ({
      ...cell,
      before: before.join(', '),
      after: after.join(', '),
    })),
    cellCount: cells.length,
    assets: new Set(cells.map(({ id }) => id)).size,
    same,
    flaws: flaws.slice(0, TOLD.flaws),
    flawCount: flaws.length,
    notKept: read.notKept.map((entry) => ({ ...entry })),
    seen,
  };
  if (preview) return { ...told, changed: 0, refused: [] };
  if (body.seen !== undefined && body.seen !== seen)
    throw conflict(
      'differs-now',
      'Something was changed since you looked: something else would come of the sheet now.',
      'Look at it again, then take it in. Nothing was changed.',
    );
  const left = new Set(body.leave);
  const wanted = new Map<string, CellChange[]>();
  for (const cell of cells)
    if (!left.has(`${cell.at} ${cell.field}`)) wanted.set(cell.id, [...(wanted.get(cell.id) ?? []), cell]);
  if (wanted.size > SHEET_MOST.changed)
    throw invalid(
      `The sheet changes ${wanted.size.toLocaleString('en')} assets.`,
      `Take it in parts: at most ${SHEET_MOST.changed.toLocaleString('en')} are changed by one. Nothing was changed.`,
      [{ field: 'content', message: 'changes too many' }],
    );
  const refused: { at: string; path: string; why: string }[] = [];
  for (const [id, changes] of wanted) {
    const asset = now.get(id) as SheetAsset;
    try {
      await db.transaction((tx) => takeCells(tx, who, asset, changes, things));
    } catch (error) {
      if (!(error instanceof ApiProblem)) throw error;
      refused.push({ at: changes[0]?.at ?? '', path: asset.path, why: error.message });
    }
  }
  return { ...told, changed: wanted.size - refused.length, refused };
}

/** Tags with the values that the sheet gives them, where they take any; what an asset carries already stays understood. */
function withValues({ tags, names }: Known, read: SheetRead, now: ReadonlyMap<string, SheetAsset>): SheetNames['tags'] {
  const all = new Map(names.tags);
  for (const { tags: carried } of now.values()) for (const tag of carried) all.set(tag.toLowerCase(), tag);
  for (const { cells } of read.lines)
    for (const text of cells.tags ?? []) {
      const [key = '', ...value] = text.split('/');
      const tag = tags.get(key.toLowerCase());
      if (tag && tag.permitted === null && value.length > 0 && !all.has(text.toLowerCase()))
        all.set(text.toLowerCase(), text);
    }
  return all;
}

/** Writes what some cells say of an asset: facts as an edit, notices and remarks beside it. */
async function takeCells(tx: Tx, who: Who, { id, version }: SheetAsset, cells: readonly CellChange[], things: Known) {
  const facts = cells.filter(({ field }) => field !== 'notices' && field !== 'remark');
  if (facts.length > 0) await editAsset(tx, who, id, version, changeOf(facts, things));
  const today = new Date().toISOString().slice(0, 10);
  for (const { field, after } of cells)
    for (const text of after) {
      const notice = field === 'notices' ? noticeIn(text) : undefined;
      if (notice) await addNotice(tx, who, id, { ...notice, starts: notice.starts ?? today });
      else if (field === 'remark') await beginDiscussion(tx, who, id, { question: false, text });
    }
}

/** The edit that some cells of an asset ask for. */
function changeOf(cells: readonly CellChange[], { owners, people, terms, tags }: Known): AssetChange {
  const ids = (names: readonly string[], of: ReadonlyMap<string, string>) =>
    names.flatMap((name) => of.get(name) ?? []);
  const one: Record<Exclude<SheetField, 'notices' | 'remark'>, (after: readonly string[]) => AssetChange> = {
    description: ([text = '']) => ({ description: text }),
    owners: (names) => ({ ownerIds: ids(names, owners) }),
    stewards: (names) => ({ stewardIds: ids(names, people) }),
    custodians: (names) => ({ custodianIds: ids(names, people) }),
    terms: (names) => ({ termIds: ids(names, terms) }),
    tags: (names) => ({
      tags: names.flatMap((text) => {
        const [key = '', ...value] = text.split('/');
        const tag = tags.get(key.toLowerCase());
        return tag ? [{ id: tag.id, value: value.join('/') }] : [];
      }),
    }),
    standing: ([standing]) => ({ standing: standing as Standing }),
  };
  return Object.assign(
    {},
    ...cells.map(({ field, after }) => (field === 'notices' || field === 'remark' ? {} : one[field](after))),
  ) as AssetChange;
}
