import { createHash } from 'node:crypto';
import {
  POLICY_FILE_MOST,
  type PolicyAnswer,
  type PolicyBody,
  type PolicyFilePlan,
  type policyFileEndpoints,
  PolicyInFile as Shape,
} from '@idrel/contract/access';
import type { FileAnswer } from '@idrel/contract/curation';
import type { BodyOf } from '@idrel/contract/http';
import type { SourceKind } from '@idrel/contract/sources';
import {
  comparePolicies,
  type FileEntry,
  type FileFlaw,
  fromOdrl,
  fromYaml,
  type PolicyComparison,
  type PolicyInFile,
  plainly,
  toOdrl,
  toYaml,
} from '@idrel/core/access';
import { placeInFile, readPlace } from '@idrel/core/catalog';
import { addressesOf, assetAt } from '../catalog/index.ts';
import type { Who } from '../people/index.ts';
import { asIf, type Database, type Db, type Tx } from '../platform/database.ts';
import { expandJsonLd } from '../platform/jsonld.ts';
import { ApiProblem, conflict, invalid } from '../platform/problems.ts';
import { asText } from '../platform/sheets.ts';
import { policiesInForce } from './facts.ts';
import { changePolicy, checkWritten, createPolicy, listPolicies, removePolicy } from './policies.ts';
import { reachBetween } from './reach.ts';
import { seeingInForce } from './sight.ts';

const AT = '/at/';
/** A readable address as files have it, however it was written; as it is where it is none. */
function inFile(address: string): string {
  const place = readPlace(address);
  return place ? placeInFile(place.source, place.names) : address.slice(AT.length);
}

/** Who and what is called how: groups and people by their ids, assets by their addresses. */
async function namesFor(db: Db, policies: readonly PolicyAnswer[]): Promise<ReadonlyMap<string, string>> {
  const ids = policies.flatMap(({ assetIds, rows }) => [...assetIds, ...(rows?.through ? [rows.through.tableId] : [])]);
  const [parties, assets] = await Promise.all([
    db.rows<{ id: string; name: string }>('select id, name from person_group union all select id, email from person'),
    db.rows<{ id: string; key: string; source: string; kind: SourceKind }>(
      'select a.id, a.key, s.name as source, s.kind from asset a join source s on s.id = a.source_id where a.id = any($1::uuid[])',
      [ids],
    ),
  ]);
  return new Map([
    ...parties.map(({ id, name }) => [id, name] as const),
    ...assets.map(({ id, key, source, kind }) => [id, inFile(addressesOf(source, kind, key).place)] as const),
  ]);
}

function toWords(policy: PolicyAnswer, names: ReadonlyMap<string, string>): PolicyInFile {
  const called = (ids: readonly string[]) => ids.map((id) => names.get(id) ?? id);
  const { rows, columns, columnsBut } = policy;
  return plainly({
    name: policy.name,
    effect: policy.effect,
    enabled: policy.enabled,
    for: {
      everyone: policy.everyone,
      groups: called(policy.groupIds),
      people: called(policy.personIds),
      exceptGroups: called(policy.exceptGroupIds),
    },
    on: {
      assets: called(policy.assetIds),
      classes: policy.classKeys,
      ...(policy.filter === null ? {} : { filter: policy.filter }),
      ...(columns === null ? {} : columnsBut ? { allBut: columns } : { columns }),
      carried: policy.carried,
    },
    ...(policy.mask === null ? {} : { mask: policy.mask }),
    ...(rows === null
      ? {}
      : {
          rows: {
            column: rows.column,
            ...(rows.least !== undefined
              ? { least: rows.least }
              : rows.through
                ? {
                    through: {
                      table: names.get(rows.through.tableId) ?? rows.through.tableId,
                      column: rows.through.column,
                      reader: rows.through.reader,
                      by: rows.through.by,
                    },
                  }
                : rows.attribute === null
                  ? { values: rows.values }
                  : { attribute: rows.attribute }),
          },
        }),
    ...(policy.until === null ? {} : { until: new Date(policy.until).toISOString() }),
    ...(policy.hours === null ? {} : { hours: policy.hours }),
    purposes: policy.purposes,
    opens: policy.opens,
    passesOn: policy.passesOn,
  });
}

/** Policies that somebody may change, as files have them; what answers a request is ended as such, and is in none. */
async function own(db: Db, who: Who): Promise<{ readonly answer: PolicyAnswer; readonly words: PolicyInFile }[]> {
  const mine = (await listPolicies(db, who)).filter(
    ({ mayEdit, requestId, shareId, givenBy }) => mayEdit && requestId === null && shareId === null && givenBy === null,
  );
  const names = await namesFor(db, mine);
  return mine
    .map((answer) => ({ answer, words: toWords(answer, names) }))
    .sort((one, other) => (one.answer.name < other.answer.name ? -1 : 1));
}

const FORMATS = {
  yaml: { ending: 'yaml', type: 'application/yaml; charset=utf-8', write: toYaml },
  odrl: { ending: 'jsonld', type: 'application/ld+json; charset=utf-8', write: toOdrl },
} as const;

/** Policies as a file. */
export async function exportPolicies(db: Db, who: Who, format: keyof typeof FORMATS): Promise<FileAnswer> {
  const { ending, type, write } = FORMATS[format];
  const text = write((await own(db, who)).map(({ words }) => words));
  return { name: `policies.${ending}`, type, content: Buffer.from(text).toString('base64') };
}

async function entriesOf(
  name: string,
  bytes: Buffer,
): Promise<{ readonly entries: readonly FileEntry[]; readonly flaws: readonly FileFlaw[] }> {
  const text = asText(bytes);
  if (/\.ya?ml$/i.test(name)) return fromYaml(text);
  if (/\.json(ld)?$/i.test(name)) return fromOdrl(await expandJsonLd(text));
  throw invalid(`${name}: its ending says no kind of file.`, 'Use .yaml, .yml, .json or .jsonld.', [
    { field: 'name', message: 'has an ending that is not read' },
  ]);
}

/** The same with its addresses as they are written out. */
const withAddresses = (policy: PolicyInFile): PolicyInFile => ({
  ...policy,
  on: { ...policy.on, ...(policy.on.assets ? { assets: policy.on.assets.map((one) => inFile(AT + one)) } : {}) },
  ...(policy.rows?.through
    ? { rows: { ...policy.rows, through: { ...policy.rows.through, table: inFile(AT + policy.rows.through.table) } } }
    : {}),
});

type Taken = { readonly at: string; readonly policy: PolicyInFile };

/** Entries that are policies, each by its own name. */
function policiesIn(entries: readonly FileEntry[]): { readonly taken: Taken[]; readonly flaws: FileFlaw[] } {
  const flaws: FileFlaw[] = [];
  const seen = new Map<string, string>();
  const taken = entries.flatMap(({ at, policy }): Taken[] => {
    const { error, value } = Shape.validate(policy, { abortEarly: false, convert: false });
    if (error) {
      for (const detail of error.details)
        flaws.push({
          at,
          what: `${detail.path.join('.') || 'The policy'} does not fit: ${detail.message.replaceAll('"', '')}.`,
          mend: 'The API’s description (importPolicies) and an exported file show what a policy says.',
        });
      return [];
    }
    const { name } = value as PolicyInFile;
    const before = seen.get(name);
    if (before !== undefined) {
      flaws.push({ at, what: `“${name}” is in the file already (${before}).`, mend: 'Give it another name.' });
      return [];
    }
    seen.set(name, at);
    return [{ at, policy: withAddresses(value as PolicyInFile) }];
  });
  return { taken, flaws };
}

/** What names of a policy mean here. @throws {ApiProblem} 422 with those that mean nothing */
async function bodyOf(db: Db, who: Who, policy: PolicyInFile): Promise<PolicyBody> {
  const unknown: string[] = [];
  const idsOf = async (sql: string, names: readonly string[] = [], what: string): Promise<string[]> => {
    const found = new Map(
      (await db.rows<{ id: string; name: string }>(sql, [names.map((name) => name.toLowerCase())])).map(
        ({ id, name }) => [name, id],
      ),
    );
    return names.flatMap((name) => {
      const id = found.get(name.toLowerCase());
      if (id === undefined) unknown.push(`${what} “${name}”`);
      return id ?? [];
    });
  };
  const assetOf = async (address: string): Promise<string> => {
    // What they may not see is told of as what is not there.
    const there = await assetAt(db, who, AT + address).catch((error: unknown) => {
      if (error instanceof ApiProblem && [404, 422].includes(error.status)) return undefined;
      throw error;
    });
    if (there === undefined) unknown.push(`asset “${address}”`);
    return there?.id ?? '';
  };
  const GROUPS = 'select id, lower(name) as name from person_group where lower(name) = any($1::text[])';
  const { for: whom, on, rows } = policy;
  const body: PolicyBody = {
    name: policy.name,
    effect: policy.effect,
    enabled: policy.enabled ?? true,
    everyone: whom.everyone ?? false,
    groupIds: await idsOf(GROUPS, whom.groups, 'group'),
    personIds: await idsOf(
      'select id, lower(email) as name from person where lower(email) = any($1::text[]) and left_at is null',
      whom.people,
      'person',
    ),
    exceptGroupIds: await idsOf(GROUPS, whom.exceptGroups, 'group'),
    assetIds: await Promise.all((on.assets ?? []).map(assetOf)),
    classKeys: on.classes ?? [],
    filter: on.filter ?? null,
    carried: on.carried ?? false,
    columns: on.columns?.length ? on.columns : on.allBut?.length ? on.allBut : null,
    columnsBut: !on.columns?.length && Boolean(on.allBut?.length),
    mask: policy.mask ?? null,
    rows: rows
      ? {
          column: rows.column,
          values: rows.values ?? [],
          ...(rows.least === undefined ? {} : { least: rows.least }),
          attribute: rows.attribute ?? null,
          through: rows.through
            ? {
                tableId: await assetOf(rows.through.table),
                column: rows.through.column,
                reader: rows.through.reader,
                by: rows.through.by,
              }
            : null,
        }
      : null,
    until: policy.until ?? null,
    hours: policy.hours ?? null,
    purposes: policy.purposes ?? [],
    opens: policy.opens ?? 'read',
    passesOn: policy.passesOn ?? false,
  };
  if (on.columns?.length && on.allBut?.length)
    throw invalid('It says both which columns it is about and which it is not.', 'Say “columns” or “allBut”.');
  if (rows && [rows.values?.length, rows.attribute, rows.through, rows.least].filter(Boolean).length > 1)
    throw invalid(
      'Its rows are limited by several things at once.',
      'Say one of “values”, “attribute”, “through”, “least”.',
    );
  if (unknown.length > 0)
    throw invalid(`Nothing is called so here: ${unknown.join(', ')}.`, 'Names are those of this server.');
  return body;
}

type Body = BodyOf<typeof policyFileEndpoints.policiesIn>;

/** A policy of a file that can be written as it is meant. */
interface Ready {
  readonly at: string;
  readonly body: PolicyBody;
}

/**
 * Takes policies in from a file, or tells what would come of it and for whom.
 * @throws 422 when the file cannot be read, or holds more changes than one may; 409 when something else would come of it than was seen
 */
export async function importPolicies(db: Database, who: Who, body: Body, preview: boolean): Promise<PolicyFilePlan> {
  who.mustAnywhere('policy administrator');
  const read = await entriesOf(body.name, Buffer.from(body.content, 'base64'));
  const { taken, flaws: unfit } = policiesIn(read.entries);
  const left = new Set(body.leave);
  const before = await policiesInForce(db);
  const seeing = await seeingInForce(db);
  const work = async (tx: Tx): Promise<PolicyFilePlan> => {
    // Nobody changes a policy between the comparison and what is written.
    await tx.run('lock table policy in share row exclusive mode');
    const mine = await own(tx, who);
    const compared = comparePolicies(
      mine.map(({ words }) => words),
      taken,
    );
    const seen = digestOf(compared);
    if (!preview && body.seen !== undefined && body.seen !== seen)
      throw conflict(
        'differs-now',
        'Policies were changed since you looked: something else would come of the file now.',
        'Look at it again, then take it in. Nothing was changed.',
      );
    const known = new Map(mine.map(({ answer }) => [answer.name, answer]));
    const flaws = [...read.flaws, ...unfit];
    const ready = async (entries: readonly Taken[]): Promise<Ready[]> => {
      const found: Ready[] = [];
      for (const { at, policy } of entries) {
        if (left.has(at)) continue;
        try {
          const meant = await bodyOf(tx, who, policy);
          await checkWritten(tx, who, meant);
          if (!known.has(policy.name) && (await tx.one('select from policy where name = $1', [policy.name])))
            throw invalid('There is a policy of that name that is not yours to change.', 'Give it another name.');
          found.push({ at, body: meant });
        } catch (error) {
          if (!(error instanceof ApiProblem)) throw error;
          flaws.push({ at, what: `“${policy.name}”: ${error.message}`, mend: error.more.mend ?? '' });
        }
      }
      return found;
    };
    const fresh = await ready(compared.fresh);
    const changed = await ready(compared.changed);
    // What cannot be read may be one of those that seem not to be there: then none goes.
    const isWhole = flaws.length === 0;
    const gone = body.removeAbsent && isWhole ? compared.absent.flatMap((name) => known.get(name) ?? []) : [];
    const much = fresh.length + changed.length + gone.length;
    if (much > POLICY_FILE_MOST)
      throw invalid(
        `The file changes ${much} policies; one changes at most ${POLICY_FILE_MOST}.`,
        'Leave some of them, or part the file.',
        [{ field: 'content', message: `changes ${much} policies` }],
      );
    const touched = new Set<string>();
    for (const { body: written } of fresh) touched.add((await createPolicy(tx, who, written)).id);
    for (const { body: written } of changed) {
      const { id, version } = known.get(written.name) as PolicyAnswer;
      await changePolicy(tx, who, id, version, written);
      touched.add(id);
    }
    for (const { id } of gone) {
      await removePolicy(tx, who, id);
      touched.add(id);
    }
    const usable = new Set([...fresh, ...changed].map(({ at }) => at));
    const shown = <T extends { at: string }>(entries: readonly T[]) =>
      entries.filter(({ at }) => usable.has(at) || left.has(at));
    return {
      fresh: shown(compared.fresh).map(({ at, policy }) => ({ at, name: policy.name, effect: policy.effect })),
      changed: shown(compared.changed).map(({ at, name, fields }) => ({ at, name, fields: [...fields] })),
      same: compared.same,
      absent: [...compared.absent],
      removed: gone.length,
      flaws: flaws.map((flaw) => ({ ...flaw })),
      reach: await reachBetween(tx, who, before, await policiesInForce(tx), touched, seeing),
      seen,
      written: !preview,
    };
  };
  return preview ? asIf(db, work) : db.transaction(work);
}

const digestOf = ({ fresh, changed, absent }: PolicyComparison): string =>
  createHash('sha256').update(JSON.stringify({ fresh, changed, absent })).digest('base64url');
