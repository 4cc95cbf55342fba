import { createHash, randomUUID } from 'node:crypto';
import type { FileAnswer } from '@idrel/contract/curation';
import type { exchangeEndpoints, GlossaryChange, GlossaryFormat } from '@idrel/contract/glossary';
import type { BodyOf } from '@idrel/contract/http';
import {
  type ChangedConcept,
  type ComparedField,
  type Concept,
  compareVocabulary,
  type Given,
  type Scheme,
  type VocabularyChange,
} from '@idrel/core/glossary';
import { type Entry, recordEach } from '../journal/index.ts';
import type { Who } from '../people/index.ts';
import type { Database, Db } from '../platform/database.ts';
import { conflict, forbidden } from '../platform/problems.ts';
import { formatOf, mediaType, readGlossary, writeGlossary } from './formats.ts';
import { firstScheme, listSchemes, SCHEMES } from './schemes.ts';
import { termWords, toldOfTerm } from './terms.ts';
import { type KeptVocabulary, readVocabulary } from './vocabulary.ts';

/** So many of a list are told; how many there are is told beside it. */
const TOLD = 500;

/** Terms of one scheme, or all, as a file. */
export async function exportGlossary(db: Db, who: Who, format: GlossaryFormat, schemeId?: string): Promise<FileAnswer> {
  const scheme = schemeId ? await SCHEMES.read(db, who, schemeId) : null;
  const content = await writeGlossary(format, await readVocabulary(db, schemeId));
  const name = (scheme?.name ?? 'glossary')
    .toLowerCase()
    .replace(/[^\p{L}\p{N}]+/gu, '-')
    .replace(/^-|-$/g, '');
  return { name: `${name || 'glossary'}.${format}`, type: mediaType(format), content: content.toString('base64') };
}

type Body = BodyOf<typeof exchangeEndpoints.imported>;

/**
 * Takes terms from a file, or tells what would come of it.
 * @throws 422 when the file cannot be read; 403 when it brings schemes and who takes it in may make none; 409 when something else would come of it than was seen
 */
export async function importGlossary(db: Database, who: Who, body: Body, preview: boolean): Promise<GlossaryChange> {
  const given = await readGlossary(formatOf(body.name), Buffer.from(body.content, 'base64'));
  return db.transaction(async (tx) => {
    if (!preview) {
      // Nobody changes a term between the comparison and what is written.
      await tx.run("select pg_advisory_xact_lock(hashtext('term.relation'))");
      await tx.run('lock table term, scheme in share row exclusive mode');
    }
    const now = await readVocabulary(tx);
    const whole = await compare(tx, who, now, given, body.schemeId);
    const seen = digest(whole);
    if (preview) return told(whole, given, now, { seen, written: false });
    if (body.seen !== undefined && body.seen !== seen)
      throw conflict(
        'differs-now',
        'The glossary was changed since you looked: something else would come of the file now.',
        'Look at it again, then take it in. Nothing was changed.',
      );
    const left = new Set(body.leave);
    const chosen =
      left.size === 0
        ? whole
        : await compare(
            tx,
            who,
            now,
            { ...given, concepts: given.concepts.filter(({ at }) => !left.has(at)) },
            body.schemeId,
          );
    await write(tx, who, now, chosen);
    return told(chosen, given, now, { seen, written: true });
  });
}

async function compare(
  tx: Db,
  who: Who,
  now: KeptVocabulary,
  given: Given,
  schemeId: string | undefined,
): Promise<VocabularyChange> {
  const schemes = await listSchemes(tx, who);
  const scheme = schemeId ? await SCHEMES.read(tx, who, schemeId) : await firstScheme(tx, who);
  const mayApprove = new Map(schemes.map((entry) => [entry.uri, entry.mayApprove]));
  const people = await tx.rows<{ name: string; email: string }>(
    'select name, email from person where left_at is null and partner_id is null order by name',
  );
  let made = 0;
  const change = compareVocabulary(now, given, {
    scheme: scheme.uri,
    // Until it is written a new term that brings no address has one that nothing else has, and that is the same with each look.
    makeUri: () => `${UNWRITTEN}${++made}`,
    people: people.map(({ name, email }) => [name, email] as const),
    // Who brings a scheme answers for it.
    mayApprove: (uri) => mayApprove.get(uri) ?? who.isAnywhere('steward'),
  });
  if (change.schemes.length > 0 && !who.isAnywhere('steward'))
    throw forbidden('steward in at least one domain, to bring new schemes');
  return change;
}
const UNWRITTEN = 'urn:x-unwritten:';

const digest = ({ schemes, fresh, changed }: VocabularyChange): string =>
  createHash('sha256').update(JSON.stringify({ schemes, fresh, changed })).digest('base64url');

function told(
  change: VocabularyChange,
  { notKept }: Given,
  now: KeptVocabulary,
  state: Pick<GlossaryChange, 'seen' | 'written'>,
): GlossaryChange {
  const named = new Map(
    [...now.concepts, ...change.fresh, ...change.changed.map(({ after }) => after)].map(({ uri, name }) => [uri, name]),
  );
  const schemes = new Map([...now.schemes, ...change.schemes].map(({ uri, name }) => [uri, name]));
  const say = (concept: Concept, field: ComparedField) => inWords(concept, field, named, schemes);
  const at = (uri: string) => change.places.get(uri) ?? uri;
  return {
    schemes: change.schemes.map(({ name }) => name),
    fresh: change.fresh.slice(0, TOLD).map((concept) => ({
      at: at(concept.uri),
      name: concept.name,
      definition: concept.definition,
      broader: concept.broader.map((uri) => named.get(uri) ?? uri),
    })),
    freshCount: change.fresh.length,
    changed: change.changed.slice(0, TOLD).map(({ before, after, fields }) => ({
      at: at(after.uri),
      name: before.name,
      fields: fields.map((field) => ({ field, ...differing(say(before, field), say(after, field)) })),
    })),
    changedCount: change.changed.length,
    same: change.same,
    flaws: change.flaws.slice(0, TOLD).map((flaw) => ({ ...flaw })),
    flawCount: change.flaws.length,
    notKept: notKept.slice(0, TOLD).map((entry) => ({ ...entry })),
    ...state,
  };
}

/** Of a list what goes and what comes; of anything else both sides. */
function differing(before: string | readonly string[], after: string | readonly string[]) {
  if (typeof before === 'string' || typeof after === 'string') return { before: String(before), after: String(after) };
  const lines = (list: readonly string[], other: readonly string[]) =>
    list.filter((entry) => !other.includes(entry)).join('\n');
  return { before: lines(before, after), after: lines(after, before) };
}

/** A field of a term as it is read; of a list each entry. */
function inWords(
  concept: Concept,
  field: ComparedField,
  named: ReadonlyMap<string, string>,
  schemes: ReadonlyMap<string, string>,
): string | readonly string[] {
  const names = (uris: readonly string[]) => uris.map((uri) => ({ name: named.get(uri) ?? uri }));
  const { broader, related, scheme } = concept;
  const words = toldOfTerm({
    ...concept,
    scheme: schemes.get(scheme) ?? scheme,
    broader: names(broader),
    related: names(related),
  })[field];
  return words ?? '';
}

/** Writes a comparison: sets of rows, however many terms there are. */
async function write(
  tx: Db,
  who: Who,
  now: KeptVocabulary,
  { schemes, fresh, changed }: VocabularyChange,
): Promise<void> {
  const brought = await tx.rows<Scheme & { id: string }>(
    `
      insert into scheme (uri, name, language, description, owner_id)
      select s.uri, s.name, s.language, s.description, $2
      from json_to_recordset($1::json) as s(uri text, name text, language text, description text)
      returning id, uri, name, language, description`,
    [JSON.stringify(schemes), who.id],
  );
  const ids = new Map(now.concepts.map(({ uri, id }) => [uri, id]));
  // What was removed once comes back under its address, to all that carried it.
  const removed = await tx.rows<{ id: string; uri: string }>(
    'select id, uri from term where removed_at is not null and uri = any($1::text[])',
    [fresh.map(({ uri }) => uri)],
  );
  for (const { id, uri } of removed) ids.set(uri, id);
  for (const { uri } of fresh) if (!ids.has(uri)) ids.set(uri, randomUUID());
  const after = [...fresh, ...changed.map((change) => change.after)];
  await tx.run(WRITTEN, [JSON.stringify(after.map((concept) => rowOf(concept, ids)))]);
  await relate(tx, ids, after);
  await recordEach(tx, who, [
    ...brought.map(({ id, name, language, description }) => ({
      action: 'taken from a file',
      subject: { kind: 'scheme' as const, id, name, domainId: null },
      before: null,
      after: { name, language, description, owner: who.name },
    })),
    ...entriesOf(now, fresh, changed, ids),
  ]);
}

/** What stands in the row of a term. */
function rowOf(concept: Concept, ids: ReadonlyMap<string, string>) {
  const { uri, scheme, name, language, labels, definition, notes, matches, status, owner } = concept;
  const id = ids.get(uri) ?? '';
  return {
    id,
    uri: uri.startsWith(UNWRITTEN) ? `urn:uuid:${id}` : uri,
    scheme,
    name,
    language,
    labels,
    definition,
    notes,
    matches,
    status,
    owner,
    words: termWords(concept),
  };
}

const WRITTEN = `
  insert into term (id, uri, scheme_id, name, language, labels, definition, notes, matches, status, owner_id, words)
  select
    t.id, t.uri, s.id, t.name, t.language, t.labels, t.definition, t.notes, t.matches, t.status,
    (select p.id from person p where p.name = t.owner order by p.id limit 1), t.words::tsvector
  from json_to_recordset($1::json) as t(
    id uuid, uri text, scheme text, name text, language text, labels jsonb, definition text, notes jsonb, matches jsonb,
    status text, owner text, words text
  )
  join scheme s on s.uri = t.scheme
  on conflict (id)
  do update set
    scheme_id = excluded.scheme_id, name = excluded.name, language = excluded.language, labels = excluded.labels,
    definition = excluded.definition, notes = excluded.notes, matches = excluded.matches, status = excluded.status,
    -- Of two people of one name it stays the one it is.
    owner_id = case
      when (select p.name from person p where p.id = term.owner_id) = (select p.name from person p where p.id = excluded.owner_id) then term.owner_id
      else excluded.owner_id
    end,
    words = excluded.words, removed_at = null, version = term.version + 1`;

/** Relations of terms as they are now; those with terms that are removed stay, for when these are brought back. */
async function relate(tx: Db, ids: ReadonlyMap<string, string>, concepts: readonly Concept[]): Promise<void> {
  await tx.run(
    `
      delete from term_relation r
      where (r.term_id = any($1::uuid[]) or (r.kind = 'related' and r.other_id = any($1::uuid[])))
        and not exists (select 1 from term t where t.id in (r.term_id, r.other_id) and t.removed_at is not null)`,
    [concepts.map(({ uri }) => ids.get(uri))],
  );
  const rows = concepts.flatMap(({ uri, broader, related }) => {
    const [own, idOf] = [ids.get(uri), (other: string) => ids.get(other)];
    return [
      ...broader.map((other) => ({ a: own, kind: 'broader', b: idOf(other) })),
      ...related.flatMap((other) => [
        { a: own, kind: 'related', b: idOf(other) },
        { a: idOf(other), kind: 'related', b: own },
      ]),
    ];
  });
  await tx.run(
    `
      insert into term_relation (term_id, kind, other_id)
      select distinct r.a, r.kind, r.b
      from json_to_recordset($1::json) as r(a uuid, kind text, b uuid)
      on conflict do nothing`,
    [JSON.stringify(rows)],
  );
}

function entriesOf(
  now: KeptVocabulary,
  fresh: readonly Concept[],
  changed: readonly ChangedConcept[],
  ids: ReadonlyMap<string, string>,
): Entry[] {
  const named = new Map(
    [...now.concepts, ...fresh, ...changed.map(({ after }) => after)].map(({ uri, name }) => [uri, name]),
  );
  const names = (uris: readonly string[]) => uris.map((uri) => ({ name: named.get(uri) ?? uri }));
  const tell = (concept: Concept) =>
    toldOfTerm({ ...concept, broader: names(concept.broader), related: names(concept.related) });
  const subject = ({ uri, name }: Concept) => ({ kind: 'term' as const, id: ids.get(uri) ?? '', name, domainId: null });
  return [
    ...fresh.map((concept) => ({
      action: 'taken from a file',
      subject: subject(concept),
      before: null,
      after: tell(concept),
    })),
    ...changed.map(({ before, after }) => ({
      action: 'changed by a file',
      subject: subject(after),
      before: tell(before),
      after: tell(after),
    })),
  ];
}
