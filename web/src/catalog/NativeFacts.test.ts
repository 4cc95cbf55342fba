import { isValidElement } from 'react';
import { describe, expect, it } from 'vitest';
import { factsOf } from './NativeFacts.tsx';

const labels = (native: Record<string, unknown>) => factsOf(native).map(([label]) => label);
const value = (native: Record<string, unknown>, label: string) => factsOf(native).find(([name]) => name === label)?.[1];

describe('facts of an asset', () => {
  it('stand there only when the source says them', () => {
    expect(labels({})).toEqual([]);
    expect(labels({ type: 'text', default: '', references: [], nullable: true })).toEqual([]);
    expect(labels({ default: '0', primaryKey: true, references: ['a.b.c'] })).toEqual(['Default', 'Key', 'Refers to']);
  });

  it('tell how much a report is used', () => {
    expect(value({ opened: 1, openedBy: 1 }, 'Opened')).toBe('1 time by 1 person');
    expect(value({ opened: 12_400, openedBy: 30 }, 'Opened')).toBe('12,400 times by 30 people');
    expect(labels({ opened: 2, openedBy: 1, lastOpened: '2026-05-01T00:00:00Z', author: 'Bettina Sark' })).toEqual([
      'Made by',
      'Opened',
      'Last opened',
    ]);
  });

  it('tell what a flow reads and writes, and how its last run ended', () => {
    const flow = {
      runs: 14,
      failed: 1,
      lastState: 'failed',
      lastAt: '2026-05-01T00:00:00Z',
      lastMessage: 'permission denied',
      reads: ['s3://shore/tills/a.csv'],
      writes: [],
    };
    expect(labels(flow)).toEqual(['Runs', 'Last run', 'Reads']);
    expect(value(flow, 'Runs')).toBe('14 known, 1 failed');
    expect(isValidElement(value(flow, 'Last run'))).toBe(true);
  });
});
