import { expect, it } from 'vitest';
import { inheritedPriority } from './index.ts';

const within = new Map([
  ['raw.a', 'raw'],
  ['raw.b', 'raw'],
  ['mart.a', 'mart'],
  ['mart.b', 'mart'],
  ['report.x', 'report'],
]);
const steps = [
  ['raw', 'mart'],
  ['mart', 'report'],
  ['raw.a', 'mart.a'],
  ['raw.b', 'mart.b'],
  ['mart.a', 'report.x'],
].map(([from = '', to = '']) => ({ from, to }));
const told = (own: [string, number][]) =>
  Object.fromEntries(
    [...inheritedPriority({ steps, within }, new Map(own))]
      .map(([id, { grade, from, distance }]) => [id, `${grade} ${from} ${distance}`])
      .sort(),
  );

it('what a critical report is made of inherits from it, and of its columns only those that lead to it', () => {
  expect(told([['report', 2]])).toEqual({
    mart: '2 report 1',
    'mart.a': '2 report 1',
    raw: '2 report 2',
    'raw.a': '2 report 2',
  });
});

it('the highest grade is inherited, of that the nearest; what is ordinary hands on nothing', () => {
  expect(
    told([
      ['report', 2],
      ['mart', 1],
    ]),
  ).toEqual({
    mart: '2 report 1',
    'mart.a': '2 report 1',
    raw: '2 report 2',
    'raw.a': '2 report 2',
    'raw.b': '1 mart 1',
  });
  expect(told([['report', 0]])).toEqual({});
});

it('what holds a column that matters has it from there, and hands on nothing of that', () => {
  expect(told([['mart.b', 1]])).toEqual({ mart: '1 mart.b 1', 'raw.b': '1 mart.b 1', raw: '1 mart.b 2' });
});

it('ends in a circle', () => {
  const round = [
    { from: 'p', to: 'q' },
    { from: 'q', to: 'p' },
  ];
  expect([...inheritedPriority({ steps: round, within: new Map() }, new Map([['p', 1]]))]).toEqual([
    ['q', { grade: 1, from: 'p', distance: 1 }],
  ]);
});
