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

describe('keys', () => {
  it('are shown as keyboards name them', () => {
    expect(['ArrowDown', 'Escape', 'mod+k', 'j'].map(shownKey)).toEqual(['↓', 'Esc', 'Ctrl k', 'j']);
  });
});
