import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import {
  CONSEQUENCES,
  type Consequence,
  consequencesOf,
  FLOW_ORIGINS,
  INFLUENCE_KINDS,
  type Made,
  type MadeEdge,
  PROPOSALS,
  type ProposedChange,
  VALUE_KINDS,
} from './index.ts';

type Origin = MadeEdge['maker']['origin'];
const maker = (origin: Origin, system = 'postgresql', flow: string | null = null) => ({ origin, system, flow });
/** `table` or `table.column`, perhaps with a type behind a colon. */
const things = (...names: string[]): Map<string, Made> =>
  new Map(
    names.map((text) => {
      const [name = '', type = null] = text.split(':');
      return [name, { id: name, relation: name.split('.')[0] ?? name, name, type, system: 'postgresql' }];
    }),
  );
const edge = (from: string, to: string, how: MadeEdge['how'], by = maker('view')): MadeEdge => ({
  from,
  to,
  how,
  maker: by,
});
/** An edge between columns with the one between their relations. */
const both = (from: string, to: string, how: MadeEdge['how'], by = maker('view')): MadeEdge[] => [
  edge(from, to, how, by),
  edge(from.split('.')[0] ?? from, to.split('.')[0] ?? to, null, by),
];
const ask = (
  what: ProposedChange['what'],
  of: string,
  all: Map<string, Made>,
  edges: MadeEdge[],
  to: string | null = null,
) => {
  const { assets, flows } = consequencesOf({ what, to }, all.get(of) as Made, all, edges);
  return {
    assets: Object.fromEntries([...assets].map(([id, { consequence }]) => [id, consequence])),
    flows: Object.fromEntries([...flows].map(([id, { consequence }]) => [id, consequence])),
    why: (id: string) => (assets.get(id) ?? flows.get(id))?.why ?? '',
  };
};

describe('what a proposed change would do', () => {
  const all = things(
    'person',
    'person.mail:varchar(80)',
    'v',
    'v.mail:varchar(80)',
    'w',
    'w.n:bigint',
    'copy',
    'copy.mail:varchar(80)',
    'r',
    'r.f',
  );

  it('drops no column under a view of PostgreSQL, and says what would go with it', () => {
    const edges = [...both('person.mail', 'v.mail', 'copied'), ...both('v.mail', 'w.n', 'aggregated')];
    const told = ask('drop', 'person.mail', all, edges);
    expect(told.assets).toEqual({ v: 'refused', w: 'fails' });
    expect(told.why('v')).toContain('CASCADE');
    expect(told.why('w')).toBe('It reads v, which cannot be read any more.');
  });

  it('lets a view follow a new name where the database does, and tells that it fails where it does not', () => {
    expect(ask('rename', 'person.mail', all, both('person.mail', 'v.mail', 'copied')).assets).toEqual({
      'v.mail': 'unharmed',
    });
    const elsewhere = both('person.mail', 'v.mail', 'copied', maker('view', 'mariadb'));
    expect(ask('rename', 'person.mail', all, elsewhere).assets).toEqual({ v: 'fails' });
  });

  it('tells that what fills a table fails, and that what is made of the table then gets nothing new', () => {
    const edges = [
      ...both('person.mail', 'copy.mail', 'copied', maker('script', 'scripts', 'nightly')),
      ...both('copy.mail', 'r.f', 'copied', maker('report', 'reports', 'r')),
    ];
    const told = ask('drop', 'person.mail', all, edges);
    expect(told.assets).toEqual({ copy: 'stale', r: 'stale' });
    expect(told.flows).toEqual({ nightly: 'fails', r: 'stale' });
    expect(told.why('nightly')).toBe('It names person.mail: its next run fails.');
  });

  it('leaves a materialised view the rows that it has, though it is refreshed no more', () => {
    const all = things('person', 'person.mail', 'v', 'm');
    const kept = new Map(all).set('m', { ...(all.get('m') as Made), keeps: true });
    const edges = [...both('person.mail', 'v.mail', 'copied').slice(1), edge('v', 'm', null)];
    const from = [edge('person.mail', 'v', 'filter'), ...edges];
    expect(ask('drop', 'person.mail', kept, from).assets).toEqual({ v: 'refused', m: 'stale' });
    expect(ask('drop', 'person.mail', all, from).assets).toEqual({ v: 'refused', m: 'fails' });
  });

  it('follows a new type as far as it goes, and holds it against the type of what is stored', () => {
    const load = maker('pushed', 'orchestrator', 'load');
    const edges = both('person.mail', 'copy.mail', 'copied', load);
    expect(ask('retype', 'person.mail', all, edges, 'varchar(60)').assets).toEqual({ 'copy.mail': 'unharmed' });
    expect(ask('retype', 'person.mail', all, edges, 'text').assets).toEqual({ 'copy.mail': 'differs' });
    const numbers = things('a', 'a.n:bigint', 'v', 'v.n:bigint', 'b', 'b.n:bigint');
    const mariadb = maker('view', 'mariadb');
    const ways = [...both('a.n', 'v.n', 'copied', mariadb), ...both('v.n', 'b.n', 'copied', load)];
    const told = ask('retype', 'a.n', numbers, ways, 'varchar(10)');
    expect(told.assets).toEqual({ 'v.n': 'differs', b: 'stale' });
    expect(told.flows).toEqual({ load: 'fails' });
    expect(ask('retype', 'person.mail', all, both('person.mail', 'v.mail', 'copied'), 'text').assets).toEqual({
      v: 'refused',
    });
  });

  it('lets a link to a table elsewhere keep the type that it declares', () => {
    const all = things('far', 'far.at:date', 'link', 'link.at:date', 'v', 'v.at:date');
    const edges = [...both('far.at', 'link.at', 'copied', maker('link')), ...both('link.at', 'v.at', 'copied')];
    const told = ask('retype', 'far.at', all, edges, 'text');
    expect(told.assets).toEqual({ 'link.at': 'differs', 'v.at': 'differs' });
    expect(told.why('link.at')).toBe(
      'date does not take every text: what does not fit is cut, or stops whoever reads it.',
    );
    expect(ask('rename', 'far.at', all, edges).assets).toEqual({ link: 'fails', v: 'fails' });
  });

  it('finds where a value still stands that is to be masked, but for what holds it masked', () => {
    const edges = [
      ...both('person.mail', 'copy.mail', 'copied', maker('script')),
      edge('person.mail', 'w', 'filter'),
      ...both('person.mail', 'v.mail', 'masked'),
      ...both('copy.mail', 'r.f', 'aggregated', maker('report')),
    ];
    expect(ask('mask', 'person.mail', all, edges).assets).toEqual({
      'copy.mail': 'shows',
      w: 'rows',
      'v.mail': 'unharmed',
      'r.f': 'shows',
    });
  });

  it('asks, of a column that is to take no nulls, what writes its table', () => {
    const edges = [
      edge('v.mail', 'person.mail', 'copied', maker('script', 'scripts', 'brings it')),
      edge('v', 'person', null, maker('script', 'scripts', 'brings it')),
      edge('w', 'person', null, maker('script', 'scripts', 'brings others')),
      ...both('person.mail', 'copy.mail', 'copied', maker('script', 'scripts', 'reads it')),
    ];
    const told = ask('forbid nulls', 'person.mail', all, edges);
    expect(told.flows).toEqual({ 'brings it': 'differs', 'brings others': 'fails' });
    expect(told.assets).toEqual({ 'copy.mail': 'unharmed' });
  });

  it('tells what a flow that is stopped leaves without anything new', () => {
    const all = things('f', 'a', 'b');
    const edges = [edge('f', 'a', null, maker('pushed', 'orchestrator', 'f')), edge('a', 'b', null)];
    expect(ask('stop', 'f', all, edges).assets).toEqual({ a: 'stale', b: 'stale' });
  });

  describe('on any graph', () => {
    const names = ['a', 'b', 'c', 'd'].flatMap((table) => [table, `${table}.x:varchar(20)`, `${table}.y:integer`]);
    const all = things(...names);
    const columns = [...all.keys()].filter((name) => name.includes('.'));
    const edges = fc.array(
      fc
        .tuple(
          fc.constantFrom(...columns),
          fc.constantFrom(...columns),
          fc.constantFrom(...VALUE_KINDS, ...INFLUENCE_KINDS),
          fc.constantFrom(...FLOW_ORIGINS),
          fc.constantFrom('postgresql', 'mariadb', 'sqlite'),
        )
        .map(([from, to, how, origin, system]) => both(from, to, how, maker(origin, system, `${origin} ${system}`))),
      { maxLength: 12 },
    );
    const changes = PROPOSALS.flatMap((what): ProposedChange[] =>
      what === 'retype' ? ['text', 'bigint', 'date'].map((to) => ({ what, to })) : [{ what, to: null }],
    );
    const change = fc.constantFrom(...changes);
    const outcome = (asked: ProposedChange, of: MadeEdge[]) => {
      const { assets, flows } = consequencesOf(asked, all.get('a.x') as Made, all, of);
      return [...assets, ...flows].map(([id, { consequence }]): [string, Consequence] => [id, consequence]).sort();
    };

    it('comes to the same, in whatever order edges are told', () => {
      fc.assert(
        fc.property(change, edges, fc.nat(), (asked, some, seed) => {
          const shuffled =
            fc.sample(fc.shuffledSubarray(some, { minLength: some.length }), { numRuns: 1, seed })[0] ?? [];
          expect(outcome(asked, shuffled.flat())).toEqual(outcome(asked, some.flat()));
        }),
        { numRuns: 500 },
      );
    });

    it('is never less grave when more is made of it', () => {
      fc.assert(
        // Of what writes a table it can turn out that it brings the value after all.
        fc.property(
          change.filter(({ what }) => what !== 'forbid nulls'),
          edges,
          edges,
          (asked, some, more) => {
            const after = new Map(outcome(asked, [...some, ...more].flat()));
            for (const [id, consequence] of outcome(asked, some.flat()))
              expect(CONSEQUENCES.indexOf(after.get(id) as Consequence), id).toBeLessThanOrEqual(
                CONSEQUENCES.indexOf(consequence),
              );
          },
        ),
        { numRuns: 500 },
      );
    });

    it('tells only of what can be reached, and of nothing twice harmed without a cause that is told', () => {
      fc.assert(
        fc.property(change, edges, (asked, some) => {
          const { assets } = consequencesOf(asked, all.get('a.x') as Made, all, some.flat());
          for (const [id, { after }] of assets) {
            expect(id).not.toBe('a.x');
            // A step leads there: from the start, or from what was told itself.
            expect(after === 'a.x' || assets.has(after as string), `${id} after ${after}`).toBe(true);
            const columnsOf = [id, `${id}.x`, `${id}.y`];
            expect(some.flat().some(({ from, to }) => from === after && columnsOf.includes(to))).toBe(true);
          }
        }),
        { numRuns: 300 },
      );
    });
  });
});
