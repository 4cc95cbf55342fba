import { tell } from './lib.mjs';

const ENDED = ['done', 'undone', 'failed', 'cancelled'];

/**
 * Many at once: all that lies below a schema of the million (2,000 tables with their columns, 50,000 assets) gets a tag, and is as it was again: each asset
 * looked at, changed, given a version and written down in the journal. Beside it the tag alone, written straight in one statement.
 * Then the schema moves into another domain and back; beside it the domain alone, written straight.
 *
 * @param ids of what lies below the schema; @returns lines of the table
 */
export async function many(client, send, schema, ids) {
  const call = async (...given) => JSON.parse((await send(...given)) || 'null');
  const body = { description: '', permitted: null, kinds: null, groupIds: [] };
  const tag = await call('POST', '/tags', { name: 'many at once', ...body });
  const straight = await call('POST', '/tags', { name: 'straight', ...body });
  const timed = async (work) => {
    const begun = performance.now();
    const answer = await work();
    return [performance.now() - begun, answer];
  };
  const ended = async (id) => {
    for (;;) {
      const edit = (await call('GET', '/bulk-edits')).find((one) => one.id === id);
      if (ENDED.includes(edit.state)) return edit;
      await new Promise((resolve) => setTimeout(resolve, 100));
    }
  };
  const times = { seen: [], done: [], back: [], bare: [] };
  for (let round = 0; round < 3; round += 1) {
    // What came before is taken in first: it is measured by itself.
    await call('GET', '/assets?limit=1');
    const [seen, edit] = await timed(() =>
      call('POST', '/bulk-edits', {
        choice: { filter: 'kind:any', under: schema },
        action: { kind: 'tag', id: tag.id, value: 'short' },
      }),
    );
    if (edit.changes !== ids.length) throw new Error(`${edit.changes} assets would change, not ${ids.length}`);
    const [done, after] = await timed(async () => {
      await call('POST', `/bulk-edits/${edit.id}/start`);
      return ended(edit.id);
    });
    if (after.state !== 'done' || after.passedOver > 0) throw new Error(JSON.stringify(after));
    const [back, before] = await timed(async () => {
      await call('POST', `/bulk-edits/${edit.id}/undo`);
      return ended(edit.id);
    });
    if (before.restored !== ids.length) throw new Error(JSON.stringify(before));
    const [bare] = await timed(() =>
      client.query('insert into asset_tag (asset_id, tag_id) select unnest($1::uuid[]), $2', [ids, straight.id]),
    );
    await client.query('delete from asset_tag where tag_id = $1', [straight.id]);
    for (const [key, time] of Object.entries({ seen, done, back, bare })) times[key].push(time);
  }
  const moved = { done: [], found: [], back: [], bare: [] };
  const [{ id: elsewhere }] = (
    await client.query('select id from domain where id <> (select domain_id from asset where id = $1) limit 1', [
      schema,
    ])
  ).rows;
  for (let round = 0; round < 3; round += 1) {
    await call('GET', '/assets?limit=1');
    const edit = await call('POST', '/bulk-edits', {
      choice: { ids: [schema] },
      action: { kind: 'domain', id: elsewhere },
    });
    const [done, after] = await timed(async () => {
      await call('POST', `/bulk-edits/${edit.id}/start`);
      return ended(edit.id);
    });
    if (after.state !== 'done' || after.passedOver > 0) throw new Error(JSON.stringify(after));
    const [found] = await timed(() => call('GET', '/assets?limit=1'));
    const [back] = await timed(async () => {
      await call('POST', `/bulk-edits/${edit.id}/undo`);
      return ended(edit.id);
    });
    const [bare] = await timed(async () => {
      await client.query('begin');
      await client.query('update asset set domain_id = $2 where id = any($1::uuid[])', [ids, elsewhere]);
      await client.query('rollback');
    });
    for (const [key, time] of Object.entries({ done, found, back, bare })) moved[key].push(time);
  }
  const of = (list) => ({ median: [...list].sort((a, b) => a - b)[1], min: Math.min(...list), max: Math.max(...list) });
  const bare = of(times.bare);
  return [
    tell(`What a tag would change of ${ids.length} chosen assets is shown`, of(times.seen), bare, '–'),
    tell(`${ids.length} assets get a tag, each with its entry in the journal`, of(times.done), bare, 'under 10 s'),
    tell(`The same taken back`, of(times.back), bare, '–'),
    tell(`A schema moves into another domain, with ${ids.length} assets in it`, of(moved.done), of(moved.bare), '–'),
    tell(`The first search after it, which takes them in`, of(moved.found), of(moved.bare), '–'),
    tell(`The same taken back`, of(moved.back), of(moved.bare), '–'),
  ];
}
