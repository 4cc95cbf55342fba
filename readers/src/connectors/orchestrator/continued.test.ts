import type { RunEvent } from '@idrel/contract/lineage';
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { continued } from './continued.ts';
import { type Job, readEvents } from './openLineage.ts';

const at = (minute: number) => new Date(Date.UTC(2026, 10, 1, 0, minute)).toISOString();
const TYPES = ['START', 'RUNNING', 'COMPLETE', 'FAIL', 'ABORT'] as const;
const told = fc.record({
  type: fc.constantFrom(...TYPES),
  run: fc.nat(3),
  outputs: fc.constantFrom('none', 'bare', 'columns'),
  rows: fc.option(fc.nat(100), { nil: undefined }),
  message: fc.option(fc.constantFrom('disk full', 'no door'), { nil: undefined }),
  query: fc.option(fc.constantFrom('select 1', 'select 2'), { nil: undefined }),
  field: fc.constantFrom('a', 'b'),
});
type Told = typeof told extends fc.Arbitrary<infer T> ? T : never;
const toEvent = ({ type, run, outputs, rows, message, query, field }: Told, minute: number): RunEvent => ({
  eventType: type,
  eventTime: at(minute),
  run: { runId: `r${run}`, ...(message ? { facets: { errorMessage: { message } } } : {}) },
  job: { namespace: 'night', name: 'load', ...(query ? { facets: { sql: { query } } } : {}) },
  ...(outputs === 'none'
    ? {}
    : {
        outputs: [
          {
            namespace: 's3://shore',
            name: 'out.csv',
            ...(rows === undefined ? {} : { outputFacets: { outputStatistics: { rowCount: rows } } }),
            facets: {
              schema: { fields: [{ name: field }] },
              ...(outputs === 'columns'
                ? {
                    columnLineage: {
                      fields: { x: { inputFields: [{ namespace: 's3://shore', name: 'in.csv', field }] } },
                    },
                  }
                : {}),
            },
          },
        ],
      }),
});
const read = (events: readonly RunEvent[]) => readEvents(events)[0] as Job;
/** Reads events in parts, each upon what the parts before it came to. */
const inParts = (events: readonly RunEvent[], cuts: readonly number[]): Job => {
  const ends = [...new Set([...cuts.map((cut) => 1 + (cut % events.length)), events.length])].sort((a, b) => a - b);
  let job: Job | undefined;
  for (const [nth, end] of ends.entries()) job = continued(read(events.slice(ends[nth - 1] ?? 0, end)), job);
  return job as Job;
};

describe('events that come bit by bit', () => {
  it('come to the same as all of them at once, wherever they are parted', () => {
    fc.assert(
      fc.property(
        fc.array(told, { minLength: 1, maxLength: 14 }),
        fc.array(fc.nat(13), { maxLength: 5 }),
        (all, cuts) => {
          const events = all.map(toEvent);
          // Runs that ended in the same minute may stand in either order: there are none here.
          expect(inParts(events, cuts)).toEqual(read(events));
        },
      ),
    );
  });

  it('an end that was told stays one, and a beginning that comes late is taken in', () => {
    const [start, end] = [
      toEvent(
        { type: 'START', run: 1, outputs: 'none', rows: undefined, message: undefined, query: undefined, field: 'a' },
        1,
      ),
      toEvent(
        { type: 'FAIL', run: 1, outputs: 'none', rows: undefined, message: 'disk full', query: undefined, field: 'a' },
        9,
      ),
    ];
    const [late] = continued(read([start]), read([end])).runs;
    expect(late).toEqual({
      id: 'r1',
      state: 'failed',
      began: at(1),
      ended: at(9),
      rows: null,
      message: 'disk full',
      checks: [],
    });
  });

  it('what it reads and writes is told by the newest event, though an older one comes after it', () => {
    const of = (minute: number, field: 'a' | 'b') =>
      toEvent(
        { type: 'COMPLETE', run: minute, outputs: 'columns', rows: 1, message: undefined, query: undefined, field },
        minute,
      );
    const job = continued(read([of(2, 'a')]), read([of(5, 'b')]));
    expect(job.edges.map(({ from }) => from.column)).toEqual(['b']);
    // One that tells of no columns says less than one that did.
    const bare = toEvent(
      { type: 'COMPLETE', run: 9, outputs: 'bare', rows: 1, message: undefined, query: undefined, field: 'a' },
      9,
    );
    expect(continued(read([bare]), job).edges).toEqual(job.edges);
  });
});
