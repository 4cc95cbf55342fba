import { randomUUID } from 'node:crypto';
import type { GlossaryFormat } from '@idrel/contract/glossary';
import { GLOSSARY_FORMATS } from '@idrel/contract/glossary';
import { entryKey } from '@idrel/core/glossary';
import fc from 'fast-check';
import { afterAll, beforeAll, beforeEach, describe, expect, it } from 'vitest';
import { anyVocabulary } from '../../core/src/testing/vocabularies.ts';
import { findAssets } from '../src/catalog/service.ts';
import { addTag, mergeTag } from '../src/curation/tags.ts';
import { carryTerm, TERM_CLASS_USE, termCarriers, termsOf } from '../src/glossary/carriers.ts';
import { termConflicts } from '../src/glossary/conflicts.ts';
import { exportGlossary, importGlossary } from '../src/glossary/exchange.ts';
import { readGlossary, writeGlossary } from '../src/glossary/formats.ts';
import { addScheme, changeScheme, listSchemes, removeScheme } from '../src/glossary/schemes.ts';
import {
  addTerm,
  bringBackTerm,
  changeTerm,
  findTerms,
  getTerm,
  removeTerm,
  spellTerms,
  termTree,
} from '../src/glossary/terms.ts';
import { readVocabulary } from '../src/glossary/vocabulary.ts';
import { loadWho, type Who } from '../src/people/index.ts';
import { finderHere, freshDatabase, furnish, personWith, refused } from './place.ts';

let place: Awaited<ReturnType<typeof freshDatabase>>;
let finder: ReturnType<typeof finderHere>;
let steward: Who;
let editor: Who;
let owner: Who;
let sourceId: string;
let domainId: string;

beforeAll(async () => {
  place = await freshDatabase();
  ({ sourceId, domainId } = await furnish(place.db));
  steward = await personWith(place.db, 'Stig', 'steward', domainId);
  editor = await personWith(place.db, 'Edda', 'editor', domainId);
  owner = await personWith(place.db, 'Ove', 'editor', domainId);
  finder = finderHere(place.db);
});
afterAll(() => place.drop());
beforeEach(async () => {
  for (const table of ['asset', 'term', 'journal']) await place.db.run(`delete from ${table}`);
  await place.db.run('delete from scheme where id <> (select id from scheme order by created_at limit 1)');
});

type NewTerm = Parameters<typeof addTerm>[2];
const make = (name: string, more: Partial<NewTerm> = {}, by = steward) =>
  place.db.transaction((tx) => addTerm(tx, by, { name, ...more }));
const edit = (id: string, version: number, change: Parameters<typeof changeTerm>[4], by = steward) =>
  place.db.transaction((tx) => changeTerm(tx, by, id, version, change));
const label = (text: string, kind: 'alternative' | 'hidden' | 'preferred' = 'alternative', language = 'en') => ({
  kind,
  language,
  text,
});
const table = async (name: string, terms: string[] = []) => {
  const [made] = await place.db.rows<{ id: string }>(
    `insert into asset (source_id, domain_id, kind, name, key, depth) values ($1, $2, 'table', $3, $3, 0) returning id`,
    [sourceId, domainId, name],
  );
  for (const term of terms)
    await place.db.run('insert into asset_term (asset_id, term_id) values ($1, $2)', [made?.id, term]);
  return made?.id ?? '';
};
const found = async (filter: string) =>
  (
    await findAssets(place.db, finder, steward, {
      filter,
      sort: 'relevance',
      descending: false,
      limit: 50,
      offset: 0,
    })
  ).items.map(({ name }) => name);
const sheet = (...lines: string[]) => ({
  name: 'terms.csv',
  content: Buffer.from(lines.join('\n')).toString('base64'),
  leave: [],
});
const take = (body: Parameters<typeof importGlossary>[2], preview = false, by = steward) =>
  importGlossary(place.db, by, body, preview);

describe('a term', () => {
  it('has labels in several languages, lies below several, is related both ways', async () => {
    const person = await make('Person');
    const guest = await make('Hotel guest');
    const traveller = await make('Traveller', {
      labels: [label('Passenger'), label('pax', 'hidden'), label('Reisender', 'preferred', 'de')],
      broaderIds: [person.id, guest.id],
    });
    expect(traveller.broader.map(({ name }) => name)).toEqual(['Hotel guest', 'Person']);
    const card = await make('Wake Card', { relatedIds: [traveller.id] });
    expect((await getTerm(place.db, steward, traveller.id)).related).toMatchObject([{ id: card.id }]);
    expect((await getTerm(place.db, steward, person.id)).narrower).toMatchObject([{ id: traveller.id }]);
    await edit(card.id, card.version, { relatedIds: [] });
    expect((await getTerm(place.db, steward, traveller.id)).related).toEqual([]);
    const tree = await termTree(place.db, steward, {});
    expect(tree.lines.map(({ name, depth }) => `${'-'.repeat(depth)}${name}`)).toEqual([
      'Hotel guest',
      '-Traveller',
      'Person',
      '-Traveller',
      'Wake Card',
    ]);
    const closed = await termTree(place.db, steward, { open: person.id });
    expect(closed.lines.map(({ name, narrower }) => [name, narrower])).toEqual([
      ['Hotel guest', 1],
      ['Person', 1],
      ['Traveller', 0],
      ['Wake Card', 0],
    ]);
  });

  it('closes no circle, by whichever way', async () => {
    const a = await make('A');
    const b = await make('B', { broaderIds: [a.id] });
    const c = await make('C', { broaderIds: [b.id] });
    expect(await refused(edit(a.id, 1, { broaderIds: [c.id] }))).toMatchObject({
      status: 422,
      detail: '“C” lies below this term already: that would be a circle.',
    });
    expect(await refused(edit(a.id, 1, { broaderIds: [a.id] }))).toMatchObject({ status: 422 });
    // Two at once, each fine by itself.
    const [x, y] = [await make('X'), await make('Y')];
    const both = await Promise.all([
      refused(edit(x.id, 1, { broaderIds: [y.id] })),
      refused(edit(y.id, 1, { broaderIds: [x.id] })),
    ]);
    expect(both.filter(Boolean)).toHaveLength(1);
  });

  it('is found by each of its labels, and what is called one way is found by the others', async () => {
    const traveller = await make('Traveller', { labels: [label('Passenger'), label('pax', 'hidden')] });
    await make('Trip');
    const terms = async (search: string) =>
      (await findTerms(place.db, steward, { search, limit: 10, offset: 0 })).items.map(({ name, by }) => [name, by]);
    expect(await terms('tr')).toEqual([
      ['Traveller', null],
      ['Trip', null],
    ]);
    expect(await terms('passen')).toEqual([['Traveller', 'Passenger']]);
    expect(await terms('pax')).toEqual([['Traveller', 'pax']]);
    expect(await terms("o'hare:*&")).toEqual([]);
    await table('passenger_list');
    await table('ledger', [traveller.id]);
    expect(await found('traveller')).toEqual(['ledger', 'passenger_list']);
    expect(await found('"pax"')).toEqual(['ledger']);
    await edit(traveller.id, traveller.version, { labels: [] });
    expect(await found('passenger')).toEqual(['passenger_list']);
    expect(await found('"pax"')).toEqual([]);
  });

  it('that is removed is carried by nothing, until it is brought back', async () => {
    const above = await make('Person');
    const traveller = await make('Traveller', { broaderIds: [above.id] });
    await table('ledger', [traveller.id]);
    expect((await getTerm(place.db, steward, traveller.id)).assets).toBe(1);
    await place.db.transaction((tx) => removeTerm(tx, steward, traveller.id));
    expect(await found('term:any')).toEqual([]);
    expect(await found('traveller')).toEqual([]);
    expect((await getTerm(place.db, steward, above.id)).narrower).toEqual([]);
    // What it lay below is edited meanwhile: its place is kept.
    await edit(above.id, 1, { definition: 'Who can be named.', relatedIds: [] });
    const again = await make('Traveller');
    expect(await refused(place.db.transaction((tx) => bringBackTerm(tx, steward, traveller.id)))).toMatchObject({
      code: 'name-taken',
    });
    await place.db.transaction((tx) => removeTerm(tx, steward, again.id));
    const back = await place.db.transaction((tx) => bringBackTerm(tx, steward, traveller.id));
    expect(back).toMatchObject({ assets: 1, broader: [{ id: above.id }] });
    expect(await found('term:traveller')).toEqual(['ledger']);
  });

  it('that was there before there were words gets them', async () => {
    const made = await make('Fare band', { labels: [label('Tariff')] });
    await place.db.run('update term set words = null where id = $1', [made.id]);
    expect(await findTerms(place.db, steward, { search: 'tariff', limit: 10, offset: 0 })).toMatchObject({ total: 0 });
    await place.db.transaction(spellTerms);
    expect(await findTerms(place.db, steward, { search: 'tariff', limit: 10, offset: 0 })).toMatchObject({ total: 1 });
  });
});

describe('a scheme', () => {
  const body = { name: 'Fares', language: 'en', description: '', ownerId: null };

  it('is agreed to by its owner: what others change of what was agreed waits', async () => {
    const scheme = await place.db.transaction((tx) => addScheme(tx, steward, { ...body, ownerId: owner.id }));
    expect(await make('Tariff', { schemeId: scheme.id, status: 'agreed' }, editor)).toMatchObject({
      status: 'proposed',
    });
    const fare = await make('Fare', { schemeId: scheme.id, status: 'agreed' }, owner);
    expect(fare).toMatchObject({ status: 'agreed', mayApprove: true });
    expect(await edit(fare.id, 1, { ownerId: editor.id }, editor)).toMatchObject({
      status: 'agreed',
      mayApprove: false,
    });
    expect(await edit(fare.id, 2, { definition: 'A price.' }, editor)).toMatchObject({ status: 'proposed' });
    expect(await edit(fare.id, 3, { status: 'agreed' }, editor)).toMatchObject({ status: 'proposed' });
    expect(await edit(fare.id, 3, { status: 'agreed' }, owner)).toMatchObject({ status: 'agreed', version: 4 });
    expect(await refused(place.db.transaction((tx) => removeTerm(tx, editor, fare.id)))).toMatchObject({ status: 403 });
    // Nor by way of another scheme, to whose terms they may agree.
    expect(
      await edit(fare.id, 4, { schemeId: (await listSchemes(place.db, steward))[0]?.id ?? '' }, steward),
    ).toMatchObject({
      status: 'proposed',
    });
    expect(await listSchemes(place.db, owner)).toMatchObject([
      { mayApprove: false },
      { mayApprove: true, proposed: 1 },
    ]);
  });

  it('is changed by who agrees to its terms alone, and removed when it has none', async () => {
    const scheme = await place.db.transaction((tx) => addScheme(tx, steward, { ...body, ownerId: owner.id }));
    const change = (by: Who) =>
      place.db.transaction((tx) => changeScheme(tx, by, scheme.id, 1, { ...body, ownerId: by.id }));
    expect(await refused(change(editor))).toMatchObject({ status: 403 });
    expect(await refused(change(steward))).toMatchObject({ status: 403 });
    const term = await make('Tariff', { schemeId: scheme.id }, owner);
    const remove = () => refused(place.db.transaction((tx) => removeScheme(tx, owner, scheme.id)));
    expect(await remove()).toMatchObject({ status: 409, code: 'still-used' });
    await place.db.transaction((tx) => removeTerm(tx, owner, term.id));
    expect(await remove()).toBeUndefined();
    const [last] = await listSchemes(place.db, steward);
    expect(await refused(place.db.transaction((tx) => removeScheme(tx, steward, last?.id ?? '')))).toMatchObject({
      detail: 'It is the only scheme, and terms need one.',
    });
  });

  it('has each name once; two schemes may call two things the same', async () => {
    const scheme = await place.db.transaction((tx) => addScheme(tx, steward, body));
    await make('Fare');
    expect(await make('Fare', { schemeId: scheme.id })).toMatchObject({ scheme: 'Fares' });
    expect(await refused(make('fare'))).toMatchObject({ code: 'name-taken' });
    expect(
      await refused(place.db.transaction((tx) => addScheme(tx, steward, { ...body, name: 'fares' }))),
    ).toMatchObject({
      code: 'name-taken',
    });
  });
});

describe('terms as a file', () => {
  const FORMATS = Object.keys(GLOSSARY_FORMATS) as GlossaryFormat[];

  it.each(FORMATS)('written as %s and taken in again are the same, from bytes to bytes', async (format) => {
    await fc.assert(
      fc.asyncProperty(anyVocabulary, async (vocabulary) => {
        const bytes = await writeGlossary(format, vocabulary);
        const given = await readGlossary(format, bytes);
        expect(given.flaws).toEqual([]);
        expect(given.concepts.map(({ name }) => name).sort()).toEqual(
          vocabulary.concepts.map(({ name }) => name).sort(),
        );
      }),
      { numRuns: 40 },
    );
  });

  it.each(FORMATS)('as %s change nothing where they come from, and make the same where nothing is', async (format) => {
    const [person, fare] = [await make('Person', { definition: 'Who = named.\nTwo lines.' }), await make('=Fare')];
    await make('Traveller', {
      labels: [label('Passenger'), label('a | b', 'hidden'), label('Reisender', 'preferred', 'de')],
      notes: [
        { kind: 'scope note', language: 'en', text: 'Not crew.' },
        { kind: 'definition', language: 'de', text: 'Wer reist.' },
      ],
      broaderIds: [person.id],
      relatedIds: [fare.id],
      matches: [{ kind: 'exact', uri: 'https://example.org/traveller' }],
      status: 'agreed',
      ownerId: owner.id,
    });
    const before = await readVocabulary(place.db);
    const file = await exportGlossary(place.db, steward, format);
    const body = { name: file.name, content: file.content, leave: [] };
    expect(await take(body, true)).toMatchObject({ freshCount: 0, changedCount: 0, same: 3, flaws: [], notKept: [] });
    await place.db.run('delete from term');
    const there = await take(body);
    expect(there).toMatchObject({ freshCount: 3, changedCount: 0, flaws: [], written: true });
    const after = await readVocabulary(place.db);
    const plain = ({ concepts }: typeof before) =>
      concepts.map(({ id: _id, labels, notes, ...concept }) => ({
        ...concept,
        labels: labels.map(entryKey).sort(),
        notes: notes.map(entryKey).sort(),
      }));
    expect(plain(after)).toEqual(plain(before));
    expect(await findTerms(place.db, steward, { search: 'passenger', limit: 10, offset: 0 })).toMatchObject({
      total: 1,
    });
  });

  it('are taken in as they were seen, each or not, and told in the journal', async () => {
    const known = await make('Traveller', { labels: [label('Guest')], status: 'agreed' });
    const body = sheet('name,definition,broader', 'Traveller,Who travels.,', 'Minor,Under 18.,Traveller', 'Deck,,');
    const seen = await take(body, true);
    expect(seen).toMatchObject({ freshCount: 2, changedCount: 1, written: false });
    expect(seen.changed).toEqual([
      { at: 'line 2', name: 'Traveller', fields: [{ field: 'definition', before: '', after: 'Who travels.' }] },
    ]);
    expect(await findTerms(place.db, steward, { search: '', limit: 10, offset: 0 })).toMatchObject({ total: 1 });
    const edited = await edit(known.id, 1, { definition: 'Somebody else wrote this.' });
    expect(await refused(take({ ...body, seen: seen.seen }))).toMatchObject({ status: 409, code: 'differs-now' });
    const again = await take(body, true);
    expect(await take({ ...body, seen: again.seen, leave: ['line 2', 'line 4'] })).toMatchObject({
      freshCount: 1,
      changedCount: 0,
    });
    expect(await getTerm(place.db, steward, known.id)).toMatchObject({ version: edited.version, narrowerCount: 1 });
    const journal = await place.db.rows<{ action: string; subject_name: string; after: object }>(
      "select action, subject_name, after from journal where action like '%file'",
    );
    expect(journal).toMatchObject([
      {
        action: 'taken from a file',
        subject_name: 'Minor',
        after: { definition: 'Under 18.', broader: ['Traveller'] },
      },
    ]);
    expect(
      await place.db.one(
        "select count(*)::int as n from event e join journal j on j.id = e.journal_id where j.action like '%file'",
      ),
    ).toEqual({ n: 1 });
  });

  it('are taken in with the rights of who takes them in', async () => {
    await make('Traveller', { status: 'agreed' });
    const told = await take(
      sheet('name,definition,status', 'Traveller,Who travels.,agreed', 'Deck,,agreed'),
      false,
      editor,
    );
    expect(told.flaws).toHaveLength(2);
    const lines = (await termTree(place.db, steward, {})).lines.map(({ name, status }) => [name, status]);
    expect(lines).toEqual([
      ['Deck', 'proposed'],
      ['Traveller', 'proposed'],
    ]);
    const turtle = Buffer.from(
      '@prefix skos: <http://www.w3.org/2004/02/skos/core#>. <urn:s> a skos:ConceptScheme; skos:prefLabel "Sea"@en. <urn:c> a skos:Concept; skos:inScheme <urn:s>; skos:prefLabel "Ship"@en.',
    ).toString('base64');
    const body = { name: 'sea.ttl', content: turtle, leave: [] };
    expect(await refused(take(body, true, editor))).toMatchObject({ status: 403 });
    expect(await take(body)).toMatchObject({ schemes: ['Sea'], freshCount: 1 });
    expect((await listSchemes(place.db, steward)).at(-1)).toMatchObject({ name: 'Sea', owner: 'Stig', terms: 1 });
    expect(
      await place.db.rows("select action from journal where subject_kind = 'scheme' and subject_name = 'Sea'"),
    ).toEqual([{ action: 'taken from a file' }]);
    // Removed, and brought back by the same file, to what carried it.
    const [ship] = (await findTerms(place.db, steward, { search: 'ship', limit: 1, offset: 0 })).items;
    await table('ferry', [ship?.id ?? '']);
    await place.db.transaction((tx) => removeTerm(tx, steward, ship?.id ?? ''));
    expect(await take(body)).toMatchObject({ freshCount: 1 });
    expect(await found('term:ship')).toEqual(['ferry']);
  });

  it.each([
    ['terms.doc', 'x', 'its ending says no kind of file'],
    ['a.ttl', '<urn:a> <urn:b', 'no Turtle'],
    ['a.jsonld', '{', 'no JSON'],
    ['a.jsonld', '{"@context": "https://example.org/context"}', 'nothing is fetched'],
    ['a.jsonld', '{"@context": {"a": {"@id": 7}}}', 'no JSON-LD'],
    ['a.csv', 'name\n"open', 'no CSV'],
    ['a.xlsx', 'no workbook', 'no XLSX'],
  ])('that cannot be read are refused in words: %s %s', async (name, content, why) => {
    const problem = await refused(take({ name, content: Buffer.from(content).toString('base64'), leave: [] }));
    expect(problem).toMatchObject({
      status: 422,
      detail: expect.stringContaining(why),
      mend: expect.stringMatching(/\w/),
    });
  });

  it('that are no text in UTF-8 are refused, and halves of characters are not written', async () => {
    const latin = Buffer.from([0x6e, 0x61, 0x6d, 0x65, 0x0a, 0xe9]).toString('base64');
    expect(await refused(take({ name: 'a.csv', content: latin, leave: [] }))).toMatchObject({
      detail: 'The file is not written in UTF-8.',
    });
    const odd = Buffer.from(
      '{"@id": "urn:a", "@type": "http://www.w3.org/2004/02/skos/core#Concept", "http://www.w3.org/2004/02/skos/core#prefLabel": "a\\u0000b\\ud800"}',
    );
    expect(await take({ name: 'a.json', content: odd.toString('base64'), leave: [] })).toMatchObject({ freshCount: 1 });
    expect((await termTree(place.db, steward, {})).lines.map(({ name }) => name)).toEqual(['a␀b�']);
  });
});

describe('what is amiss', () => {
  it('is told, also of two meanings in one report; of assets only those that may be seen', async () => {
    const scheme = await place.db.transaction((tx) =>
      addScheme(tx, steward, { name: 'Fares', language: 'en', description: '', ownerId: null }),
    );
    const one = await make('Fare', { definition: 'A price.' });
    const other = await make('Tariff', { schemeId: scheme.id, labels: [label('fare')] });
    const [report] = await place.db.rows<{ id: string }>(
      `insert into asset (source_id, domain_id, kind, name, key, depth) values ($1, $2, 'report', 'Sales', 'r', 0) returning id`,
      [sourceId, domainId],
    );
    await place.db.run(
      `insert into asset (source_id, domain_id, kind, name, key, depth, parent_id) values ($1, $2, 'column', 'price', E'r\\x1fp', 1, $3)`,
      [sourceId, domainId, report?.id],
    );
    await place.db.run("insert into asset_term select id, $1 from asset where name = 'price'", [one.id]);
    await place.db.run('insert into asset_term values ($1, $2)', [report?.id, other.id]);
    const told = await termConflicts(place.db, steward);
    expect(
      told.items.map(({ kind, terms, report: where }) => [kind, terms.map(({ name }) => name).sort(), where?.name]),
    ).toEqual([
      ['two in one report', ['Fare', 'Tariff'], 'Sales'],
      ['same name', ['Fare', 'Tariff'], undefined],
    ]);
    const [stranger] = await place.db.rows<{ id: string }>(
      "insert into person (name, email) values ('Nobody', 'n') returning id",
    );
    const nobody = (await loadWho(place.db, stranger?.id ?? '')) as Who;
    const seen = (await termConflicts(place.db, nobody)).items;
    expect(seen.map(({ kind }) => kind)).not.toContain('two in one report');
    expect(seen.filter(({ kind }) => kind === 'orphaned')).toHaveLength(2);
  });
});

describe('what classes and tags mean', () => {
  const carry = (id: string, body: Parameters<typeof carryTerm>[3], by = editor) =>
    place.db.transaction((tx) => carryTerm(tx, by, id, body));
  const tag = (name: string) =>
    place.db.transaction((tx) =>
      addTag(tx, steward, { name, description: '', permitted: null, kinds: null, groupIds: [], travels: [] }),
    );

  it('is said by terms, from either side, told in the history of the term, and undone', async () => {
    const [mail, ticket] = [await make('Electronic mail'), await tag(`ticket ${randomUUID()}`)];
    expect(await carry(mail.id, { class: 'email', carries: true })).toEqual({
      classes: [{ key: 'email', label: 'E-mail address' }],
      tags: [],
    });
    await carry(mail.id, { tag: ticket.id, carries: true });
    // A second time changes nothing, and tells nothing.
    await carry(mail.id, { tag: ticket.id, carries: true });
    expect(await termCarriers(place.db, owner, mail.id)).toMatchObject({
      tags: [{ id: ticket.id, name: ticket.name }],
    });
    for (const of of [{ class: 'email' }, { tag: ticket.id }])
      expect(await termsOf(place.db, of)).toEqual([{ id: mail.id, name: 'Electronic mail', status: mail.status }]);
    await carry(mail.id, { class: 'email', carries: false });
    expect(await termsOf(place.db, { class: 'email' })).toEqual([]);
    expect(
      (
        await place.db.rows<{ before: object; after: object }>(
          "select before, after from journal where subject_id = $1 and action = 'edited' order by id",
          [mail.id],
        )
      ).map(({ before, after }) => [before, after]),
    ).toEqual([
      [{ classes: [] }, { classes: ['E-mail address'] }],
      [{ tags: [] }, { tags: [ticket.name] }],
      [{ classes: ['E-mail address'] }, { classes: [] }],
    ]);
  });

  it('is said by editors of what is there, and goes with the tag, the class or the term', async () => {
    const mail = await make('Electronic mail');
    const reader = await personWith(place.db, `Rune ${randomUUID()}`, 'reader', domainId);
    expect(await refused(carry(mail.id, { class: 'email', carries: true }, reader))).toMatchObject({
      code: 'forbidden',
    });
    expect(await refused(carry(mail.id, { class: 'none such', carries: true }))).toMatchObject({ code: 'invalid' });
    expect(await refused(carry(mail.id, { tag: randomUUID(), carries: true }))).toMatchObject({ code: 'invalid' });
    expect(await refused(carry(randomUUID(), { class: 'email', carries: true }))).toMatchObject({ status: 404 });
    const [from, into] = [await tag(`old ${randomUUID()}`), await tag(`new ${randomUUID()}`)];
    await carry(mail.id, { tag: from.id, carries: true });
    await place.db.transaction((tx) => mergeTag(tx, steward, from.id, into.id, 0));
    expect((await termCarriers(place.db, editor, mail.id)).tags).toEqual([{ id: into.id, name: into.name }]);
    await place.db.transaction(async (tx) => removeTerm(tx, steward, mail.id));
    expect(await termsOf(place.db, { tag: into.id })).toEqual([]);
    await carry((await make('Address')).id, { class: 'email', carries: true });
    await place.db.transaction((tx) => TERM_CLASS_USE.forget?.(tx, 'email') ?? Promise.resolve());
    expect(await termsOf(place.db, { class: 'email' })).toEqual([]);
  });
});
