import pg from 'pg';
import { inTurn, signedIn, tell } from './lib.mjs';
import { makeMillion } from './million.mjs';

/** So many columns get a class, and lose it again, so that there is a past. */
const CLASSED = 50_000;
/** So often policies change. */
const CHANGES = 60;

/** Who could read what, as of a moment and in a period, in a catalog of a million assets with 10,000 policies; and what it costs to keep that. */
export async function run(adminUrl, address) {
  const url = new URL(adminUrl);
  url.pathname = '/idrel';
  const client = new pg.Client(url.href);
  await client.connect();
  const made = await makeMillion(client);
  const send = await signedIn(address, 'Jorun Pell');
  const lines = [];
  const moment = async () => {
    await new Promise((resolve) => setTimeout(resolve, 5));
    return (await client.query('select clock_timestamp() as at')).rows[0].at.toISOString();
  };
  const begun = await moment();
  const someColumns = 'select column_id from made_past order by n limit $1';
  await client.query(
    `create temp table made_past as select c.id as column_id, row_number() over (order by c.id) as n from made_column c where c.k in (1, 2)`,
  );

  // What keeping costs: the same change of many rows with the triggers and without them.
  let turn = 0;
  const moved = async () => {
    turn += 1;
    await client.query(`update asset set level = $2 where id in (${someColumns})`, [CLASSED, 1 + (turn % 2)]);
  };
  const [kept, bare] = await inTurn(3, [
    moved,
    async () => {
      await client.query('begin; alter table asset disable trigger past_changes');
      await moved();
      await client.query('rollback');
    },
  ]);
  lines.push(
    tell(
      `The level of ${CLASSED} columns written, all of it kept as it was, against the same not kept`,
      kept,
      bare,
      '–',
    ),
  );
  await client.query(
    `insert into carried (asset_id, class_key, from_id, via, how) select column_id, 'email', column_id, 'itself', 'person' from (${someColumns}) x on conflict do nothing`,
    [CLASSED],
  );
  const classed = await moment();
  await client.query(`delete from carried where class_key = 'email' and asset_id in (${someColumns})`, [CLASSED]);
  for (let n = 0; n < CHANGES; n += 1)
    await client.query("update policy set purposes = $2 where name = 'Generated ' || $1", [
      40 * n + 1,
      [`Purpose ${n}`],
    ]);
  await client.query('analyze');
  const after = await moment();

  const [schema] = (
    await client.query("select id from asset where source_id = $1 and kind = 'schema' and name = 'area_1'", [
      made.source,
    ])
  ).rows;
  const ask = async (path) => {
    const answer = JSON.parse(await send('GET', path));
    if (answer.status) throw new Error(`${path}: ${answer.detail}`);
    return answer;
  };
  const person = (await ask('/people')).find(({ name }) => name === 'Maud Ilkley');
  const table = await made.table(41);
  for (const [what, path] of [
    ['All who can read a table', `/access/readers?asset=${table}`],
    ['What one person may read of a table', `/access/explain?asset=${table}&person=${person.id}`],
    ['All that a person can read', `/access/readable?person=${person.id}`],
  ]) {
    const [then, now] = await inTurn(5, [() => ask(`${path}&at=${classed}`), () => ask(path)]);
    lines.push(tell(`${what}, as of a moment before ${CLASSED} changes, against now`, then, now, 'at most 2'));
  }
  const { tables } = await ask(`/access/readers?asset=${schema.id}`);
  const [schemaThen, schemaNow] = await inTurn(3, [
    () => ask(`/access/readers?asset=${schema.id}&at=${classed}`),
    () => ask(`/access/readers?asset=${schema.id}`),
  ]);
  lines.push(
    tell(
      `All who can read a schema of ${tables} tables, as of that moment, against now`,
      schemaThen,
      schemaNow,
      'at most 2',
    ),
  );
  const report = `/access/report?asset=${table}&from=${begun}&to=${after}`;
  const { looked } = await ask(report);
  const [period, once] = await inTurn(3, [() => ask(report), () => ask(`/access/readers?asset=${table}`)]);
  lines.push(
    tell(
      `A report of a table over ${looked} moments, against all who can read it now`,
      period,
      once,
      `at most ${looked} times`,
    ),
  );

  // Rights one by one, with what a hundred thousand askings say of their use.
  await client.query(
    `with made as (
       insert into asked_statement (id, source_id, print)
       select gen_random_uuid(), $1, 'bench ' || n from generate_series(1, 20000) n returning id
     ),
     numbered as (select id, row_number() over () as n from made),
     tables as (select id, row_number() over (order by id) as n from asset where source_id = $1 and kind = 'table' limit 20000),
     people as (select id, row_number() over (order by id) - 1 as n, count(*) over () as of from person where left_at is null),
     reads as (
       insert into asked_for (asset_id, statement_id, how)
       select t.id, s.id, '{}' from numbered s join tables t on t.n = 1 + (s.n - 1) % (select count(*) from tables)
     )
     insert into asked_by (statement_id, person_id, calls, moved_at)
     select distinct on (s.id, p.id) s.id, p.id, 1, now() - (s.n % 400) * interval '1 day'
     from numbered s, generate_series(1, 5) k join people p on true
     where p.n = (s.n * 7 + k) % p.of`,
    [made.source],
  );
  await client.query('analyze');
  const { total } = await ask('/access/rights?limit=1');
  const [rights, unused, policies] = await inTurn(5, [
    () => ask('/access/rights?limit=100'),
    () => ask('/access/rights?limit=100&unusedFor=90'),
    () => ask('/policies'),
  ]);
  lines.push(
    tell(
      `The first hundred of ${total} rights with their last use, against the list of policies`,
      rights,
      policies,
      '–',
    ),
  );
  lines.push(tell(`Those of them that nobody has used for 90 days, against the same`, unused, policies, '–'));
  await client.end();
  return lines.join('\n');
}
