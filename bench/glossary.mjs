import pg from 'pg';
import { inTurn, signedIn, tell } from './lib.mjs';

const TERMS = 5000;
const SYLLABLES = [
  'ka',
  'lo',
  'mir',
  'ten',
  'sul',
  'vor',
  'ned',
  'bri',
  'fal',
  'gost',
  'hem',
  'jor',
  'pel',
  'quin',
  'ras',
  'tov',
];
/** A made-up word for a number: other numbers have others. */
const word = (number) => {
  let [left, text] = [number + SYLLABLES.length, ''];
  for (; left > 0; left = Math.floor(left / SYLLABLES.length)) text += SYLLABLES[left % SYLLABLES.length];
  return text;
};

/** A vocabulary in Turtle: each term below another, related to a third, with labels in two languages and a definition. */
function vocabulary(round) {
  const lines = [
    '@prefix skos: <http://www.w3.org/2004/02/skos/core#> .',
    `@prefix v: <https://example.org/bench/${round}/> .`,
    `v:all a skos:ConceptScheme ; skos:prefLabel "Bench ${round}"@en .`,
  ];
  for (let at = 0; at < TERMS; at += 1)
    lines.push(
      `v:t${at} a skos:Concept ; skos:inScheme v:all ; skos:prefLabel "${word(at)} ${word(at * 7)}"@en, "${word(at)}ung"@de ; skos:altLabel "${word(at * 3)} of ${word(at)}"@en ; skos:hiddenLabel "${word(at).slice(0, 3)}${at}"@en ; skos:definition "What is called ${word(at)} where ${word(at * 5)} is meant, and nothing else."@en${at > 0 ? ` ; skos:broader v:t${Math.floor((at - 1) / 8)}` : ''}${at > 40 ? ` ; skos:related v:t${at - 40}` : ''} .`,
    );
  return Buffer.from(lines.join('\n')).toString('base64');
}

/**
 * A vocabulary of 5,000 terms in SKOS: what would come of it, taking it in, and all terms written out again. Beside each, the same names written into a table
 * in one statement.
 */
export async function run(adminUrl, address) {
  const send = await signedIn(address, 'Jorun Pell');
  const call = async (...given) => JSON.parse(await send(...given));
  const url = new URL(adminUrl);
  url.pathname = '/idrel';
  const client = new pg.Client(url.href);
  await client.connect();
  await client.query('create temporary table bare (name text)');
  const names = Array.from({ length: TERMS }, (_, at) => `${word(at)} ${word(at * 7)}`);
  const bare = () => client.query('insert into bare select unnest($1::text[])', [names]);
  const lines = [];
  let round = 0;
  const [seen, straight] = await inTurn(5, [
    async () => {
      const told = await call('POST', '/glossary-file?preview=true', {
        name: 'bench.ttl',
        content: vocabulary('seen'),
      });
      if (told.freshCount !== TERMS || told.flawCount > 0) throw new Error(JSON.stringify(told).slice(0, 400));
    },
    bare,
  ]);
  lines.push(tell(`What a vocabulary of ${TERMS} terms would change is shown`, seen, straight, '–'));
  const [taken, plain] = await inTurn(3, [
    async () => {
      const content = vocabulary(round++);
      const begun = performance.now();
      const told = await call('POST', '/glossary-file', { name: 'bench.ttl', content });
      const took = performance.now() - begun;
      if (!told.written || told.freshCount !== TERMS) throw new Error(JSON.stringify(told).slice(0, 400));
      return took;
    },
    bare,
  ]);
  lines.push(
    tell(
      `A vocabulary of ${TERMS} terms in SKOS is taken in, each with its entry in the journal`,
      taken,
      plain,
      'under 10 s',
    ),
  );
  const terms = (await client.query('select count(*)::int as n from term')).rows[0].n;
  const select = () => client.query('select * from term');
  for (const [what, path] of [
    ['Terms by the words of their labels', '/terms?search=ka'],
    ['The tree of terms, closed', '/terms/tree'],
    ['What is amiss', '/term-conflicts'],
    ['All terms as Turtle', '/glossary-file?format=ttl'],
  ]) {
    const [asked, whole] = await inTurn(7, [() => send('GET', path), select]);
    lines.push(tell(`${what}, among ${terms} terms, against reading them all`, asked, whole, '–'));
  }
  await client.end();
  return lines.join('\n');
}
