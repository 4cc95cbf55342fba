import { tell } from './lib.mjs';

const ENDED = ['done', 'undone', 'failed', 'skipped', 'asks'];

/**
 * A routine over all that lies below a schema of the million (50,000 assets): what it would change, the change, a night on which there is nothing to change, and
 * the way back; beside it the tag alone, written straight in one statement. And what it would have done on each of the last 30 days, over 2,000 tables.
 *
 * @param schema its name; @param ids of what lies below it; @returns lines of the table
 */
export async function routines(client, send, schema, ids) {
  const call = async (...given) => JSON.parse((await send(...given)) || 'null');
  const body = { description: '', permitted: null, kinds: null, groupIds: [] };
  const tag = await call('POST', '/tags', { name: 'by routine', ...body });
  const straight = await call('POST', '/tags', { name: 'straight too', ...body });
  const filter = `under:${schema} kind:any`;
  const steps = [{ do: 'act', action: { kind: 'tag', id: tag.id, value: 'short' } }];
  const timed = async (work) => {
    const begun = performance.now();
    const answer = await work();
    return [performance.now() - begun, answer];
  };
  const ended = async (id) => {
    for (;;) {
      const run = await call('GET', `/routine-runs/${id}`);
      if (ENDED.includes(run.state)) return run;
      await new Promise((resolve) => setTimeout(resolve, 100));
    }
  };
  const expect = (right, what) => {
    if (!right) throw new Error(JSON.stringify(what));
  };
  const { id } = await call('POST', '/routines', { name: 'Bench', filter, steps });
  const times = { seen: [], done: [], night: [], back: [], bare: [], lookedBack: [] };
  for (let round = 0; round < 3; round += 1) {
    await call('GET', '/assets?limit=1');
    // What is taken back counts as decided by hand: each round begins without that.
    await client.query("delete from journal where before ? 'tags' and subject_id in (select unnest($1::text[]))", [
      ids,
    ]);
    const [seen, preview] = await timed(() => call('POST', '/routines/preview', { filter, steps }));
    expect(preview.changes === ids.length, preview);
    const run = (changes) => timed(async () => ended((await call('POST', `/routines/${id}/runs`, { changes })).id));
    const [done, after] = await run(ids.length);
    expect(after.state === 'done' && after.changed === ids.length, after);
    // What was changed is taken in by the search first: that is measured by itself.
    await call('GET', '/assets?limit=1');
    const [night, quiet] = await run(0);
    expect(quiet.state === 'done' && quiet.same === ids.length, quiet);
    const [back, before] = await timed(async () => {
      await call('POST', `/routine-runs/${after.id}/undo`, { assetId: null });
      return ended(after.id);
    });
    expect(before.restored === ids.length, before);
    const [bare] = await timed(() =>
      client.query('insert into asset_tag (asset_id, tag_id) select unnest($1::uuid[]), $2', [ids, straight.id]),
    );
    await client.query('delete from asset_tag where tag_id = $1', [straight.id]);
    await call('GET', '/assets?limit=1');
    const [lookedBack, days] = await timed(() =>
      call('POST', '/routines/replay', { filter: `under:${schema} kind:table,view tag:none`, steps }),
    );
    expect(days.days?.length === 30 && days.days.at(-1).found === 2000, days);
    for (const [key, time] of Object.entries({ seen, done, night, back, bare, lookedBack })) times[key].push(time);
  }
  const of = (list) => ({ median: [...list].sort((a, b) => a - b)[1], min: Math.min(...list), max: Math.max(...list) });
  const bare = of(times.bare);
  return [
    tell(
      `What a routine would change of ${ids.length} assets is shown, with what people decided`,
      of(times.seen),
      bare,
      '–',
    ),
    tell(
      `A routine gives ${ids.length} assets a tag, each with its entry in the journal`,
      of(times.done),
      bare,
      'under 15 s',
    ),
    tell(`It runs again, and all ${ids.length} are as they should be`, of(times.night), bare, 'under 5 s'),
    tell(`Its run taken back`, of(times.back), bare, '–'),
    tell(
      'What it would have done on each of the last 30 days, over 2,000 tables',
      of(times.lookedBack),
      bare,
      'under 2 s',
    ),
  ];
}
