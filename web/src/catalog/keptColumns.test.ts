import { describe, expect, it } from 'vitest';
import { AS_USUAL, COLUMN_KEYS, isShown, readKept, tracksOf, withShown, withWidth } from './keptColumns.ts';

describe('the columns of the table', () => {
  it('are what was chosen, in their order; the name is always there', () => {
    const kept = ['tags', 'rows', 'path', 'kind'].reduce(
      (before, key) => withShown(before, key as 'tags', key === 'tags'),
      AS_USUAL,
    );
    expect(COLUMN_KEYS.filter((key) => isShown(kept, key))).toEqual([
      'path',
      'source',
      'classes',
      'level',
      'standing',
      'owners',
      'tags',
    ]);
  });

  it('are as wide as somebody made them, within bounds, until they are as usual again', () => {
    const wide = withWidth(withWidth(AS_USUAL, 'source', 300.4), 'rows', 1);
    expect(wide.widths).toEqual({ source: 300, rows: 40 });
    expect(tracksOf(wide)).toContain(' 300px ');
    expect(tracksOf(wide)).toMatch(/ 40px$/);
    expect(withWidth(wide, 'source', 5000).widths.source).toBe(900);
    expect(withWidth(withWidth(wide, 'source', undefined), 'rows', undefined)).toEqual(AS_USUAL);
  });

  it.each(['', '{', '[]', '{"shown": {"nothing": true, "tags": 1}, "widths": {"rows": -5, "source": "wide"}}', 'null'])(
    'are as usual where what was kept says nothing of them: %s',
    (text) => expect(readKept(text)).toEqual(AS_USUAL),
  );

  it('are read as they were kept', () => {
    const kept = withShown(withWidth(AS_USUAL, 'path', 400), 'terms', true);
    expect(readKept(JSON.stringify(kept))).toEqual(kept);
  });
});
