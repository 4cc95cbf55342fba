import { inTurn } from './lib.mjs';

/** Subscriptions to single assets, to domains and to searches; changes written at once. */
const [ASSETS, DOMAINS, SEARCHES, CHANGES, ROUNDS] = [1500, 300, 200, 500, 5];

/**
 * Changes among a million assets, told by the worker to whom of two thousand subscriptions they concern; and a page of news of somebody whom all of them concern.
 *
 * @param measure times what is asked for against a bare query; @returns lines of the table
 */
export async function newsOfMany(client, measure, made) {
  const ask = async (sql, bind) => (await client.query(sql, bind)).rows;
  await ask(
    `with people as (
       insert into person (name, email) select 'Follower ' || n, 'follower' || n || '@example.org' from generate_series(1, 200) n returning id
     ),
     roles as (insert into role_grant (person_id, role) select id, 'reader' from people),
     numbered as (select id, row_number() over (order by id) - 1 as nth from people)
     insert into subscription (person_id, what, asset_id, domain_id, filter, pace, mail, chat, since)
     select p.id, w.what, w.asset_id, w.domain_id, w.filter, 'at once', false, false, (select last from event_head)
     from (
       select 'asset' as what, id as asset_id, null::uuid as domain_id, null as filter, row_number() over () as nth
       from (select id from made limit ${ASSETS}) a
       union all
       select 'domain', null, $1::uuid, null, n from generate_series(1, ${DOMAINS}) n
       union all
       select 'search', null, null, 'name:t' || n || '* or kind:column level>=3', n from generate_series(1, ${SEARCHES}) n
     ) w
     join numbered p on p.nth = w.nth % 200`,
    [made.domain],
  );
  const caught = async () => {
    for (;;) {
      const [{ behind }] = await ask(
        'select (select count(*) from event where seq is null) + (select last from event_head) - (select last from news_head) as behind',
      );
      if (Number(behind) === 0) return;
      await new Promise((resolve) => setTimeout(resolve, 10));
    }
  };
  const change = () =>
    ask(
      `with changed as (
         insert into journal (principal_kind, principal, action, subject_kind, subject_id, subject_name, domain_id, before, after)
         select 'service', 'bench', 'edited', 'table', id::text, 'a table', $1, '{"description": "before"}', '{"description": "after"}'
         from (select id from made offset floor(random() * 10000) limit ${CHANGES}) a
         returning id, subject_kind, action
       )
       insert into event (journal_id, subject_kind, action) select id, subject_kind, action from changed`,
      [made.domain],
    );
  await caught();
  const [{ before }] = await ask('select count(*)::int as before from news');
  const [told, written] = await inTurn(ROUNDS, [
    async () => {
      await change();
      const started = performance.now();
      await caught();
      return performance.now() - started;
    },
    async () => {
      const started = performance.now();
      await change();
      const ms = performance.now() - started;
      await caught();
      return ms;
    },
  ]);
  const [{ after }] = await ask('select count(*)::int as after from news');
  // Changes are written as often again for the reference, and once more of each in the round that does not count.
  const news = Math.round((after - before) / (2 * (ROUNDS + 1)));
  const lines = [
    `| ${CHANGES} changes among a million assets told to whom of ${ASSETS + DOMAINS + SEARCHES} subscriptions they concern (${SEARCHES} of them searches), which writes ${news.toLocaleString('en')} pieces of news; against writing the changes | ${Math.round(told.median)} ms (${Math.round(told.min)} ms – ${Math.round(told.max)} ms) | ${Math.round(written.median)} ms (${Math.round(written.min)} ms – ${Math.round(written.max)} ms) | ${(told.median / written.median).toFixed(1)} | – |`,
  ];
  await ask(
    `insert into news (person_id, journal_id, due_at)
     select p.id, j.id, now() from person p, (select id from journal order by id desc limit 20000) j where p.name = 'Jorun Pell'
     on conflict do nothing`,
  );
  await ask('analyze news');
  await measure(
    'A page of news of somebody who has 20,000',
    'under 100 ms',
    '/news?limit=50',
    ['select * from news order by due_at desc limit 50', []],
    (answer) => {
      if (answer.items.length !== 50) throw new Error('there is no news');
    },
  );
  return lines;
}
