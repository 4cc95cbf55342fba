import { get } from 'node:http';
import { Client } from '../demo/dist/client.js';

/** Times functions in turn (A B A B …) and compares medians: machines are noisy, ratios of runs side by side are less so. */
export const median = (list) => [...list].sort((a, b) => a - b)[Math.floor(list.length / 2)];

export async function inTurn(rounds, runs) {
  const times = runs.map(() => []);
  for (const run of runs) await run(); // one round that does not count
  for (let round = 0; round < rounds; round += 1) {
    for (const [index, run] of runs.entries()) {
      const started = performance.now();
      const own = await run();
      times[index].push(typeof own === 'number' ? own : performance.now() - started);
    }
  }
  return times.map((list) => ({ median: median(list), min: Math.min(...list), max: Math.max(...list) }));
}

const ms = (value) => `${value < 10 ? value.toFixed(2) : Math.round(value)} ms`;

/** One line: what was measured against what, the ratio, and the goal. */
export function tell(name, measured, reference, goal, ratio = measured.median / reference.median) {
  const line = `| ${name} | ${ms(measured.median)} (${ms(measured.min)} – ${ms(measured.max)}) | ${ms(reference.median)} (${ms(reference.min)} – ${ms(reference.max)}) | ${ratio.toFixed(2)} | ${goal} |`;
  process.stdout.write(`${line}\n`);
  return line;
}

/** How many bytes an answer takes on the wire, compressed as a browser is sent it. */
export async function sentBytes(address, name, path) {
  const { headers } = await session(address, name);
  return new Promise((resolve, reject) => {
    get(`${address}/api/v1${path}`, { headers: { ...headers, 'accept-encoding': 'gzip' } }, (answer) => {
      let bytes = 0;
      answer.on('data', (data) => {
        bytes += data.length;
      });
      answer.on('end', () => resolve(bytes));
    }).on('error', reject);
  });
}

/** What somebody of the demo sends along once they are signed in. */
async function session(address, name) {
  const offered = await fetch(`${address}/api/v1/session`).then((answer) => answer.json());
  const opened = await fetch(`${address}/api/v1/session`, {
    method: 'POST',
    headers: { 'content-type': 'application/json' },
    body: JSON.stringify({ demoPersonId: offered.demoPeople.find((person) => person.name === name).id }),
  });
  return {
    headers: {
      'content-type': 'application/json',
      cookie: opened.headers.getSetCookie()[0].split(';')[0],
      'x-idrel-token': (await opened.json()).csrf,
    },
  };
}

/** Somebody of the demo who sends what they like and reads whatever comes back, as a text. */
export async function signedIn(address, name) {
  const { headers } = await session(address, name);
  /** @param asIs whether the body is a text already */
  return async (method, path, body, asIs = false) => {
    const answer = await fetch(`${address}/api/v1${path}`, {
      method,
      headers,
      ...(body === undefined ? {} : { body: asIs ? body : JSON.stringify(body) }),
    });
    return answer.text();
  };
}

/** One of the people of the demo, by plain paths. */
export class Caller extends Client {
  get(path) {
    return this.ask({ method: 'get', path });
  }

  post(path, body) {
    return this.ask({ method: 'post', path }, { body });
  }
}
