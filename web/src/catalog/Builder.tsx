import type { Facet } from '@idrel/contract/catalog';
import {
  type Comparison,
  DATED,
  FILTER_KEYS,
  FilterError,
  type FilterKey,
  ORDERED,
  type Piece,
  parseFilter,
  piecesOf,
  writePiece,
  writePieces,
} from '@idrel/core/catalog';
import { Button, Group, Select, TagsInput, TextInput } from '@mantine/core';
import { useEffect, useRef, useState } from 'react';
import { valuesFor } from './filterValues.ts';

type Condition = Extract<Piece, { what: 'condition' }>;

/** How a condition compares, in words; `is not` is the plain one turned round. */
const COMPARED: readonly (readonly [words: string, comparison: Comparison, not: boolean])[] = [
  ['is', '=', false],
  ['is not', '=', true],
  ['is at least', '>=', false],
  ['is at most', '<=', false],
  ['is more than', '>', false],
  ['is less than', '<', false],
];
/** The same of what is about days. */
const OF_DAYS: typeof COMPARED = [
  ['is', '=', false],
  ['is not', '=', true],
  ['is since', '>=', false],
  ['is until', '<=', false],
  ['is after', '>', false],
  ['is before', '<', false],
];
const comparedBy = (key: FilterKey) =>
  DATED.includes(key) ? OF_DAYS : COMPARED.filter(([, comparison]) => comparison === '=' || ORDERED.includes(key));
const wordsOf = ({ key, comparison, not }: Condition): string =>
  comparedBy(key).find(([, one, turned]) => one === comparison && turned === not)?.[0] ?? (not ? 'is not' : 'is');

/** What is wrong with a piece; nothing where it says nothing yet. */
function wrongWith(piece: Piece): string | undefined {
  try {
    parseFilter(writePiece(piece));
    return undefined;
  } catch (error) {
    if (error instanceof FilterError) return `${error.message} ${error.mend}`;
    throw error;
  }
}

/** A filter put together by choosing: each condition on a line of its own. What is chosen is searched for at once. */
export function Builder({
  filter,
  facets,
  search,
  close,
}: {
  filter: string;
  facets: readonly Facet[];
  search: (filter: string) => void;
  close: () => void;
}) {
  const [pieces, setPieces] = useState<readonly Piece[]>(() => begun(piecesOf(filter) ?? []));
  const written = useRef(filter);
  // A filter that came from elsewhere is taken over; one of ours stands here already.
  useEffect(() => {
    if (filter === written.current) return;
    written.current = filter;
    setPieces(begun(piecesOf(filter) ?? []));
  }, [filter]);
  const put = (next: readonly Piece[]) => {
    setPieces(next);
    if (next.some(wrongWith)) return;
    const text = writePieces(next);
    if (text === written.current) return;
    written.current = text;
    search(text);
  };
  const change = (at: number, piece: Piece) => put(pieces.map((one, place) => (place === at ? piece : one)));
  const remove = (at: number) => put(begun(pieces.filter((_, place) => place !== at)));
  return (
    <section className="toolbar stack" aria-label="Conditions">
      {pieces.map((piece, at) => (
        // Pieces have no names of their own: one is what stands at its place.
        <Group key={at} gap={8} align="flex-start" wrap="nowrap">
          <One piece={piece} nth={at + 1} facets={facets} change={(next) => change(at, next)} />
          {piece.what === 'words' ? null : (
            <Button
              variant="subtle"
              size="compact-sm"
              aria-label={`Take away condition ${at + 1}`}
              onClick={() => remove(at)}
            >
              Take away
            </Button>
          )}
        </Group>
      ))}
      <Group>
        <Button
          variant="default"
          size="compact-sm"
          onClick={() => put([...pieces, { what: 'condition', not: false, key: 'kind', comparison: '=', values: [] }])}
        >
          Add a condition
        </Button>
        <Button variant="subtle" size="compact-sm" onClick={close}>
          Close
        </Button>
        <span className="quiet small">All of them must hold; of several values in one, any.</span>
      </Group>
    </section>
  );
}

/** Words come first, and have a field also where there are none yet. */
const begun = (pieces: readonly Piece[]): readonly Piece[] =>
  pieces.some(({ what }) => what === 'words') ? pieces : [{ what: 'words', text: '' }, ...pieces];

function One({
  piece,
  nth,
  facets,
  change,
}: {
  piece: Piece;
  nth: number;
  facets: readonly Facet[];
  change: (piece: Piece) => void;
}) {
  const wrong = wrongWith(piece);
  if (piece.what === 'words')
    return (
      <TextInput
        className="grow"
        aria-label="Words"
        placeholder="Words in names, descriptions, guides …"
        value={piece.text}
        error={wrong}
        onChange={(event) => change({ what: 'words', text: event.currentTarget.value })}
      />
    );
  if (piece.what === 'other')
    return (
      <TextInput
        className="grow mono"
        aria-label={`Condition ${nth}, as it is written`}
        value={piece.text}
        error={wrong}
        onChange={(event) => change({ what: 'other', text: event.currentTarget.value })}
      />
    );
  const { key, values } = piece;
  const known = valuesFor(key, facets);
  const told = new Map(known.map((one) => [one.value, one]));
  return (
    <>
      <Select
        aria-label={`What condition ${nth} is about`}
        w={150}
        allowDeselect={false}
        searchable
        data={Object.keys(FILTER_KEYS)}
        value={key}
        renderOption={({ option }) => (
          <span>
            {option.value} <span className="quiet small">{FILTER_KEYS[option.value as FilterKey]}</span>
          </span>
        )}
        comboboxProps={{ width: 420, position: 'bottom-start' }}
        onChange={(next) => next && change({ ...piece, key: next as FilterKey, comparison: '=', values: [] })}
      />
      <Select
        aria-label={`How condition ${nth} compares`}
        w={130}
        allowDeselect={false}
        data={comparedBy(key).map(([words]) => words)}
        value={wordsOf(piece)}
        onChange={(words) => {
          const found = comparedBy(key).find(([one]) => one === words);
          if (found) change({ ...piece, comparison: found[1], not: found[2] });
        }}
      />
      <TagsInput
        className="grow"
        aria-label={`Values of condition ${nth}`}
        placeholder={values.length === 0 ? 'choose, or write and press Enter' : undefined}
        data={known.map(({ value }) => value)}
        value={[...values]}
        error={wrong}
        acceptValueOnBlur
        splitChars={[',']}
        renderOption={({ option }) => (
          <Group justify="space-between" w="100%" gap={8}>
            <span>{told.get(option.value)?.told ?? option.value}</span>
            <span className="quiet small">{told.get(option.value)?.beside}</span>
          </Group>
        )}
        onChange={(next) => change({ ...piece, values: next })}
      />
    </>
  );
}
