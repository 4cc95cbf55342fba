import pg from 'pg';
import { Bits } from '../core/dist/catalog/finder/bits.js';
import { Steps } from '../core/dist/catalog/finder/steps.js';
import { inTurn, signedIn, tell } from './lib.mjs';
import { makeMillion } from './million.mjs';

export const [NODES, EDGES_EACH, BACK] = [1_000_000, 3, 40_000];

/** From which nodes one is made: three of those not far before it. By a sequence that is the same in each run. */
export function madeFrom(nodes = NODES) {
  let state = 42;
  const next = (below) => {
    state = (Math.imul(state, 1664525) + 1013904223) >>> 0;
    return state % below;
  };
  return Array.from({ length: nodes }, (_, node) => {
    if (node < 100) return [];
    const window = Math.min(BACK, node);
    return [...new Set(Array.from({ length: EDGES_EACH }, () => node - 1 - next(window)))];
  });
}

/** The search over typed arrays that could not do less: one queue, one bit a node. */
function bare(lists) {
  const starts = new Uint32Array(lists.length + 1);
  lists.forEach((list, at) => {
    starts[at + 1] = starts[at] + list.length;
  });
  const values = new Uint32Array(starts[lists.length]);
  lists.forEach((list, at) => values.set(list, starts[at]));
  return (start) => {
    const met = new Uint32Array((lists.length + 31) >>> 5);
    const queue = new Uint32Array(lists.length);
    let last = 1;
    queue[0] = start;
    for (let at = 0; at < last; at += 1) {
      const slot = queue[at];
      for (let step = starts[slot]; step < starts[slot + 1]; step += 1) {
        const one = values[step];
        if (met[one >>> 5] & (1 << (one & 31))) continue;
        met[one >>> 5] |= 1 << (one & 31);
        queue[last] = one;
        last += 1;
      }
    }
    return last - 1;
  };
}

/** Everything upstream of one of a million nodes with three million edges, as searches find it, against the barest search over typed arrays. */
export async function run(adminUrl, address) {
  const lists = madeFrom();
  const steps = new Steps();
  lists.forEach((list, node) => steps.lead(node, list));
  const plain = bare(lists);
  const start = new Bits(NODES);
  start.add(NODES - 1);
  const expected = plain(NODES - 1);
  const found = () => {
    const count = steps.reached(start, 'upstream', NODES).count();
    if (count !== expected) throw new Error(`${count} are reached, ${expected} by the barest search`);
  };
  const [whole, barest] = await inTurn(9, [found, () => void plain(NODES - 1)]);
  const edges = lists.reduce((sum, list) => sum + list.length, 0);
  const name = `All ${expected.toLocaleString('en')} upstream of one of ${NODES.toLocaleString('en')} nodes with ${edges.toLocaleString('en')} edges`;
  const lines = [tell(`${name}, against the barest search over typed arrays`, whole, barest, 'at most 2')];
  // Some were changed since the arrays were put together.
  for (let node = NODES - 1; node > NODES - 3000; node -= 1) steps.lead(node, [node - 1, ...lists[node].slice(1)]);
  const [changed, again] = await inTurn(9, [
    () => void steps.reached(start, 'upstream', NODES),
    () => void plain(NODES - 1),
  ]);
  lines.push(tell(`${name}, 3,000 of them changed since, against the same`, changed, again, 'at most 2'));
  const url = new URL(adminUrl);
  url.pathname = '/idrel';
  const client = new pg.Client(url.href);
  await client.connect();
  const made = await makeMillion(client);
  const send = await signedIn(address, 'Jorun Pell');
  // Tables whose rows decide those of a hundred and of a thousand views: the first column of each does.
  for (const [table, views, goal] of [
    [1, 100, 'under 150 ms'],
    [2, 1000, 'under 500 ms'],
  ]) {
    const column = await made.column(table, 1);
    const proposed = async () => {
      const answer = JSON.parse(await send('GET', `/lineage/proposed?asset=${column}&what=drop`));
      if (answer.rows?.length < views) throw new Error(JSON.stringify(answer).slice(0, 300));
    };
    const impact = () => send('GET', `/lineage/impact?asset=${column}&direction=downstream`);
    const [asked, listed] = await inTurn(9, [proposed, impact]);
    lines.push(
      tell(
        `What dropping a column would do that ${views.toLocaleString('en')} views name, against the bare list of them`,
        asked,
        listed,
        goal,
      ),
    );
  }
  lines.push(...(await inMillion(client, send)));
  lines.push(await exported(client, send));
  await client.end();
  return lines.join('\n');
}

/** What is made of one small source among a million assets, against the bare list of its tables. */
async function exported(client, send) {
  const { rows } = await client.query(
    "select id, name from source s where exists (select from asset a where a.source_id = s.id and a.kind = 'table') order by (select count(*) from asset a where a.source_id = s.id) limit 1",
  );
  const [whole, bare] = await inTurn(9, [
    () => send('GET', `/sources/${rows[0].id}/lineage-export`),
    () => client.query("select a.id from asset a where a.source_id = $1 and a.kind <> 'column'", [rows[0].id]),
  ]);
  return tell(
    'What is made of a small source of a million assets as a file, against the list of its tables',
    whole,
    bare,
    'under 1 s',
  );
}

/** So many columns of a million are joined by edges. */
export const LINKED = 960_000;

/** Joins the columns of the million by edges. @returns how many */
export async function link(client, lists) {
  const begun = performance.now();
  await client.query(
    'create temp table linked as select c.id, (row_number() over (order by c.table_n, c.k) - 1)::int as nth from made_column c',
  );
  await client.query('create unique index on linked (nth)');
  await client.query('create temp table step (from_nth int, to_nth int)');
  for (let at = 0; at < lists.length; at += 100_000) {
    const [from, to] = [[], []];
    lists.slice(at, at + 100_000).forEach((list, index) => {
      for (const one of list) {
        from.push(one);
        to.push(at + index);
      }
    });
    await client.query('insert into step select * from unnest($1::int[], $2::int[])', [from, to]);
  }
  // Written as they would stand, without what follows from each: that is measured by itself elsewhere.
  await client.query('set session_replication_role = replica');
  const { rowCount: edges } = await client.query(
    `insert into lineage_edge (flow_id, from_id, to_id, kind)
     select (select id from flow where origin = 'view' order by id limit 1), f.id, t.id, 'copied'
     from step s join linked f on f.nth = s.from_nth join linked t on t.nth = s.to_nth
     on conflict do nothing`,
  );
  await client.query('set session_replication_role = default');
  await client.query('analyze lineage_edge');
  await client.query('insert into touched (asset_ids) select array_agg(id) from linked');
  process.stdout.write(`${edges} edges in ${Math.round((performance.now() - begun) / 1000)} s\n`);
  return edges;
}

/**
 * The same in a catalog of a million assets, over HTTP: what a search for all that a column is made from takes, and what it takes to hand a priority on to all of
 * that.
 *
 * @param client of the database; @param send as a steward; @returns lines of the table
 */
async function inMillion(client, send) {
  const lines = [];
  const lists = madeFrom(LINKED);
  const edges = await link(client, lists);

  const pathOf = async (nth) =>
    (
      await client.query(
        `select s.name || '.' || t.name || '.' || c.name as path
         from linked l join asset c on c.id = l.id join asset t on t.id = c.parent_id join asset s on s.id = t.parent_id
         where l.nth = $1`,
        [nth],
      )
    ).rows[0].path;
  const plain = bare(lists);
  const starts = [];
  for (let at = 0; at < 12; at += 1) starts.push(await pathOf(LINKED - 1 - at));
  let turn = 0;
  // Each question is another one: what was asked lately is kept.
  const ask = async () => {
    const at = turn % starts.length;
    turn += 1;
    const answer = JSON.parse(
      await send('GET', `/assets?limit=50&filter=${encodeURIComponent(`upstream:"${starts[at]}" kind:column`)}`),
    );
    if (answer.items?.length !== 50 || answer.total < 400_000) throw new Error(JSON.stringify(answer).slice(0, 300));
  };
  // The first question takes in what has come.
  await ask();
  const [asked, barest] = await inTurn(9, [ask, () => void plain(LINKED - 1)]);
  lines.push(
    tell(
      `A search for all upstream of one of ${LINKED.toLocaleString('en')} columns with ${edges.toLocaleString('en')} edges: the first 50 and how many, over HTTP, against the barest search over typed arrays`,
      asked,
      barest,
      'under 300 ms',
    ),
  );

  const settle = async () => {
    const started = performance.now();
    const { rows } = await client.query('select settle_priority() as changed');
    return { took: performance.now() - started, changed: rows[0].changed };
  };
  await client.query('update asset set priority_set = 2 where id = (select id from linked where nth = 400000)');
  const first = await settle();
  const again = await settle();
  await client.query('update asset set priority_set = null where priority_set is not null');
  const gone = await settle();
  const line = `| A priority handed on to the ${first.changed.toLocaleString('en')} assets that a column is made from; worked out again; and taken back | ${[first, again, gone].map(({ took }) => `${(took / 1000).toFixed(1)} s`).join('; ')} | – | – | in the background |`;
  process.stdout.write(`${line}\n`);
  lines.push(line);
  return lines;
}
