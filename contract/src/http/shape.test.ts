import { describe, expect, expectTypeOf, it } from 'vitest';
import { addressOf, call, callOf } from './address.ts';
import {
  type AnswerOf,
  type BodyOf,
  either,
  endpoint,
  extended,
  idParam,
  Joi,
  like,
  list,
  needed,
  nullable,
  type Of,
  oneOf,
  optional,
  type ParamsOf,
  page,
  picked,
  record,
  role,
  type Sent,
  shape,
  text,
  tuple,
  whole,
  withDefault,
} from './index.ts';

const term = shape({
  name: Joi.string().trim().min(1).max(20),
  status: withDefault(oneOf(['draft', 'agreed']), 'draft'),
  broader: nullable(text),
  note: optional(text),
  names: list(Joi.string().max(5)).max(2),
});

describe('a shape', () => {
  it('knows the type of what passes it, and of what may be sent', () => {
    expectTypeOf<Of<typeof term>>().toEqualTypeOf<{
      readonly name: string;
      readonly status: 'draft' | 'agreed';
      readonly broader: string | null;
      readonly names: readonly string[];
      readonly note?: string;
    }>();
    expectTypeOf<Sent<typeof term>>().toEqualTypeOf<{
      readonly name: string;
      readonly broader: string | null;
      readonly names: readonly string[];
      readonly status?: 'draft' | 'agreed';
      readonly note?: string;
    }>();
  });

  it('lets pass what its type says, fills in what has a default, and nothing else', () => {
    expect(term.validate({ name: ' Fare ', broader: null, names: ['a'] })).toEqual({
      value: { name: 'Fare', broader: null, names: ['a'], status: 'draft' },
    });
    for (const wrong of [
      { broader: null, names: [] },
      { name: 'Fare', names: [] },
      { name: 'Fare', broader: undefined, names: [] },
      { name: 'Fare', broader: null, names: [], status: 'odd' },
      { name: 'Fare', broader: null, names: ['too long'] },
      { name: 'Fare', broader: null, names: [], more: 1 },
      { name: 'Fare', broader: null, names: [], note: null },
    ])
      expect(term.validate(wrong).error, JSON.stringify(wrong)).toBeDefined();
  });

  it('is made of others', () => {
    const saved = extended(term, { id: text, version: whole });
    expectTypeOf<Of<typeof saved>['version']>().toEqualTypeOf<number>();
    const row = { id: 'x', version: 1, name: 'Fare', status: 'draft', broader: null, names: [] };
    expect(saved.validate(row).error).toBeUndefined();
    expect(saved.validate({ ...row, version: 'one' }).error).toBeDefined();
    const brief = picked(saved, ['id', 'name']);
    expectTypeOf<Of<typeof brief>>().toEqualTypeOf<{ readonly id: string; readonly name: string }>();
    expect(brief.validate({ id: 'x', name: 'Fare' }).error).toBeUndefined();
    expect(brief.validate(row).error).toBeDefined();
    const must = shape({ note: needed(optional(text)) });
    expectTypeOf<Of<typeof must>>().toEqualTypeOf<{ readonly note: string }>();
    expect(must.validate({}).error).toBeDefined();
  });

  it('has lists of fixed length, objects of any keys, and choices', () => {
    const pair = tuple(text, whole);
    expectTypeOf<Of<typeof pair>>().toEqualTypeOf<readonly [string, number]>();
    expect(pair.validate(['a', 1]).error).toBeUndefined();
    for (const wrong of [['a'], ['a', 'b'], ['a', 1, 2]]) expect(pair.validate(wrong).error).toBeDefined();
    const counts = record(whole, 5);
    expectTypeOf<Of<typeof counts>>().toEqualTypeOf<Readonly<Record<string, number>>>();
    expect(counts.validate({ ab: 1, '😀': 2 }).error).toBeUndefined();
    for (const wrong of [{ ab: 'x' }, { longer: 1 }, { 'a\0': 1 }, { '\ud800': 1 }])
      expect(counts.validate(wrong).error, JSON.stringify(wrong)).toBeDefined();
    const choice = either(shape({ on: oneOf(['day']) }), shape({ on: oneOf(['days']), days: list(whole) }));
    expectTypeOf<Of<typeof choice>>().toEqualTypeOf<
      { readonly on: 'day' } | { readonly on: 'days'; readonly days: readonly number[] }
    >();
    expect(choice.validate({ on: 'day' }).error).toBeUndefined();
    expect(choice.validate({ on: 'days' }).error).toBeDefined();
  });

  it('is held to a type that stands elsewhere', () => {
    interface Point {
      readonly x: number;
    }
    like<Point>()(shape({ x: whole }));
    // @ts-expect-error a text is no number
    like<Point>()(shape({ x: text }));
    // @ts-expect-error it lacks a field
    like<Point>()(shape({}));
  });
});

const change = endpoint({
  id: 'changeThing',
  method: 'put',
  path: '/things/:id',
  area: 'things',
  summary: 'Change a thing',
  may: role('editor', 'any domain'),
  params: idParam,
  query: shape({ deep: withDefault(Joi.boolean(), false), word: optional(text) }),
  body: term,
  versioned: true,
  answer: page(term),
  answers: 'It.',
});
const ping = endpoint({
  id: 'ping',
  method: 'get',
  path: '/ping',
  area: 'things',
  summary: 'Nothing',
  may: 'anybody',
  answers: 'Nothing.',
});
const id = '6e3f0b0e-0000-4000-8000-000000000000';
const body = { name: 'Fare', broader: null, names: [] };

describe('an operation', () => {
  it('gives its types to who serves it and to who asks for it', () => {
    expectTypeOf<ParamsOf<typeof change>>().toEqualTypeOf<{ readonly id: string }>();
    expectTypeOf<BodyOf<typeof change>>().toEqualTypeOf<Of<typeof term>>();
    expectTypeOf<AnswerOf<typeof change>['next']>().toEqualTypeOf<string | null>();
    expectTypeOf<AnswerOf<typeof ping>>().toEqualTypeOf<undefined>();
    // @ts-expect-error no version: nobody could tell which one is changed
    callOf(change, { params: { id }, query: {}, body });
    // @ts-expect-error another address than the contract's
    call<typeof change>('put', '/thing/:id', { params: { id }, query: {}, body, version: 1 });
    // @ts-expect-error it takes nothing
    callOf(ping, { body });
  });

  it('is asked for at its address, with what it needs', () => {
    const asked = callOf(change, { params: { id: 'a/b' }, query: { deep: true }, body, version: 3 });
    expect(asked).toEqual({
      url: '/things/a%2Fb',
      method: 'PUT',
      params: { deep: true },
      body,
      headers: { 'if-match': '"v3"' },
    });
    expect(addressOf(asked)).toBe('/things/a%2Fb?deep=true');
    // Null is no word of an address: what is not said is left out, also where others write the address.
    const sparse = { params: { id: 'a' }, query: { deep: null as never }, body, version: 3 };
    expect(callOf(change, sparse).params).toEqual({});
    expect(callOf(ping)).toEqual({ url: '/ping', method: 'GET' });
    expect(addressOf({ url: '/x', method: 'GET', params: { word: 'a & b', none: undefined } })).toBe('/x?word=a+%26+b');
  });
});
