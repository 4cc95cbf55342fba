import { describe, expect, it } from 'vitest';
import { likelyRenames, type Shape } from './index.ts';

const table = (name: string, columns: string, more: Partial<Shape> = {}): Shape => ({
  key: name,
  lies: 'core',
  kind: 'table',
  name,
  columns: columns
    .split(' ')
    .map((entry) => ({ name: entry.split(':')[0] ?? '', type: entry.split(':')[1] ?? 'text' })),
  type: null,
  position: 0,
  rows: 1000,
  classes: [],
  ...more,
});
const column = (
  name: string,
  type: string,
  position: number,
  classes: string[] = [],
  lies = 'core.passenger',
): Shape => ({
  key: `${lies}.${name}`,
  lies,
  kind: 'column',
  name,
  columns: [],
  type,
  position,
  rows: null,
  classes,
});

describe('likely renames', () => {
  it('pairs a table with one of the same shape, and says why', () => {
    const found = likelyRenames(
      [table('passenger', 'id:int name email born:date')],
      [table('traveller', 'id:int name email born:date'), table('sailing', 'id:int vessel at:date')],
    );
    expect(found).toEqual([
      {
        from: 'passenger',
        to: 'traveller',
        score: expect.any(Number),
        why: ['100 % of the columns are the same', 'about as many rows'],
      },
    ]);
    expect(found[0]?.score).toBeGreaterThan(0.7);
  });

  it('prefers the closer of two, and uses nothing twice', () => {
    const found = likelyRenames(
      [table('fare_2024', 'id:int band price:num ends:date'), table('fare_2025', 'id:int band price:num ends:date')],
      [
        table('old_fare_2024', 'id:int band price:num ends:date'),
        table('old_fare_2025', 'id:int band price:num ends:date'),
      ],
    );
    expect(found.map((entry) => [entry.from, entry.to]).sort()).toEqual([
      ['fare_2024', 'old_fare_2024'],
      ['fare_2025', 'old_fare_2025'],
    ]);
  });

  it('does not pair what only shares a column or two, other kinds, or other places', () => {
    expect(likelyRenames([table('a', 'id:int x y z')], [table('b', 'id:int p q r')])).toEqual([]);
    expect(likelyRenames([table('a', 'id:int')], [table('b', 'id:int')])).toEqual([]);
    expect(likelyRenames([table('a', 'id:int x y z')], [table('a2', 'id:int x y z', { kind: 'view' })])).toEqual([]);
    expect(likelyRenames([table('a', 'id:int x y z')], [table('a2', 'id:int x y z', { lies: 'other' })])).toEqual([]);
  });

  it('pairs a column by type, place and content', () => {
    const found = likelyRenames(
      [column('email', 'text', 4, ['email']), column('born', 'date', 5)],
      [column('contact_address', 'text', 9, ['email']), column('note', 'text', 10), column('birthday', 'date', 5)],
    );
    expect(found.map((entry) => [entry.from, entry.to])).toEqual([
      ['core.passenger.born', 'core.passenger.birthday'],
      ['core.passenger.email', 'core.passenger.contact_address'],
    ]);
    expect(found[1]?.why).toContain('the same data classes');
  });

  it('does not pair columns of another type, or with nothing in common but the type', () => {
    expect(likelyRenames([column('email', 'text', 4)], [column('email_2', 'int', 4)])).toEqual([]);
    expect(likelyRenames([column('email', 'text', 4, ['email'])], [column('remark', 'text', 9)])).toEqual([]);
  });

  it('has nothing to say of nothing', () => {
    expect(likelyRenames([], [])).toEqual([]);
  });
});
