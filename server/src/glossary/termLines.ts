import type { TermOfLine } from '@idrel/contract/exchange';
import type { Who } from '../people/index.ts';
import type { Tx } from '../platform/database.ts';
import { type GivenLine, type LineSaid, lineByLine } from '../platform/lines.ts';
import { invalid } from '../platform/problems.ts';
import { firstScheme } from './schemes.ts';
import { addTerm, changeTerm, getTerm } from './terms.ts';

/** Takes terms line by line: one that is there by its name in its scheme is changed, in what the line speaks of; else it is made. */
export function takeTermLines(tx: Tx, who: Who, lines: readonly GivenLine<TermOfLine>[]): Promise<LineSaid[]> {
  return lineByLine(tx, lines, async ({ name, scheme, alternatives, broader, owner, ...plain }) => {
    who.mustAnywhere('editor');
    const schemeId = scheme === undefined ? (await firstScheme(tx, who)).id : await schemeCalled(tx, scheme);
    const known = await tx.one<{ id: string }>(
      'select id from term where scheme_id = $1 and lower(name) = lower($2) and removed_at is null',
      [schemeId, name],
    );
    const before = known && (await getTerm(tx, who, known.id));
    const language = before?.language ?? '';
    // Labels of other kinds, and of other languages, stay as they are.
    const labels = alternatives && [
      ...(before?.labels ?? []).filter((label) => label.kind !== 'alternative' || label.language !== language),
      ...alternatives.map((text) => ({ kind: 'alternative' as const, language, text })),
    ];
    const body = {
      ...plain,
      ...(labels ? { labels } : {}),
      ...(broader ? { broaderIds: await termsCalled(tx, schemeId, broader) } : {}),
      ...(owner === undefined ? {} : { ownerId: owner === null ? null : await personAt(tx, owner) }),
    };
    if (!before) return { outcome: 'made', id: (await addTerm(tx, who, { ...body, name, schemeId })).id };
    const after = await changeTerm(tx, who, before.id, before.version, { ...body, name });
    return { outcome: after.version === before.version ? 'same' : 'changed', id: after.id };
  });
}

async function schemeCalled(tx: Tx, name: string): Promise<string> {
  const scheme = await tx.one<{ id: string }>('select id from scheme where lower(name) = lower($1)', [name]);
  if (!scheme) throw invalid(`There is no scheme “${name}”.`, 'Make it in the glossary first, or leave it out.');
  return scheme.id;
}

async function termsCalled(tx: Tx, schemeId: string, names: readonly string[]): Promise<string[]> {
  const rows = await tx.rows<{ id: string; name: string }>(
    'select id, lower(name) as name from term where scheme_id = $1 and lower(name) = any($2::text[]) and removed_at is null',
    [schemeId, names.map((name) => name.toLowerCase())],
  );
  const ids = new Map(rows.map(({ id, name }) => [name, id]));
  return names.map((name) => {
    const id = ids.get(name.toLowerCase());
    if (!id) throw invalid(`There is no term “${name}” in this scheme.`, 'Say it on an earlier line.');
    return id;
  });
}

async function personAt(tx: Tx, email: string): Promise<string> {
  const person = await tx.one<{ id: string }>(
    'select id from person where lower(email) = lower($1) and left_at is null and partner_id is null',
    [email],
  );
  if (!person) throw invalid(`Nobody has the address ${email}.`, 'Give the e-mail address of a person.');
  return person.id;
}
