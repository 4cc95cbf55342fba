import { beforeAll, expect, it } from 'vitest';
// @ts-expect-error a script without types
import { judge, judgedSearches } from '../../../bench/judged.mjs';
import { Caller } from './caller.ts';

interface Sum {
  readonly asked: number;
  readonly success: number;
  readonly reciprocal: number;
}
const analyst = new Caller();
beforeAll(() => analyst.as('Jorun Pell'));

it('searches judged by hand find what they should among the first three, nine times of ten', async () => {
  const find = async (filter: string) => {
    const found = await analyst.call('GET', `/assets?limit=20&filter=${encodeURIComponent(filter)}`);
    expect([filter, found.status]).toEqual([filter, 200]);
    return found.body.items;
  };
  expect(judgedSearches().length).toBeGreaterThanOrEqual(150);
  const { all, missed }: { all: Sum; missed: { asked: string; first: string[] }[] } = await judge(find);
  expect(all.success, JSON.stringify(missed)).toBeGreaterThanOrEqual(0.9);
  expect(all.reciprocal).toBeGreaterThanOrEqual(0.85);
});
