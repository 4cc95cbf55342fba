import { describe, expect, it } from 'vitest';
import { describeTexts, findInText } from './freeText.ts';
import { recognise } from './recognise.ts';

const setting = { today: new Date('2026-05-31'), countries: ['GB', 'NO'] };
const cut = (text: string) => findInText(text).map((place) => [place.kind, text.slice(place.start, place.end)]);

describe('personal data inside of texts', () => {
  it.each([
    [
      'Please write to ida.holm@example.org, or call +47 22 12 34 56 in the morning',
      [
        ['e-mail address', 'ida.holm@example.org'],
        ['phone number', '+47 22 12 34 56'],
      ],
    ],
    ['The refund went to the card 4111 1111 1111 1111 of the guest', [['payment card number', '4111 1111 1111 1111']]],
    [
      'Pay it back to GB82 WEST 1234 5698 7654 32 as soon as you can',
      [['bank account', 'GB82 WEST 1234 5698 7654 32']],
    ],
    ['She gave JW 12 34 56 D as her insurance number at the desk', [['national identifier', 'JW 12 34 56 D']]],
    ['His papers say MRTMTT91D08F205J and were checked at the gate', [['national identifier', 'MRTMTT91D08F205J']]],
    [
      'Twice: a.b@example.org and again c.d@example.org in one note',
      [
        ['e-mail address', 'a.b@example.org'],
        ['e-mail address', 'c.d@example.org'],
      ],
    ],
  ] as const)('are told with their places: %s', (text, places) => {
    expect(cut(text)).toEqual(places);
  });

  it.each([
    'The ferry left at 06:30 with 214 passengers on board',
    'Order 12345678901 was packed twice in the storehouse',
    'Sailing 2026-05-31 from berth 4 to berth 12 was late by 15 minutes',
    'MRTMTT91D08F205X looks like one but fails its check letter',
    'ida.holm@example.org',
    'a b c',
  ])('are not seen where there is none: %s', (text) => {
    expect(findInText(text)).toEqual([]);
  });

  it('never overlap, and lie within the text', () => {
    const text = 'Card 4111 1111 1111 1111 4111 1111 1111 1111 and +47 22 12 34 56 +47 22 12 34 57 told by phone';
    const places = findInText(text);
    expect(places.length).toBeGreaterThan(1);
    for (const [index, place] of places.entries()) {
      expect(place.start).toBeGreaterThanOrEqual(places[index - 1]?.end ?? 0);
      expect(place.end).toBeLessThanOrEqual(text.length);
    }
  });
});

describe('how texts are written', () => {
  const many = (text: string) => Array.from({ length: 30 }, (_, index) => `${text} ${index}`);
  it.each([
    ['message', 'Dear crew, please keep the side door of the storehouse closed at night. Kind regards, Ida'],
    ['message', 'Hei alle sammen, husk å lukke døren til lageret etter stengetid'],
    ['log', '2026-05-31T06:12:01 INFO booking service answered the request of the gate in'],
    ['record', 'name: Ida Holm; berth: 12; meal: none at all; remark given by the'],
    ['markup', '<p>The side door of the storehouse is to be kept closed</p>'],
    ['note', 'Guest asked for a cabin near the stern'],
    [
      'prose',
      'The door stood open. Nobody had seen it. The guard came at nine. He closed it. Then it rained all night long',
    ],
  ])('is told: %s', (kind, text) => {
    expect(describeTexts(many(text))).toMatchObject({ kind, share: 1 });
  });

  it('is nothing where there are no texts, and the majority where they differ', () => {
    expect(describeTexts(['a', 'b', 'one two'])).toBeUndefined();
    expect(
      describeTexts([
        ...many('Guest asked for a cabin near the stern'),
        '<p>The side door of the storehouse is closed</p>',
      ]),
    ).toMatchObject({ kind: 'note', share: 0.968 });
  });

  it('stands in the evidence with offsets and without a word of the texts', () => {
    const values = Array.from({ length: 40 }, (_, index) =>
      index % 2 === 0
        ? `Guest ${index} asked to be told at guest${index}@example.org please`
        : `Guest ${index} asked for a cabin near the stern`,
    );
    const finding = recognise({ name: 'note', type: 'text', values }, setting).find(
      (entry) => entry.classKey === 'personal-text',
    );
    expect(finding).toMatchObject({ share: 0.5, inside: { 'e-mail address': 20 }, texts: { kind: 'note', share: 1 } });
    expect(finding?.texts?.examples[0]).toEqual({
      length: values[0]?.length,
      places: [{ kind: 'e-mail address', start: 28, end: 46 }],
    });
    expect(JSON.stringify(finding?.texts)).not.toContain('guest');
  });
});
