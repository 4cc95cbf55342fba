import { describe, expect, it } from 'vitest';
import { rightsOf } from './SourceRights.tsx';

describe('rights at the source', () => {
  it('name the owner first, then everybody, then the rest', () => {
    expect(
      rightsOf({ owner: 'ferry', rights: { zoe: 'SELECT', everybody: 'SELECT', anna: 'INSERT, SELECT (email)' } }),
    ).toEqual([
      { who: 'ferry', rights: 'owns it: all rights', notable: false },
      { who: 'everybody', rights: 'SELECT', notable: true },
      { who: 'anna', rights: 'INSERT, SELECT (email)', notable: false },
      { who: 'zoe', rights: 'SELECT', notable: false },
    ]);
  });
  it('are not there when the source says nothing of them', () => {
    expect(rightsOf({})).toEqual([]);
    expect(rightsOf({ owner: 'x' })).toHaveLength(1);
  });
});
