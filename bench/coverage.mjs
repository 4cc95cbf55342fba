import { inTurn, tell } from './lib.mjs';

/** Days that are kept, owners who own something, and domains that hold something. */
const [DAYS, OWNERS, DOMAINS] = [730, 2000, 40];

/**
 * Figures of a million assets: kept, their course of two years in which every figure of every day was another, and as they are now by owner and by level; what is
 * used, and what is found by size and by lineage.
 *
 * @param measure times what is asked for against a bare query; @returns lines of the table
 */
export async function coverageOverTime(client, send, measure, made) {
  const expect = (held, what) => {
    if (!held) throw new Error(what);
  };
  const ask = async (sql, bind) => (await client.query(sql, bind)).rows;
  // Tables lie in forty domains, and belong to two thousand people.
  await ask(
    `with homes as (
       insert into domain (name, parent_id) select 'Home ' || n, $1 from generate_series(1, ${DOMAINS}) n returning id
     )
     update asset a set domain_id = h.id
     from (select m.id, 1 + (row_number() over (order by m.id)) % ${DOMAINS} as nth from made m) t
     join (select id, row_number() over (order by id) as nth from homes) h using (nth)
     where a.id = t.id`,
    [made.domain],
  );
  await ask(
    `with people as (
       insert into person (name, email)
       select 'Owner ' || n, 'owner' || n || '@example.org' from generate_series(1, ${OWNERS}) n
       returning id
     )
     insert into asset_person (asset_id, person_id, role)
     select t.id, p.id, 'owner'
     from (select id, 1 + (row_number() over (order by id)) % ${OWNERS} as nth from made) t
     join (select id, row_number() over (order by id) as nth from people) p using (nth)`,
  );
  await ask('analyze');
  await send('GET', '/assets?limit=1');
  // The demo brings ninety days of its own.
  await ask('delete from coverage_span');
  await ask('delete from coverage_day');
  const lines = [];
  const bare = [
    "select domain_id, kind, count(*), count(*) filter (where description <> '') from asset where kind <> 'column' and gone_at is null group by 1, 2",
    [],
  ];
  const [kept, straight] = await inTurn(5, [
    async () => expect(JSON.parse(await send('POST', '/coverage/days')).day, 'nothing is kept'),
    () => client.query(...bare),
  ]);
  const [{ spans }] = await ask('select count(*)::int as spans from coverage_span');
  lines.push(
    tell(
      `Figures of the day kept: 12 of them by source, kind, level and owner in ${DOMAINS} domains (${spans} rows), against counting two by kind`,
      kept,
      straight,
      'under 5 s',
    ),
  );
  await ask(`insert into coverage_day (day) select current_date - d from generate_series(1, ${DAYS}) d`);
  await ask(
    `insert into coverage_span (by, key, domain_id, from_day, until_day, assets, met)
     select s.by, s.key, s.domain_id, current_date - d, current_date - d + 1, s.assets,
       coalesce((select jsonb_object_agg(f.key, round(f.value::float8 * (1 - d / 1000.0))) from jsonb_each_text(s.met) f), '{}')
     from coverage_span s
     cross join generate_series(1, ${DAYS}) d
     where s.until_day is null and s.by in ('kind', 'source', 'level')`,
  );
  await ask('analyze coverage_span');
  const [{ rows }] = await ask('select count(*)::int as rows from coverage_span');
  for (const [by, days] of [
    ['domain', 90],
    ['source', 90],
    ['domain', DAYS],
  ])
    await measure(
      `The course of ${days} days by ${by}, where every figure of every day is another (${rows} rows)`,
      'under 300 ms',
      `/coverage/course?by=${by}&days=${days}`,
      [
        "select from_day, sum(assets) from coverage_span where by = 'kind' and from_day > current_date - $1::int group by 1",
        [days],
      ],
      (answer) => expect(answer.days.length >= 60 && answer.rows.length > 0, `${answer.days.length} days came`),
    );
  for (const by of ['owner', 'level'])
    await measure(
      `Coverage by ${by}${by === 'owner' ? ` (${OWNERS} of them)` : ''}`,
      'under 300 ms',
      `/coverage?by=${by}`,
      bare,
      (answer) => expect(answer.rows.length >= 2, `${answer.rows.length} rows came`),
    );
  await measure('What is used, and what would gain most', 'under 300 ms', '/coverage/use', bare, (answer) =>
    expect(answer.totals !== undefined, 'nothing came'),
  );
  await measure('My week', 'under 300 ms', '/coverage/week', bare, (answer) =>
    expect(answer.days.length === 14, 'no two weeks'),
  );
  for (const [name, query] of [
    ['Tables of 300 MB and more, the largest first', 'filter=size>=300MB&sort=size&descending=true'],
    ['Tables of whose lineage nothing is known', 'filter=kind:table lineage:none'],
    ['Columns of whose lineage both ways are known', 'filter=kind:column lineage:both'],
  ])
    await measure(
      `${name}, a page of them`,
      'under 150 ms',
      `/assets?limit=50&${query.replaceAll(' ', '%20').replaceAll('>', '%3E')}`,
      ["select * from asset where kind = 'table' order by id limit 50", []],
      (answer) => expect(answer.items.length === 50, `${answer.items.length} came`),
    );
  return lines;
}
