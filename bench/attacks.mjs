import { gzipSync } from 'node:zlib';
import { Caller, signedIn } from './lib.mjs';

/**
 * For how long the server answers nobody while somebody sends what is meant to hold it up: the longest wait of its event loop, which it tells at /health.
 * Beside it, the longest wait while it has nothing to do. Goal: at most 50 ms.
 */
export async function run(_admin, address) {
  const steward = new Caller(address);
  await steward.signInAs('Jorun Pell');
  const send = await signedIn(address, 'Jorun Pell');
  const source = (await steward.get('/sources')).find((entry) => entry.name === 'Booking system');
  const [domain] = await steward.get('/domains');
  const pushed = await steward.post('/sources', {
    name: 'Pushed by the bench',
    kind: 'pushed',
    address: { system: 'bench' },
    domainId: domain.id,
  });
  const longest = async (work) => {
    await fetch(`${address}/health`);
    await work();
    return (await fetch(`${address}/health`).then((answer) => answer.json())).longestWaitMs;
  };
  const bare = (path, body, headers = {}) =>
    fetch(`${address}/api/v1${path}`, {
      method: 'POST',
      headers: { 'content-type': 'application/json', ...headers },
      body,
    }).then((answer) => answer.text());
  const query = (sql) => send('POST', `/sources/${source.id}/query`, { sql });
  const find = (filter) => send('GET', `/assets?filter=${encodeURIComponent(filter)}`);
  const table = (name, columns) => [
    { path: ['Forms', name], kind: 'table' },
    ...Array.from({ length: columns }, (_, index) => ({
      path: ['Forms', name, `c${index}`],
      kind: 'column',
      type: 'text',
      values: ['a@example.org', 'b'],
    })),
  ];
  const assets = [
    { path: ['Forms'], kind: 'application' },
    ...Array.from({ length: 400 }, (_, index) => table(`t${index}`, 50)).flat(),
  ];
  const allDay = Array.from({ length: 20 }, () => ({ from: '00:00', to: '00:00' }));
  const attacks = {
    nothing: () => new Promise((resolve) => setTimeout(resolve, 2000)),
    'a packed body of a stranger that unpacks to 64 MB': () =>
      bare('/sources', gzipSync(Buffer.alloc(64 << 20, '[')), { 'content-encoding': 'gzip' }),
    'a body of 60 MB of a stranger': () => bare('/example-file', `"${'x'.repeat(60 << 20)}"`).catch(() => undefined),
    'a body of 1 MB of nested lists': () =>
      send('POST', '/terms', `${'['.repeat(500_000)}${']'.repeat(500_000)}`, true),
    'a push of 20,400 assets': () => send('POST', `/sources/${pushed.id}/push`, { assets }),
    'an example file of 30 MB': () =>
      send('POST', '/example-file', {
        name: 'x.csv',
        content: Buffer.from('a,b\n1,2\n'.repeat(3_700_000)).toString('base64'),
      }),
    'a list of 400,000 values as a detector': () =>
      send('POST', '/own-detectors', {
        classKey: 'email',
        spec: {
          value: { kind: 'list', values: Array.from({ length: 400_000 }, (_, index) => `v${index}`), caseless: false },
          namePattern: '',
          nameNeeded: false,
          minShare: 0.8,
          minDistinct: 3,
          checksum: 'none',
          accepts: [],
          rejects: [],
        },
        note: '',
      }),
    'rows of a million letters': () => query("select repeat('x', 1000000) from generate_series(1, 400)"),
    'a row of 60 million letters': () => query("select repeat('x', 60000000)"),
    'a statement of 95,000 letters': () => query(`select 1 where 1 in (1${',1'.repeat(47_000)})`),
    'a statement nested a thousand deep': () => query(`select ${'(select '.repeat(1000)}1${')'.repeat(1000)}`),
    'a filter of 250 classes': () => find(Array.from({ length: 250 }, () => 'class:x').join(' ')),
    'a filter of 900 words': () => find(Array.from({ length: 900 }, () => 'a').join(' ')),
    'a plan with nothing but blackouts': () =>
      send('POST', `/sources/${source.id}/plan-preview`, {
        schedule: { rhythm: { on: 'daily' }, time: '08:00', timeZone: 'Europe/Oslo', blackouts: allDay },
      }),
  };
  const lines = [];
  let idle = 0;
  for (const [name, attack] of Object.entries(attacks)) {
    const waited = await longest(attack);
    if (name === 'nothing') {
      idle = waited;
      continue;
    }
    const line = `| Longest wait of others during ${name} | ${waited} ms | ${idle} ms with nothing to do | – | at most 50 ms |`;
    process.stdout.write(`${line}\n`);
    lines.push(line);
  }
  return lines.join('\n');
}
