import { inTurn, tell } from './lib.mjs';

/** So many columns are decided at once, each at the beginning of a chain. */
const AT_ONCE = 500;
/** So many views stand behind each. */
const CHAIN = 17;

/**
 * Classes that travel in the million: one column decided, and five hundred at once, each with a chain of seventeen views behind it; beside it the same of a column
 * with nothing behind it, and the rows that arrive written straight into a table with the same indexes. And a picture as of a moment, beside that of now.
 *
 * @param made the catalog, see `makeMillion`; @param first the number of the first table of a chain; @returns lines of the table
 */
export async function travel(client, send, made, first) {
  const lines = [];
  const hub = await made.table(1);
  const picture = (more) => send('GET', `/lineage?focus=${hub}&upstream=0&downstream=1${more}`);
  const at = new Date().toISOString();
  const shown = JSON.parse(await picture(`&at=${at}`)).nodes.length;
  if (shown !== 101) throw new Error(`${shown} tables are shown`);
  const [then, now] = await inTurn(9, [() => picture(`&at=${at}`), () => picture('')]);
  lines.push(tell('A picture of 101 tables as of a moment, against that of now', then, now, 'at most 3 times'));

  const decide = async (id, decision) => {
    const answer = await send('POST', '/findings/decisions', {
      decisions: [{ assetId: id, classKey: 'iban', decision }],
    });
    if (JSON.parse(answer).decided !== 1) throw new Error(answer);
  };
  const arrivals = async () =>
    (await client.query("select count(*)::int as n from carried where class_key = 'iban' and via = 'lineage'")).rows[0]
      .n;
  const [chained, alone] = [await made.column(first, 5), await made.column(20_000, 5)];
  const before = await arrivals();
  const [travels, stays] = await inTurn(9, [
    async () => {
      await decide(chained, 'confirmed');
      const came = (await arrivals()) - before;
      if (came !== CHAIN) throw new Error(`it came to ${came}`);
      await decide(chained, 'open');
    },
    async () => {
      await decide(alone, 'confirmed');
      await decide(alone, 'open');
    },
  ]);
  lines.push(
    tell(
      `A class confirmed and opened again with ${CHAIN} columns behind it, against one with none`,
      travels,
      stays,
      'at most 3 times',
    ),
  );

  const { rows } = await client.query(
    `select c.id from made m join made_column c on c.table_n = m.n and c.k = 6 where m.n between $1 and $1 + ${AT_ONCE - 1}`,
    [first - (first % AT_ONCE) + 1],
  );
  const ids = rows.map(({ id }) => id);
  await client.query('create temp table bare (like carried including all)');
  const [all, straight] = await inTurn(3, [
    async () => {
      const begun = performance.now();
      await client.query(
        `insert into finding_decision (asset_id, class_key, decision, decided_by)
         select id, 'iban', 'confirmed', (select id from person order by name limit 1) from unnest($1::uuid[]) id`,
        [ids],
      );
      const took = performance.now() - begun;
      const came = (await arrivals()) - before;
      if (came < AT_ONCE * (CHAIN - 1)) throw new Error(`they came to ${came}`);
      await client.query("delete from finding_decision where class_key = 'iban'");
      return took;
    },
    async () => {
      const begun = performance.now();
      await client.query(
        `insert into bare (asset_id, class_key, from_id, via, how, distance)
         select gen_random_uuid(), 'iban', a.id, 'lineage', 'person', 1
         from unnest($1::uuid[]) a(id), generate_series(1, ${CHAIN})`,
        [ids],
      );
      const took = performance.now() - begun;
      await client.query('truncate bare');
      return took;
    },
  ]);
  lines.push(
    tell(
      `${AT_ONCE} columns confirmed at once, the class arriving at ${AT_ONCE * CHAIN}, against those rows written straight`,
      all,
      straight,
      '–',
    ),
  );
  lines.push(...(await tags(client, send, made, first)));
  return lines;
}

/** The same of tags: a travelling one given to a table and taken again, and to five hundred at once; beside it one that stays where it is given. */
async function tags(client, send, made, first) {
  const lines = [];
  const tag = async (name, travels) => {
    const body = { name, description: '', permitted: null, kinds: null, groupIds: [], travels };
    return JSON.parse(await send('POST', '/tags', body)).id;
  };
  const [travelling, staying] = [await tag('goes along', ['copied', 'transformed']), await tag('stays', [])];
  const came = async () =>
    (await client.query('select count(*)::int as n from tag_came where tag_id = $1', [travelling])).rows[0].n;
  const give = (id, tagId) =>
    client.query('insert into asset_tag (asset_id, tag_id) select id, $2 from unnest($1::uuid[]) id', [id, tagId]);
  const take = (tagId) => client.query('delete from asset_tag where tag_id = $1', [tagId]);
  const there = [await made.table(first)];
  const [goes, stays] = await inTurn(9, [
    async () => {
      await give(there, travelling);
      const now = await came();
      if (now !== CHAIN) throw new Error(`it came to ${now}`);
      await take(travelling);
    },
    async () => {
      await give(there, staying);
      await take(staying);
    },
  ]);
  lines.push(
    tell(
      `A travelling tag given to a table and taken again with ${CHAIN} tables behind it, against one that stays`,
      goes,
      stays,
      '–',
    ),
  );
  const { rows } = await client.query(`select m.id from made m where m.n between $1 and $1 + ${AT_ONCE - 1}`, [
    first - (first % AT_ONCE) + 1,
  ]);
  const many = rows.map(({ id }) => id);
  const timed = async (work) => {
    const begun = performance.now();
    await work();
    return performance.now() - begun;
  };
  let arrived = 0;
  const [all, some] = await inTurn(3, [
    async () => {
      const took = await timed(() => give(many, travelling));
      arrived = await came();
      await take(travelling);
      return took;
    },
    async () => {
      const took = await timed(() => give(many, staying));
      await take(staying);
      return took;
    },
  ]);
  if (arrived < AT_ONCE) throw new Error(`they came to ${arrived}`);
  lines.push(
    tell(
      `${AT_ONCE} tables given a travelling tag at once, which comes to ${arrived} more, against one that stays`,
      all,
      some,
      '–',
    ),
  );
  return lines;
}
