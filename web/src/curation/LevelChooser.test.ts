import { describe, expect, it } from 'vitest';
import { shownKey } from '../shell/KeysHelp.tsx';
import { judgeLevel } from './LevelChooser.tsx';

describe('choosing a level', () => {
  it.each([
    ['found', 3, '', null, false],
    ['4', 3, '', 4, false],
    ['3', 3, '', 3, false],
    ['2', 3, '', 2, true],
    ['2', 3, '  ', 2, true],
    ['2', 3, 'Made-up values', 2, false],
    ['1', null, '', 1, false],
  ])('%s where %s was found, because of “%s”', (chosen, found, reason, level, lacks) => {
    const judged = judgeLevel(chosen, found, reason);
    expect(judged.level).toBe(level);
    expect(judged.lacks !== null).toBe(lacks);
  });
});

describe('lowering a level', () => {
  it.each([
    ['3', 2, 4, '', true, 'say why'],
    ['3', 2, 4, 'Made-up values', true, null],
    ['3', 2, 4, 'Made-up values', false, 'only a steward'],
    ['found', 2, 4, '', false, 'only a steward'],
    ['found', 2, 4, '', true, null],
    ['4', 2, 3, '', false, null],
  ])(
    'to %s where %s was found and %s stands, because of “%s”, by a steward: %s',
    (chosen, found, now, reason, steward, lacks) => {
      const told = judgeLevel(chosen, found, reason, now, steward).lacks;
      expect(lacks === null ? told : told?.includes(lacks)).toBe(lacks === null ? null : true);
    },
  );
});

describe('keys', () => {
  it('are shown as keyboards name them', () => {
    expect(['ArrowDown', 'Escape', 'mod+k', 'j'].map(shownKey)).toEqual(['↓', 'Esc', 'Ctrl k', 'j']);
  });
});
