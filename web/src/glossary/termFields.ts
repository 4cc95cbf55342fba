import type { TermAnswer } from '@idrel/contract/glossary';
import type { Label, LabelKind, Match, Note, NoteKind, TermStatus } from '@idrel/core/glossary';
import type { TermChange } from './api.ts';

/** A term as its form has it: what is said in its own language in fields of its own, the rest in rows. */
export interface TermFields {
  schemeId: string;
  name: string;
  language: string;
  otherNames: string[];
  hiddenNames: string[];
  elsewhere: Label[];
  definition: string;
  scopeNote: string;
  example: string;
  notes: Note[];
  broaderIds: string[];
  relatedIds: string[];
  matches: Match[];
  status: TermStatus;
  ownerId: string | null;
}

export const newTerm = (schemeId: string, language: string): TermFields => ({
  schemeId,
  name: '',
  language,
  otherNames: [],
  hiddenNames: [],
  elsewhere: [],
  definition: '',
  scopeNote: '',
  example: '',
  notes: [],
  broaderIds: [],
  relatedIds: [],
  matches: [],
  status: 'draft',
  ownerId: null,
});

export function fieldsOf(term: TermAnswer): TermFields {
  const { language } = term;
  const own = (kind: LabelKind) =>
    term.labels.filter((label) => label.kind === kind && label.language === language).map(({ text }) => text);
  const first = (kind: NoteKind) => term.notes.find((note) => note.kind === kind && note.language === language);
  const [scopeNote, example] = [first('scope note'), first('example')];
  return {
    schemeId: term.schemeId,
    name: term.name,
    language,
    otherNames: own('alternative'),
    hiddenNames: own('hidden'),
    elsewhere: term.labels.filter((label) => label.language !== language || label.kind === 'preferred'),
    definition: term.definition,
    scopeNote: scopeNote?.text ?? '',
    example: example?.text ?? '',
    notes: term.notes.filter((note) => note !== scopeNote && note !== example),
    broaderIds: term.broader.map(({ id }) => id),
    relatedIds: term.related.map(({ id }) => id),
    matches: [...term.matches],
    status: term.status,
    ownerId: term.ownerId,
  };
}

/** What is sent: rows that nothing was written into are left out. */
export function changeOf({
  otherNames,
  hiddenNames,
  elsewhere,
  scopeNote,
  example,
  notes,
  matches,
  ...rest
}: TermFields): TermChange & { name: string } {
  const { language } = rest;
  const label = (kind: LabelKind) => (text: string) => ({ kind, language, text });
  const note = (kind: NoteKind, text: string) => (text.trim() ? [{ kind, language, text }] : []);
  return {
    ...rest,
    labels: [
      ...otherNames.map(label('alternative')),
      ...hiddenNames.map(label('hidden')),
      ...elsewhere.filter(({ text }) => text.trim()),
    ],
    notes: [...note('scope note', scopeNote), ...note('example', example), ...notes.filter(({ text }) => text.trim())],
    matches: matches.filter(({ uri }) => uri.trim()),
  };
}

/** A label or note as it is read where two versions stand side by side. */
export const said = (list: unknown): string =>
  (list as (Label | Note | Match)[])
    .map((entry) =>
      'uri' in entry
        ? `${entry.kind}: ${entry.uri}`
        : `${entry.kind}${entry.language ? ` (${entry.language})` : ''}: ${entry.text}`,
    )
    .join('; ');
