import { SAID_FIELDS, type SaidField, type SaidLine } from '@idrel/contract/exchange';
import { type CellChange, meant, type SheetAsset, type SheetField, sameSet } from '@idrel/core/catalog';
import { idsAt } from '../catalog/index.ts';
import { type Entry, recordEach } from '../journal/index.ts';
import type { Who } from '../people/index.ts';
import type { Tx } from '../platform/database.ts';
import { type GivenLine, type LineSaid, lineByLine, refusedLine } from '../platform/lines.ts';
import { ApiProblem, forbidden, invalid, notFound } from '../platform/problems.ts';
import { settleArrivals } from '../recognition/index.ts';
import { changeOf, type Known, known, readAssets, withValues } from './called.ts';
import { BY_LINES, byHandNotLines } from './decided.ts';
import { editAsset } from './service.ts';
import { mustGiveTag, rulesOf, type TagRules } from './tagRules.ts';
import { spellValues } from './tagWords.ts';
import { setWords } from './words.ts';

/** Fields of lines as sheets and the journal call them. */
const CALLED: Readonly<Record<SaidField, Exclude<SheetField, 'notices' | 'remark'>>> = {
  description: 'description',
  owner: 'owners',
  stewards: 'stewards',
  custodians: 'custodians',
  terms: 'terms',
  tags: 'tags',
  standing: 'standing',
};

type Given = GivenLine<SaidLine>;
interface Decided {
  readonly by: string;
  readonly at: string;
}
/** A line that is going to be written, and what of it is other than what stands there. */
interface Due {
  readonly line: number;
  readonly asset: SheetAsset;
  readonly domainId: string;
  readonly cells: readonly CellChange[];
  readonly kept: readonly (Decided & { readonly field: SaidField })[];
}

/** What a line says of a field, as sheets hold it; undefined where it says nothing. */
function saidOf(value: SaidLine, field: SaidField): readonly string[] | undefined {
  const said = value[field];
  if (said === undefined) return undefined;
  if (typeof said !== 'object') return said === '' ? [] : [said];
  return said === null ? [] : said;
}

/** Takes what lines say of assets, as people say it: what is said already stays as it is, and what cannot be is refused line by line. */
export async function takeSaidLines(tx: Tx, who: Who, lines: readonly Given[]): Promise<LineSaid[]> {
  const addresses = lines.map(({ value }) => value.of).filter((of) => of.startsWith('/'));
  const ids = await idsAt(tx, addresses);
  const things = await known(tx);
  const said: LineSaid[] = [];
  const rounds: Map<string, Given>[] = [];
  const times = new Map<string, number>();
  for (const given of lines) {
    const id = given.value.of.startsWith('/') ? ids.get(given.value.of) : given.value.of;
    if (id === undefined) {
      said.push(refusedLine(given.line, notFound(`The asset ${given.value.of}`)));
      continue;
    }
    const nth = times.get(id) ?? 0;
    times.set(id, nth + 1);
    rounds[nth] ??= new Map();
    rounds[nth].set(id, given);
  }
  for (const round of rounds) said.push(...(await takeRound(tx, who, things, round)));
  return said;
}

/** Takes lines of which each is about another asset. */
async function takeRound(tx: Tx, who: Who, things: Known, round: ReadonlyMap<string, Given>): Promise<LineSaid[]> {
  const said: LineSaid[] = [];
  const ids = [...round.keys()];
  // Nobody holds up what others do with what is not theirs.
  await tx.rows(
    'select 1 from asset where id = any($1::uuid[]) and domain_id = any($2::uuid[]) order by id for no key update',
    [ids, who.domainsAs('editor')],
  );
  const assets = new Map((await readAssets(tx, who, ids, things)).map((asset) => [asset.id, asset]));
  const domains = new Map(
    (
      await tx.rows<{ id: string; domainId: string }>(
        'select id, domain_id as "domainId" from asset where id = any($1::uuid[])',
        [ids],
      )
    ).map(({ id, domainId }) => [id, domainId]),
  );
  const names = {
    ...things.names,
    tags: withValues(
      things,
      [...round.values()].flatMap(({ value }) => value.tags ?? []),
      assets,
    ),
  };
  const rules = new Map(
    (
      await rulesOf(
        tx,
        [...things.tags.values()].map(({ id }) => id),
      )
    ).map((rule) => [rule.name.toLowerCase(), rule]),
  );
  const decided = await decidedByHand(tx, round);
  const due: Due[] = [];
  for (const [id, { line, value }] of round)
    try {
      const asset = assets.get(id);
      const domainId = domains.get(id);
      if (!asset || !domainId) throw notFound(`The asset ${value.of}`);
      if (!who.is('editor', domainId)) throw forbidden(`editor in the domain of ${asset.path}`);
      const kept: (Decided & { field: SaidField })[] = [];
      const cells = SAID_FIELDS.flatMap((field): CellChange[] => {
        const said = saidOf(value, field);
        if (said === undefined) return [];
        const called = CALLED[field];
        const after = meant(called, said, names, (what, mend) => {
          throw invalid(`${field}: ${what}`, mend);
        });
        if (!after || sameSet(after, asset[called])) return [];
        const hand = value.keep.includes(field) ? decided.get(`${id} ${field}`) : undefined;
        if (hand) {
          kept.push({ field, ...hand });
          return [];
        }
        return [{ at: '', id, path: asset.path, field: called, before: asset[called], after, newer: false }];
      });
      mustTakeTags(who, asset, cells, rules);
      due.push({ line, asset, domainId, cells, kept });
    } catch (error) {
      if (!(error instanceof ApiProblem)) throw error;
      said.push(refusedLine(line, error));
    }
  // How far an asset can be relied on has rules that look at all of it: that is said as on its page.
  const [alone, together] = [due.filter(standsOtherwise), due.filter((one) => !standsOtherwise(one))];
  await writeTogether(
    tx,
    who,
    things,
    together.filter(({ cells }) => cells.length > 0),
  );
  said.push(...together.map(toldOf));
  const edits = alone.map((value) => ({ line: value.line, value }));
  said.push(
    ...(await lineByLine(tx, edits, async (one) => {
      await editAsset(tx, who, one.asset.id, one.asset.version, changeOf(one.cells, things), BY_LINES);
      return toldOf(one);
    })),
  );
  return said;
}

const standsOtherwise = ({ cells }: Due): boolean => cells.some(({ field }) => field === 'standing');

function toldOf({ line, asset, cells, kept }: Due): LineSaid {
  const changes = cells.map(({ field, before, after }) => ({
    field: SAID_FIELDS.find((name) => CALLED[name] === field) ?? field,
    before: before.join(', '),
    after: after.join(', '),
  }));
  return {
    line,
    outcome: cells.length > 0 ? 'changed' : 'same',
    id: asset.id,
    ...(changes.length > 0 ? { changes } : {}),
    ...(kept.length > 0 ? { kept } : {}),
  } as LineSaid;
}

/** Who decided by hand, of the fields in which lines leave that: by asset and field. */
async function decidedByHand(tx: Tx, round: ReadonlyMap<string, Given>): Promise<Map<string, Decided>> {
  const decided = new Map<string, Decided>();
  for (const field of SAID_FIELDS) {
    const ids = [...round].filter(([, { value }]) => value.keep.includes(field)).map(([id]) => id);
    if (ids.length === 0) continue;
    const rows = await tx.rows<{ id: string; hand: Decided | null }>(
      `
        select a.id, ${byHandNotLines(`'${CALLED[field]}'`)} as hand
        from asset a
        where a.id = any($1::uuid[])`,
      [ids],
    );
    for (const { id, hand } of rows) if (hand) decided.set(`${id} ${field}`, { by: hand.by, at: hand.at });
  }
  return decided;
}

/** @throws 403, 422 when a tag that comes or goes is not theirs to give, or not for this asset */
function mustTakeTags(
  who: Who,
  asset: SheetAsset,
  cells: readonly CellChange[],
  rules: ReadonlyMap<string, TagRules>,
): void {
  for (const { field, before, after } of cells) {
    if (field !== 'tags') continue;
    for (const [texts, gone] of [
      [before.filter((text) => !after.includes(text)), true],
      [after.filter((text) => !before.includes(text)), false],
    ] as const)
      for (const text of texts) {
        const [key = '', ...value] = text.split('/');
        const rule = rules.get(key.toLowerCase());
        if (!rule) continue;
        mustGiveTag(rule, gone ? undefined : value.join('/'), who);
        if (!gone && rule.kinds && !rule.kinds.includes(asset.kind))
          throw invalid(`The tag “${rule.name}” is not for a ${asset.kind}.`, `It is for: ${rule.kinds.join(', ')}.`);
      }
  }
}

/** Writes what many lines say, field by field, with an entry in the journal for each asset. */
async function writeTogether(tx: Tx, who: Who, things: Known, due: readonly Due[]): Promise<void> {
  if (due.length === 0) return;
  const of = (field: SheetField) =>
    due.flatMap(({ asset, cells }) => {
      const cell = cells.find((one) => one.field === field);
      return cell ? [{ id: asset.id, change: changeOf([cell], things) }] : [];
    });
  const described = of('description');
  if (described.length > 0) {
    const ids = described.map(({ id }) => id);
    await tx.run(
      'update asset a set description = w.text from unnest($1::uuid[], $2::text[]) as w(id, text) where a.id = w.id',
      [ids, described.map(({ change }) => change.description || null)],
    );
    await setWords(tx, ids);
  }
  for (const [field, role, key] of [
    ['owners', 'owner', 'ownerIds'],
    ['stewards', 'steward', 'stewardIds'],
    ['custodians', 'custodian', 'custodianIds'],
  ] as const) {
    const pairs = of(field);
    if (pairs.length > 0)
      await setAllPeople(
        tx,
        role,
        pairs.map(({ id, change }) => [id, change[key] ?? []] as const),
      );
  }
  const withTerms = of('terms');
  if (withTerms.length > 0)
    await setAllTerms(
      tx,
      withTerms.map(({ id, change }) => [id, change.termIds ?? []] as const),
    );
  const withTags = of('tags');
  if (withTags.length > 0)
    await setAllTags(
      tx,
      withTags.map(({ id, change }) => [id, change.tags ?? []] as const),
    );
  await tx.run('update asset set version = version + 1 where id = any($1::uuid[])', [due.map(({ asset }) => asset.id)]);
  await recordEach(
    tx,
    who,
    due.map(
      ({ asset, domainId, cells }): Entry => ({
        action: BY_LINES,
        subject: { kind: asset.kind as Entry['subject']['kind'], id: asset.id, name: asset.path, domainId },
        before: Object.fromEntries(cells.map(({ field, before }) => [field, wordsOf(field, before)])),
        after: Object.fromEntries(cells.map(({ field, after }) => [field, wordsOf(field, after)])),
      }),
    ),
  );
}

/** What the journal keeps of a field. */
const wordsOf = (field: SheetField, values: readonly string[]) =>
  field === 'description' ? (values[0] ?? null) : [...values].sort();

type Each<T> = readonly (readonly [asset: string, values: readonly T[]])[];
const pairsOf = <T>(all: Each<T>): [assets: string[], values: T[]] => {
  const pairs = all.flatMap(([id, values]) => values.map((value) => [id, value] as const));
  return [pairs.map(([id]) => id), pairs.map(([, value]) => value)];
};
const assetsOf = (all: Each<unknown>): string[] => all.map(([id]) => id);

async function setAllPeople(tx: Tx, role: string, all: Each<string>): Promise<void> {
  const bind = [assetsOf(all), ...pairsOf(all), role];
  await tx.run(
    `
      delete from asset_person x
      where x.asset_id = any($1::uuid[]) and x.role = $4
        and not exists (select from unnest($2::uuid[], $3::uuid[]) as w(asset, person) where w.asset = x.asset_id and w.person = x.person_id)`,
    bind,
  );
  await tx.run(
    `
      insert into asset_person (asset_id, person_id, role)
      select w.asset, w.person, $3
      from unnest($1::uuid[], $2::uuid[]) as w(asset, person)
      on conflict
      do nothing`,
    bind.slice(1),
  );
}

async function setAllTerms(tx: Tx, all: Each<string>): Promise<void> {
  const bind = [assetsOf(all), ...pairsOf(all)];
  // A term that is removed is out of sight, and stays for when it is brought back.
  await tx.run(
    `
      delete from asset_term x
      using term t
      where x.asset_id = any($1::uuid[]) and t.id = x.term_id and t.removed_at is null
        and not exists (select from unnest($2::uuid[], $3::uuid[]) as w(asset, term) where w.asset = x.asset_id and w.term = x.term_id)`,
    bind,
  );
  await tx.run(
    'insert into asset_term (asset_id, term_id) select * from unnest($1::uuid[], $2::uuid[]) on conflict do nothing',
    bind.slice(1),
  );
}

async function setAllTags(tx: Tx, all: Each<{ readonly id: string; readonly value: string }>): Promise<void> {
  const [assets, tags] = pairsOf(all);
  await spellValues(
    tx,
    tags.map(({ value }) => value),
  );
  await tx.run(
    `
      delete from asset_tag x
      using tag t
      where x.asset_id = any($1::uuid[]) and t.id = x.tag_id and t.removed_at is null
        and not exists (select from unnest($2::uuid[], $3::uuid[]) as w(asset, tag) where w.asset = x.asset_id and w.tag = x.tag_id)`,
    [assetsOf(all), assets, tags.map(({ id }) => id)],
  );
  await tx.run(
    `
      insert into asset_tag (asset_id, tag_id, value)
      select w.asset, w.tag, w.value
      from unnest($1::uuid[], $2::uuid[], $3::text[]) as w(asset, tag, value)
      on conflict (asset_id, tag_id)
      do update set value = excluded.value`,
    [assets, tags.map(({ id }) => id), tags.map(({ value }) => value)],
  );
  await settleArrivals(tx);
}
