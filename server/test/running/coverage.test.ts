import type { CoverageAnswer } from '@idrel/contract/coverage';
import { beforeAll, describe, expect, it } from 'vitest';
import { Caller } from './caller.ts';

const steward = new Caller();
const analyst = new Caller();
beforeAll(async () => {
  await steward.as('Sunniva Dahlmark');
  await analyst.as('Maud Ilkley');
});
const read = async (who: Caller, by: string): Promise<CoverageAnswer> =>
  (await who.call('GET', `/coverage?by=${by}`)).body;
const found = async (who: Caller, filter: string): Promise<number> =>
  (await who.call('GET', `/assets?limit=1&filter=${encodeURIComponent(filter)}`)).body.total;

describe('coverage', () => {
  for (const by of ['domain', 'source', 'kind', 'level', 'owner', 'priority'])
    it(`counts by ${by} what the filter behind each figure finds`, async () => {
      const answer = await read(steward, by);
      expect(answer.rows.length).toBeGreaterThanOrEqual(3);
      for (const row of [answer.all, ...answer.rows]) {
        expect([row.name, await found(steward, row.filter)]).toEqual([row.name, row.assets]);
        for (const [index, measure] of answer.measures.entries())
          expect([row.name, measure.key, await found(steward, `${row.filter} ${measure.filter}`)]).toEqual([
            row.name,
            measure.key,
            row.counts[index],
          ]);
      }
    });

  it('counts an asset for its domain and for those above it', async () => {
    const { rows, all } = await read(steward, 'domain');
    const travel = rows.findIndex((row) => row.name === 'Travel');
    const below = rows.slice(travel + 1).findIndex((row) => row.depth === 0);
    const parts = rows.slice(travel + 1, travel + 1 + below);
    expect(parts.map((row) => row.depth)).toEqual(parts.map(() => 1));
    expect(rows[travel]?.assets).toBeGreaterThanOrEqual(parts.reduce((sum, row) => sum + row.assets, 0));
    expect(rows.filter((row) => row.depth === 0).reduce((sum, row) => sum + row.assets, 0)).toBe(all.assets);
  });

  it('shows a person only their own domains', async () => {
    const [hers, all] = [await read(analyst, 'source'), await read(steward, 'source')];
    expect(hers.all.assets).toBeLessThan(all.all.assets);
    // Of the Booking system she sees the schema that lies in Reference.
    const of = ({ rows }: typeof hers, name: string) => rows.find((row) => row.name === name)?.assets ?? 0;
    expect(of(hers, 'Booking system')).toBeGreaterThan(0);
    expect(of(hers, 'Booking system')).toBeLessThan(of(all, 'Booking system'));
    const domains = (await read(analyst, 'domain')).rows.map((row) => row.name);
    expect(domains).toContain('Reference');
    expect(domains).not.toContain('Travel');
  });

  it('points at what is missing most, with the filter that finds just that', async () => {
    const { nudges } = await read(steward, 'source');
    expect(nudges.length).toBeGreaterThan(0);
    for (const nudge of nudges) expect(await found(steward, nudge.filter)).toBe(nudge.missing);
    expect(nudges.map((nudge) => nudge.missing)).toEqual(nudges.map((nudge) => nudge.missing).sort((a, b) => b - a));
  });

  it('refuses another way of grouping, and whoever is not signed in', async () => {
    expect((await steward.call('GET', '/coverage?by=colour')).status).toBe(422);
    expect((await new Caller().call('GET', '/coverage')).status).toBe(401);
  });
});
