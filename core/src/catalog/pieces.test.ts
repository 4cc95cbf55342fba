import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { anyFilter, anyWord } from '../testing/filters.ts';
import { type Filter, parseFilter, writeFilter } from './filter.ts';
import { piecesOf, writePiece, writePieces } from './pieces.ts';

describe('a filter in pieces', () => {
  it('has words in one, conditions one by one, and the rest as it is written', () => {
    expect(piecesOf('pax "email" kind:table -tag:pilot level>=guarded (owner:none or term:any) -draft')).toEqual([
      { what: 'words', text: 'pax "email"' },
      { what: 'condition', not: false, key: 'kind', comparison: '=', values: ['table'] },
      { what: 'condition', not: true, key: 'tag', comparison: '=', values: ['pilot'] },
      { what: 'condition', not: false, key: 'level', comparison: '>=', values: ['guarded'] },
      { what: 'other', text: 'owner:none or term:any' },
      { what: 'other', text: 'not draft' },
    ]);
    expect(piecesOf('owner:none or term:any')).toEqual([{ what: 'other', text: 'owner:none or term:any' }]);
    expect(piecesOf('')).toEqual([]);
    expect(piecesOf('kind:')).toBeUndefined();
  });

  it('asks for nothing where nothing is said yet, and quotes what needs it', () => {
    const empty = { what: 'condition', not: false, key: 'owner', comparison: '=', values: ['', ' '] } as const;
    expect(writePiece(empty)).toBe('');
    expect(writePieces([empty, { ...empty, values: ['Ida Holm', 'none'] }, { what: 'words', text: ' ' }])).toBe(
      'owner:"Ida Holm",none',
    );
  });

  it('put together again is the same filter', () => {
    // One list within another of the same kind is one list to whoever reads it.
    const flat = (filter: Filter): Filter => {
      if (filter.type === 'not') return { type: 'not', of: flat(filter.of) };
      if (filter.type !== 'all' && filter.type !== 'any') return filter;
      const of = filter.of.map(flat).flatMap((part) => (part.type === filter.type ? part.of : [part]));
      return of.length === 1 && of[0] ? of[0] : { type: filter.type, of };
    };
    const tree = anyFilter(['Test source'], anyWord(fc.constantFrom('pax', 'fare', 'o"hare', 'and'), fc.boolean()));
    fc.assert(
      fc.property(tree, (filter) => {
        const text = writeFilter(filter);
        const pieces = piecesOf(text);
        expect(pieces).toBeDefined();
        expect(flat(parseFilter(writePieces(pieces ?? [])))).toEqual(flat(parseFilter(text)));
      }),
    );
  });
});
