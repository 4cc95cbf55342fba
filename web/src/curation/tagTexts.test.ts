import type { TagAnswer } from '@idrel/contract/curation';
import { describe, expect, it } from 'vitest';
import { actionIn, draftOf } from './ActionFields.tsx';
import { offeredTags, readTags } from './TagChooser.tsx';

const tag = (id: string, name: string, more: Partial<TagAnswer> = {}): TagAnswer => ({
  id,
  name,
  description: '',
  permitted: null,
  kinds: null,
  groupIds: [],
  groups: [],
  travels: [],
  assets: 0,
  arrived: 0,
  values: [],
  mayGive: true,
  version: 1,
  ...more,
});
const TAGS = [
  tag('1', 'retention', { permitted: ['short', 'long'] }),
  tag('2', 'pilot', { permitted: [], kinds: ['table'] }),
  tag('3', 'ticket', {
    values: [
      { value: 'A/1', assets: 2 },
      { value: '', assets: 1 },
    ],
  }),
  tag('4', 'sealed by law', { mayGive: false }),
];

describe('tags as they are written', () => {
  it('are a key, or a key with a value; the last of each key counts', () => {
    expect(readTags(['Retention/short', 'ticket/B/2', 'retention/long', 'pilot'], TAGS)).toEqual({
      given: [
        { id: '3', value: 'B/2' },
        { id: '1', value: 'long' },
        { id: '2', value: '' },
      ],
      wrong: undefined,
    });
  });

  it.each([
    ['retension/short', 'There is no tag “retension”.'],
    ['retention/medium', '“medium” is no value of retention: use short, long.'],
    ['pilot/1', 'pilot is given without a value.'],
  ])('are told to be wrong: %s', (text, wrong) => {
    expect(readTags(['ticket', text], TAGS)).toEqual({ given: [{ id: '3', value: '' }], wrong });
  });

  it('are offered with the values that are permitted, or were given, to those who may give them', () => {
    expect(offeredTags(TAGS, 'table')).toEqual([
      'retention',
      'retention/short',
      'retention/long',
      'pilot',
      'ticket',
      'ticket/A/1',
    ]);
    expect(offeredTags(TAGS, 'column')).not.toContain('pilot');
  });
});

describe('an action', () => {
  it.each([
    { kind: 'standing', standing: 'trusted' },
    { kind: 'tag', id: '1', value: 'short' },
    { kind: 'tag', id: '1' },
    { kind: 'tag', id: '1', remove: true },
    { kind: 'owner', id: 'p' },
    { kind: 'term', id: 't', remove: true },
    { kind: 'notice', notice: 'stop', text: 'Doubled.' },
    { kind: 'notice', notice: 'note', text: 'Moves.', ends: '2027-01-31' },
    { kind: 'level', level: 3, reason: 'By contract' },
    { kind: 'level', level: null, reason: '' },
    { kind: 'link', link: 'ticket', url: 'https://tickets.example.org/12', title: 'Doubled' },
    { kind: 'description', text: '{name} of {in}' },
  ] as const)('is chosen and shown as the same: %o', (action) => {
    expect(actionIn(draftOf(action))).toEqual(action);
  });

  it('is none while something is missing', () => {
    expect(actionIn({ what: 'tag', to: '', value: '' })).toBeNull();
    expect(actionIn({ what: 'level', to: '3', value: ' ' })).toBeNull();
    expect(actionIn({ what: 'link', to: 'ticket', value: 'Doubled', url: '' })).toBeNull();
    expect(actionIn({ what: 'description', to: '', value: ' ' })).toBeNull();
  });
});
