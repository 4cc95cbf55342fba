import { inTurn, signedIn, tell } from './lib.mjs';

/**
 * A policy that lets somebody without a role in its domain see a schema of 50,000 assets: what saving and removing it takes, against writing one column of them all;
 * and what that person then asks, against the same asked by who reads everything.
 *
 * @param made the catalog, see `makeMillion` @returns lines of the table
 */
export async function seen(client, send, address, made) {
  const lines = [];
  const one = async (sql, bind) => (await client.query(sql, bind)).rows[0];
  const top = await one("select id, key from asset where source_id = $1 and kind = 'schema' and name = 'area_7'", [
    made.source,
  ]);
  const reader = await one("select id from person where name = 'Bettina Sark'", []);
  const body = {
    name: 'Bench of seeing',
    effect: 'allow',
    opens: 'see',
    everyone: false,
    personIds: [reader.id],
    assetIds: [top.id],
  };
  const timed = async (work) => {
    const started = performance.now();
    const answer = await work();
    const took = performance.now() - started;
    return { answer, took: { median: took, min: took, max: took } };
  };
  const reach = await timed(() => send('POST', '/policies/reach', { policyId: null, draft: body }));
  const { sight } = JSON.parse(reach.answer);
  if (sight.gains !== 1 || sight.assets < 50_000) throw new Error(reach.answer.slice(0, 300));
  const count = await timed(() =>
    client.query('select count(*) from asset where source_id = $1 and starts_with(key, $2 || chr(31))', [
      made.source,
      top.key,
    ]),
  );
  lines.push(
    tell(
      'Who comes to see a schema of 50,000 assets, before it is saved, against counting them',
      reach.took,
      count.took,
      'under 5 s',
    ),
  );
  const saved = await timed(() => send('POST', '/policies', body));
  const { id } = JSON.parse(saved.answer);
  if (!id) throw new Error(saved.answer);
  const written = await timed(() =>
    client.query('update asset set opened_id = opened_id where source_id = $1 and starts_with(key, $2 || chr(31))', [
      made.source,
      top.key,
    ]),
  );
  lines.push(
    tell(
      'A policy saved that lets a schema of 50,000 assets be seen, against writing them once',
      saved.took,
      written.took,
      '–',
    ),
  );
  const theirs = await signedIn(address, 'Bettina Sark');
  const table = await made.table(20_007);
  for (const [name, path, check, goal] of [
    ['A search', '/assets?filter=ledger&limit=50', ({ total }) => total >= 100, 'at most 1.5 times'],
    ['The page of a table', `/assets/${table}`, ({ byPolicy }) => byPolicy === true, 'at most 1.5 times'],
    [
      'The tree below the source',
      `/tree?by=source&parent=${made.source}&parentType=source`,
      (all) => all.length > 0,
      'at most 1.5 times',
    ],
    [
      'The picture around a table',
      `/lineage?focus=${table}&upstream=1&downstream=1`,
      ({ nodes }) => nodes.some(({ id: shown }) => shown === table),
      'at most 1.5 times',
    ],
  ]) {
    const told = await theirs('GET', path);
    if (!check(JSON.parse(told))) throw new Error(`${name}: ${told.slice(0, 300)}`);
    const [asked, all] = await inTurn(15, [() => theirs('GET', path), () => send('GET', path)]);
    lines.push(tell(`${name}, by who sees it by a policy, against who reads everything`, asked, all, goal));
  }
  const removed = await timed(() => send('DELETE', `/policies/${id}`));
  const rewritten = await timed(() =>
    client.query('update asset set opened_id = opened_id where source_id = $1 and starts_with(key, $2 || chr(31))', [
      made.source,
      top.key,
    ]),
  );
  lines.push(tell('The same policy removed, against writing them once', removed.took, rewritten.took, '–'));
  return lines;
}
