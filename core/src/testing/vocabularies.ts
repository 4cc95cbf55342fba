import fc from 'fast-check';
import {
  asSet,
  type Concept,
  isBelow,
  LABEL_KINDS,
  type Label,
  MATCH_KINDS,
  NOTE_KINDS,
  TERM_STATUSES,
  type Vocabulary,
} from '../glossary/index.ts';

const LANGUAGES = ['en', 'de', 'pt-br', ''];
/** Texts with what files have trouble with: strokes, quotation marks, lines, what looks like a formula, other scripts. */
const text = fc
  .oneof(
    fc.constantFrom(
      'Fare',
      '=1+1',
      "'=x",
      'a | b',
      'back\\slash',
      '"quoted"',
      'two\nlines',
      '+49',
      'Ærø',
      '運賃',
      '@handle',
      'a,b;c',
      'constructor',
      '__proto__',
      '-',
    ),
    fc.string({ minLength: 1, maxLength: 12, unit: 'grapheme' }),
  )
  .map((value) => value.replace(/[\0\r]/g, '').trim())
  .filter((value) => value.length > 0 && value.length <= 200);

/** A vocabulary as it can stand in a glossary: one label of each text, no circles, related both ways, names of terms different within a scheme. */
export const anyVocabulary: fc.Arbitrary<Vocabulary> = fc
  .record({
    schemes: fc.constantFrom(1, 2),
    concepts: fc.array(
      fc.record({
        scheme: fc.nat(1),
        name: text,
        language: fc.constantFrom(...LANGUAGES),
        labels: fc.array(
          fc.record({ kind: fc.constantFrom(...LABEL_KINDS), language: fc.constantFrom(...LANGUAGES), text }),
          { maxLength: 5 },
        ),
        definition: fc.oneof(fc.constant(''), text),
        notes: fc.array(
          fc.record({ kind: fc.constantFrom(...NOTE_KINDS), language: fc.constantFrom(...LANGUAGES), text }),
          { maxLength: 4 },
        ),
        broader: fc.array(fc.nat(11), { maxLength: 3 }),
        related: fc.array(fc.nat(11), { maxLength: 3 }),
        matches: fc.array(
          fc.record({
            kind: fc.constantFrom(...MATCH_KINDS),
            uri: fc.constantFrom('https://example.org/1', 'urn:other:2'),
          }),
          { maxLength: 3 },
        ),
        status: fc.constantFrom(...TERM_STATUSES),
        owner: fc.constantFrom(null, 'Ida Holm', 'Bjørn Åse'),
      }),
      { maxLength: 12 },
    ),
  })
  .map(({ schemes, concepts }) => {
    const uriOf = (at: number) => `urn:test:term-${at}`;
    const broader = new Map<string, string[]>();
    const related = new Map<string, Set<string>>(concepts.map((_, at) => [uriOf(at), new Set()]));
    concepts.forEach((concept, at) => {
      const own: string[] = [];
      broader.set(uriOf(at), own);
      for (const other of concept.broader)
        if (other < concepts.length && !isBelow(uriOf(other), uriOf(at), broader) && !own.includes(uriOf(other)))
          own.push(uriOf(other));
      for (const other of concept.related)
        if (other < concepts.length && other !== at) {
          related.get(uriOf(at))?.add(uriOf(other));
          related.get(uriOf(other))?.add(uriOf(at));
        }
    });
    const taken = new Set<string>();
    return {
      schemes: Array.from({ length: schemes }, (_, at) => ({
        uri: `https://example.org/scheme/${at}`,
        name: `Scheme ${at}`,
        language: at === 0 ? 'en' : 'de',
        description: at === 0 ? 'What words mean.' : '',
      })),
      concepts: concepts.map(({ name: wanted, ...concept }, at): Concept => {
        const scheme = `https://example.org/scheme/${concept.scheme % schemes}`;
        const name = taken.has(`${scheme} ${wanted.toLowerCase()}`) ? `${wanted} ${at}` : wanted;
        taken.add(`${scheme} ${name.toLowerCase()}`);
        const definition = concept.definition;
        return {
          ...concept,
          uri: uriOf(at),
          scheme,
          name,
          labels: oneEach(concept.labels, name, concept.language),
          definition,
          // A definition in the term's own language is the definition, unless there is one.
          notes: asSet(
            concept.notes.filter(
              (note) => definition !== '' || note.kind !== 'definition' || note.language !== concept.language,
            ),
          ),
          broader: [...(broader.get(uriOf(at)) ?? [])].sort(),
          related: [...(related.get(uriOf(at)) ?? [])].sort(),
          matches: asSet(concept.matches),
        };
      }),
    };
  });

function oneEach(labels: readonly Label[], name: string, own: string): Label[] {
  const said = new Set([`${own} ${name}`]);
  const preferred = new Set([own]);
  return asSet(
    [...labels]
      .sort((a, b) => LABEL_KINDS.indexOf(a.kind) - LABEL_KINDS.indexOf(b.kind))
      .filter((label) => {
        const key = `${label.language} ${label.text}`;
        if (said.has(key) || (label.kind === 'preferred' && preferred.has(label.language))) return false;
        said.add(key);
        if (label.kind === 'preferred') preferred.add(label.language);
        return true;
      }),
  );
}
