import fc from 'fast-check';
import { beforeAll, describe, expect, it } from 'vitest';
import { loadParser } from '../../sql/index.ts';
import { madeIn, withHeader, withoutHeader } from './index.ts';

describe('a header', () => {
  const address = fc.webUrl();
  const line = fc.oneof(fc.string(), fc.constantFrom('-- In the catalogue', '-- x', '', 'select 1;'));
  const text = fc
    .tuple(fc.array(line), fc.constantFrom('\n', '\r\n'), fc.constantFrom('', '\ufeff'))
    .map(([lines, end, bom]) => bom + lines.join(end))
    .filter((made) => !/^\ufeff?-- In the catalog: /.test(made) && !made.startsWith('\ufeff\ufeff'));

  it('is written and taken away, and nothing else of the file is touched', () => {
    fc.assert(
      fc.property(text, fc.array(address, { maxLength: 3 }), (made, addresses) => {
        expect(withoutHeader(withHeader(made, '--', addresses), '--')).toBe(made);
      }),
    );
  });

  it('is written anew in place of the one that is there, and stays when it is the same', () => {
    fc.assert(
      fc.property(
        text,
        fc.array(address, { maxLength: 3 }),
        fc.array(address, { maxLength: 3 }),
        (made, before, after) => {
          const once = withHeader(made, '--', after);
          expect(withHeader(withHeader(made, '--', before), '--', after)).toBe(once);
          expect(withHeader(once, '--', after)).toBe(once);
        },
      ),
    );
  });

  it('stands behind the mark of the encoding, with the ends of lines of the file', () => {
    expect(withHeader('\ufeffa\r\nb\r\n', '#', ['https://x/at/y'])).toBe(
      '\ufeff# In the catalog: https://x/at/y\r\na\r\nb\r\n',
    );
  });
});

describe('what a script makes', () => {
  beforeAll(loadParser);
  it('is told once, in its order; what is temporary or without a schema is not', () => {
    const sql = `
      create table mart.fares (id int);
      create temp table scratch (id int);
      create or replace view "Mart".v as select 1;
      create materialized view mart.m as select 1;
      create table loose as select 1;
      create table if not exists mart.fares (id int);
      insert into mart.other select 1;
      selec 1;
    `;
    expect(madeIn(sql, null)).toEqual([
      ['mart', 'fares'],
      ['Mart', 'v'],
      ['mart', 'm'],
    ]);
    expect(madeIn(sql, 'core')).toContainEqual(['core', 'loose']);
    expect(madeIn(sql, 'core')).not.toContainEqual(['core', 'scratch']);
  });
});
