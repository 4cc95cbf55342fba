import { judge } from './judged.mjs';
import { inTurn, median, signedIn, tell } from './lib.mjs';

const ROUNDS = 40;
const at = (list, share) => [...list].sort((a, b) => a - b)[Math.min(list.length - 1, Math.floor(list.length * share))];

/** The words of which names of the generated catalog are made, in their order (million.mjs). */
const NAMED_OF =
  'ledger invoice ferry harbour cargo crew berth ticket meter tide sensor claim audit fare voyage parcel order supplier contract booking'.split(
    ' ',
  );

/** What somebody who knows a table of the generated catalog might type to have it, and its name. */
function generatedSearches() {
  const searches = [];
  for (let n = 137; n <= 40_000; n += 977) {
    const [first, second] = [NAMED_OF[n % 20], NAMED_OF[Math.floor(n / 20) % 20]];
    const wanted = [`${first}_${second}_${n}`];
    const slip = `${second.slice(0, 2)}${second.slice(3)}`;
    searches.push({ kind: 'exact', asked: wanted[0], wanted });
    searches.push({ kind: 'in another order', asked: `${n} ${second} ${first}`, wanted });
    searches.push({ kind: 'with another form', asked: `${first}s ${second} ${n}`, wanted });
    searches.push({ kind: 'begun', asked: `${first.slice(0, 3)} ${second.slice(0, 3)} ${n}`, wanted });
    // A letter too few makes some words another word's beginning: those are no slip.
    if (second.length > 4) searches.push({ kind: 'with a slip', asked: `${first} ${slip} ${n}`, wanted });
  }
  return searches;
}

/**
 * How fast assets are found in a catalog of a million, over HTTP, each question together with the counts beside it; against the bare query of the least work
 * that would find the same page. Asked by a steward who sees everything and by a reader of one domain.
 */
export async function finding(client, address, made) {
  const lines = [];
  await client.query(
    "insert into person (name, email, demo) values ('Reader of one domain', 'reader.of.one@example.org', true)",
  );
  await client.query(
    "insert into role_grant (person_id, role, domain_id) select id, 'reader', $1 from person where name = 'Reader of one domain'",
    [made.domain],
  );
  const people = [
    ['steward', await signedIn(address, 'Jorun Pell')],
    ['reader of one domain', await signedIn(address, 'Reader of one domain')],
  ];
  const words = [
    'ledger',
    'invoice',
    'ferry',
    'harbour',
    'cargo',
    'crew',
    'berth',
    'ticket',
    'meter',
    'tide',
    'sensor',
    'claim',
    'audit',
  ];
  let turn = 0;
  const next = (list) => {
    turn += 1;
    return list[turn % list.length];
  };
  const typed = () => `${next(words)} ${next(words).slice(0, 1 + (turn % 4))}`;
  const slipped = () => {
    const word = next(words.filter((one) => one.length >= 5));
    const place = 1 + (turn % (word.length - 2));
    return `${word.slice(0, place)}${word[place + 1]}${word[place]}${word.slice(place + 2)} ${next(words)}`;
  };
  const one = (text) => [
    'select id, name from asset where words @@ $1::tsquery limit 100',
    [
      text
        .split(' ')
        .map((word) => `'${word}':*`)
        .join(' & '),
    ],
  ];
  const conditions = [
    'class:email level:none owner:none',
    'kind:table owner:none described:no domain:Generated',
    'kind:column class:phone',
    'kind:view standing:unreviewed not described:yes',
  ];
  const both = async (send, filter, more = '') => {
    const query = `filter=${encodeURIComponent(filter)}${more}`;
    const [list] = await Promise.all([
      send('GET', `/assets?limit=100&${query}`),
      send('GET', `/assets/facets?${query.replace(/&(offset|sort)=[^&]*/g, '')}`),
    ]);
    return JSON.parse(list);
  };
  const { rows: schemas } = await client.query("select id from asset where source_id = $1 and kind = 'schema'", [
    made.source,
  ]);
  const kinds = [
    ['Search as typed', 'p95 under 50 ms', (send) => both(send, typed()), () => client.query(...one(typed())), 0],
    [
      'Search with a slip of the finger',
      'p95 under 100 ms',
      (send) => both(send, slipped()),
      () => client.query(...one(typed())),
      1,
    ],
    [
      'Filter of several keys',
      'p95 under 150 ms',
      (send) => both(send, next(conditions)),
      () => client.query("select id, name from asset where kind = 'view' and standing = 'unreviewed' limit 100"),
      0,
    ],
    [
      'A page deep in the columns (of 900,000)',
      'p95 under 150 ms',
      (send) => both(send, 'kind:column', `&sort=${next(['path', 'name', 'level'])}&offset=${(turn * 7919) % 900_000}`),
      () => client.query("select id, name from asset where kind = 'column' order by id limit 100"),
      0,
    ],
    [
      'A list below a schema of 2,000 tables, with a word',
      'p95 under 150 ms',
      (send) => both(send, next(['email', 'ledger', 'kind:table', 'phone']), `&under=${next(schemas).id}`),
      () =>
        client.query('select id, name from asset where parent_id = $1 order by position limit 100', [next(schemas).id]),
      0,
    ],
    [
      'The tree below a schema of 2,000 tables',
      'p95 under 50 ms',
      async (send) => JSON.parse(await send('GET', `/tree?by=source&parent=${next(schemas).id}&parentType=asset`)),
      () => client.query('select id, kind, name from asset where parent_id = $1 order by position', [next(schemas).id]),
      0,
    ],
    [
      'The tree of domains',
      'p95 under 50 ms',
      async (send) => JSON.parse(await send('GET', '/tree')),
      () => client.query('select id, name from domain'),
      0,
    ],
  ];
  for (const [name, goal, ask, bare, slip] of kinds)
    for (const [who, send] of people) {
      const answer = await ask(send);
      const found = Array.isArray(answer) ? answer.length : answer.total;
      if (!found) throw new Error(`${name} found nothing`);
      if (slip && !answer.readAs?.slip) throw new Error(`${name}: no slip was mended`);
      const times = [];
      const [asked, straight] = await inTurn(ROUNDS, [
        async () => {
          const begun = performance.now();
          await ask(send);
          const took = performance.now() - begun;
          times.push(took);
          return took;
        },
        bare,
      ]);
      lines.push(tell(`${name}, as ${who}; p95 ${at(times, 0.95).toFixed(0)} ms`, asked, straight, goal));
    }
  const found = await judge(
    async (filter) =>
      JSON.parse(await people[0][1]('GET', `/assets?limit=20&filter=${encodeURIComponent(filter)}`)).items,
    generatedSearches(),
  );
  for (const { kind, asked, success, reciprocal } of [{ kind: 'in all', ...found.all }, ...found.kinds]) {
    const line = `| Searches of the generated catalog, ${kind} (${asked}): among the first three | ${success.toFixed(3)} | mean reciprocal rank ${reciprocal.toFixed(3)} | – | at least 0.9 |`;
    process.stdout.write(`${line}\n`);
    lines.push(line);
  }
  // Fifty people at once, each asking again as soon as they are answered; then each reading for two seconds or so before they ask again.
  for (const [how, pause] of [
    ['without a pause', 0],
    ['every two seconds or so', 2000],
  ]) {
    const times = [];
    await Promise.all(
      Array.from({ length: 50 }, async (_, person) => {
        const send = people[person % 2][1];
        for (let round = 0; round < 8; round += 1) {
          if (pause) await new Promise((resolve) => setTimeout(resolve, pause * (0.5 + Math.random())));
          const begun = performance.now();
          await both(send, round % 2 ? typed() : next(conditions));
          times.push(performance.now() - begun);
        }
      }),
    );
    const line = `| Fifty people who ask ${how}, words and filters | median ${median(times).toFixed(0)} ms, p99 ${at(times, 0.99).toFixed(0)} ms | – | – | p99 under 500 ms |`;
    process.stdout.write(`${line}\n`);
    lines.push(line);
  }
  return lines;
}
