import { describeTexts, findInText } from '../freeText.ts';
import type { Detector } from '../types.ts';

/** What personal data stands inside a text: the kinds found, joined with a comma, or false when it is no running text or holds none. */
export function personalDataInText(value: string): string | false {
  const kinds = new Set(findInText(value).map((place) => place.kind));
  return kinds.size > 0 ? [...kinds].sort().join(', ') : false;
}

export const personalText: Detector = {
  id: 'text.personal',
  version: '2',
  classKey: 'personal-text',
  strength: 0.93,
  types: ['text', 'other'],
  minShare: 0.01,
  minShareNamed: 0.002,
  namesFor: [
    'note',
    'notes',
    'comment',
    'comments',
    'remark',
    'remarks',
    'message',
    'text',
    'body',
    'description',
    'letter',
    'feedback',
    'complaint',
    'misc',
    'memo',
  ],
  namesAgainst: [],
  test: personalDataInText,
  texts: describeTexts,
  accepts: [
    'Please write to ida.holm@example.org about the refund',
    'Caller left +47 22 12 34 56 and asked to be called back',
    'She gave JW 12 34 56 D as her insurance number at the desk',
  ],
  rejects: [
    'ida.holm@example.org',
    'The ferry left at 06:30 with 214 passengers on board',
    'Ticket 1234567890123456 was scanned twice at the gate',
  ],
};
