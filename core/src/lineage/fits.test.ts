import { describe, expect, it } from 'vitest';
import { fits } from './fits.ts';

describe('whether a column takes values of another type', () => {
  it.each([
    ['bigint', 'integer', 'all'],
    ['integer', 'bigint', 'some'],
    ['numeric(12,2)', 'integer', 'all'],
    ['numeric(6,2)', 'integer', 'some'],
    ['numeric', 'numeric(20,5)', 'all'],
    ['numeric(10,2)', 'numeric(10,3)', 'some'],
    ['character varying(60)', 'character varying(40)', 'all'],
    ['character varying(40)', 'text', 'some'],
    ['varchar(36)', 'uuid', 'all'],
    ['character(2)', 'integer', 'some'],
    ['text', 'jsonb', 'all'],
    ['timestamp with time zone', 'date', 'all'],
    ['date', 'timestamp without time zone', 'some'],
    ['double precision', 'numeric(9,2)', 'some'],
    ['numeric(4, 1)', 'double', 'some'],
  ] as const)('%s from %s: %s', (stored, given, fit) => {
    expect([fits(stored, given, true), fits(stored, given, false)]).toEqual([fit, fit]);
  });

  it('assigns no text to what is none where the database is strict', () => {
    expect(fits('integer', 'text', true)).toBe('none');
    expect(fits('integer', 'varchar(10)', false)).toBe('some');
    expect(fits('boolean', 'integer', true)).toBe('none');
  });

  it('says nothing of types that it does not know', () => {
    expect(fits('geometry(Point,4326)', 'text', true)).toBeNull();
    expect(fits('text', 'tsrange', true)).toBeNull();
    expect(fits('integer[]', 'integer', true)).toBeNull();
  });
});
