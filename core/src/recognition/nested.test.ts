import { describe, expect, it } from 'vitest';
import { recognise } from './index.ts';
import { columnsInside } from './nested.ts';

const setting = { today: new Date('2026-05-31'), countries: ['GB', 'NO'] };
const column = (values: (string | null)[]) => ({ name: 'payload', type: 'other' as const, values });
const rows = Array.from({ length: 60 }, (_, index) =>
  JSON.stringify({
    id: index,
    contact: { email: `p${index}@example.org`, 'phone no': `+4722${String(123_400 + index)}` },
    crew: [{ mail: `c${index}@example.org` }, { mail: null }],
    note: 'calm sea',
  }),
);

describe('a column of JSON', () => {
  it('is one column for each path, named by its last key', () => {
    const inside = columnsInside(column(rows));
    expect(inside?.map((entry) => [entry.path, entry.name, entry.type, entry.values.length])).toEqual([
      ['$.id', 'id', 'integer', 60],
      ['$.contact.email', 'email', 'text', 60],
      ['$.contact."phone no"', 'phone no', 'text', 60],
      ['$.crew[*].mail', 'mail', 'text', 60],
      ['$.note', 'note', 'text', 60],
    ]);
  });

  it('is claimed by class, with every path that holds it', () => {
    const found = recognise(column([...rows, null, '', 'broken {']), setting);
    expect(found.map((finding) => [finding.classKey, finding.state, finding.inside])).toEqual([
      ['email', 'certain', { '$.contact.email': 60, '$.crew[*].mail': 60 }],
      ['phone', 'certain', { '$.contact."phone no"': 60 }],
    ]);
    expect(JSON.stringify(found)).not.toContain('p7@example');
  });

  it('is left whole when most of its values are something else, and never goes too deep', () => {
    expect(columnsInside(column(['{"a":1}', 'x', 'y']))).toBeUndefined();
    expect(columnsInside({ ...column(rows), type: 'integer' })).toBeUndefined();
    expect(columnsInside(column([`${'['.repeat(40)}"p@example.org"${']'.repeat(40)}`]))).toEqual([]);
    const wide = JSON.stringify(Object.fromEntries(Array.from({ length: 1000 }, (_, index) => [`k${index}`, index])));
    expect(columnsInside(column([wide]))).toHaveLength(200);
  });
});

describe('JSON whose keys are data', () => {
  const codes = Array.from(
    { length: 40 },
    (_, index) => `${String.fromCharCode(97 + (index % 26))}${String.fromCharCode(97 + ((index * 7) % 26))}${index}`,
  );
  const maps = codes.map((code, index) => JSON.stringify({ [code]: { name: `p${index}@example.org` }, fixed: index }));

  it('is one column for all of them, named by what holds them; keys that stand in every object stay', () => {
    const wrapped = maps.map((text) => JSON.stringify({ people: JSON.parse(text), note: 'x' }));
    expect(
      columnsInside({ name: 'payload', type: 'text', values: wrapped })?.map((entry) => [
        entry.path,
        entry.name,
        entry.values.length,
      ]),
    ).toEqual([
      ['$.people.*', 'people', 40],
      ['$.people.*.name', 'name', 40],
      ['$.note', 'note', 40],
    ]);
  });

  it('takes no such step for few keys', () => {
    expect(columnsInside({ name: 'payload', type: 'text', values: maps.slice(0, 8) })).toHaveLength(9);
  });
});
