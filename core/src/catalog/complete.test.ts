import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { completingAt, parseFilter, writeValue } from './index.ts';

/** Where `|` stands, somebody types. */
const at = (marked: string) => completingAt(marked.replace('|', ''), marked.indexOf('|'));

describe('what is being written', () => {
  it.each<[string, string, number, number]>([
    ['|', '', 0, 0],
    ['ki|', 'ki', 0, 2],
    ['passenger do|', 'do', 10, 12],
    ['passenger |', '', 10, 10],
    ['kind:table and ow|', 'ow', 15, 17],
    ['(kind:table or so|', 'so', 15, 17],
    ['-cl|', 'cl', 1, 3],
    // Within a key that has its colon already, that is exchanged with it.
    ['do|main:Fleet', 'do', 0, 7],
  ])('is a key in %s', (text, begun, from, to) => expect(at(text)).toEqual({ what: 'key', begun, from, to }));

  it.each<[string, string, string, number, number, string]>([
    ['kind:|', 'kind', '', 5, 5, ''],
    ['kind:ta|', 'kind', 'ta', 5, 7, ''],
    ['passenger kind:ta| level:open', 'kind', 'ta', 15, 17, 'passenger   level:open'],
    ['kind:table,|', 'kind', '', 11, 11, ''],
    ['kind:table,vi|', 'kind', 'vi', 11, 13, ''],
    ['domain:"Onb|', 'domain', 'Onb', 7, 11, ''],
    ['domain:"Onboard sales"| passenger', 'domain', 'Onboard sales', 7, 22, 'passenger'],
    ['level>=gu|', 'level', 'gu', 7, 9, ''],
    ['-class:em|', 'class', 'em', 7, 9, ''],
    ['passenger and class:em|', 'class', 'em', 20, 22, 'passenger'],
    ['(class:em|', 'class', 'em', 7, 9, ''],
  ])('is a value in %s', (text, key, begun, from, to, beside) =>
    expect(at(text)).toEqual({ what: 'value', key, begun, from, to, beside }),
  );

  it.each(['zzz|', '"in quotes|"', 'colour:re|', '(|'])('is nothing that could be completed in %s', (text) =>
    expect(at(text)?.what === 'value' || at(text)?.begun).toBeFalsy(),
  );

  it('never fails, and stays within the text', () => {
    fc.assert(
      fc.property(fc.string(), fc.nat(40), (text, place) => {
        const caret = Math.min(place, text.length);
        const found = completingAt(text, caret);
        if (!found) return;
        expect(found.from).toBeLessThanOrEqual(found.to);
        expect(found.to).toBeLessThanOrEqual(text.length);
        if (found.what === 'value') parseFilter(found.beside);
      }),
      { numRuns: 2000 },
    );
  });

  it('a value is written so that it is read as the same', () => {
    fc.assert(
      fc.property(fc.string({ minLength: 1 }), (value) => {
        expect(parseFilter(`domain:${writeValue(value)}`)).toMatchObject({ key: 'domain', values: [value] });
      }),
    );
  });
});
