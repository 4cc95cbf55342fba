import { Line, LineAnswer, LinesEnd } from '@idrel/contract/exchange';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { ADDRESS, Caller } from './caller.ts';

// Lines as programs send them: over HTTP, with a key, bit by bit.
const administrator = new Caller();
let [key, keyId, sourceId] = ['', '', ''];
const SOURCE = `Lines ${Date.now()}`;
const encoder = new TextEncoder();

interface Said extends Partial<LineAnswer & LinesEnd> {}
const post = (body: BodyInit, headers: Record<string, string> = {}, query = '') =>
  fetch(`${ADDRESS}/api/v1/lines${query}`, {
    method: 'POST',
    headers: { authorization: `Bearer ${key}`, 'content-type': 'application/x-ndjson', ...headers },
    body,
    duplex: 'half',
  } as RequestInit);
const answersOf = (text: string): Said[] =>
  text
    .trimEnd()
    .split('\n')
    .map((line) => {
      const said = JSON.parse(line) as Said;
      expect((said.end ? LinesEnd : LineAnswer).validate(said, { convert: false }).error, line).toBeUndefined();
      return said;
    });
const say = async (lines: readonly object[], query = '') =>
  answersOf(await (await post(lines.map((line) => JSON.stringify(line)).join('\n'), {}, query)).text());

beforeAll(async () => {
  await administrator.as('Jorun Pell');
  const made = await administrator.call('POST', '/api-keys', {
    name: SOURCE,
    scopes: ['read', 'write', 'scan'],
    domainIds: null,
    perMinute: 6000,
  });
  key = made.body.key;
  keyId = made.body.id;
  const domains = (await administrator.call('GET', '/domains')).body as { id: string; name: string }[];
  const source = await administrator.call('POST', '/sources', {
    name: SOURCE,
    kind: 'pushed',
    address: {},
    domainId: domains.find(({ name }) => name === 'Shared')?.id,
    description: '',
    credentialId: null,
  });
  expect(source.status).toBe(200);
  sourceId = source.body.id;
});
afterAll(async () => {
  const { body } = await administrator.call('GET', `/sources/${sourceId}`);
  await administrator.call('DELETE', `/sources/${sourceId}?assets=${body.assets}`);
  await administrator.call('DELETE', `/api-keys/${keyId}`);
});

const tables = (n: number) => [
  { asset: { of: `/at/${SOURCE}/s`, kind: 'schema' } },
  ...Array.from({ length: n }, (_, i) => ({
    asset: { of: `/at/${SOURCE}/s/t${i}`, kind: 'table', columns: [{ name: 'a', type: 'text' }] },
  })),
];

describe('lines over HTTP', () => {
  it('are answered one by one, across parts, with their numbers; said again nothing changes', async () => {
    const first = await say(tables(6000));
    expect(first.slice(0, -1).map(({ line }) => line)).toEqual(Array.from({ length: 6001 }, (_, n) => n + 1));
    expect(first.at(-1)).toMatchObject({ end: true, lines: 6001, made: 6001, refused: 0 });
    expect((await say(tables(6000))).at(-1)).toMatchObject({ same: 6001, made: 0 });
  });

  it('are answered while more of them come', async () => {
    let more: (() => void) | undefined;
    const later = new Promise<void>((resolve) => {
      more = resolve;
    });
    const line = `${JSON.stringify({ said: { of: `/at/${SOURCE}/s/t0`, description: 'x'.repeat(18_000) } })}\n`;
    const body = new ReadableStream<Uint8Array>({
      async start(stream) {
        // More than one part holds.
        stream.enqueue(encoder.encode(line.repeat(300)));
        await later;
        stream.enqueue(encoder.encode(line));
        stream.close();
      },
    });
    const response = await post(body);
    const reader = (response.body as ReadableStream<Uint8Array>).getReader();
    const { value } = await reader.read();
    expect(new TextDecoder().decode(value)).toContain('"line":1,');
    more?.();
    let rest = '';
    for (let piece = await reader.read(); !piece.done; piece = await reader.read())
      rest += new TextDecoder().decode(piece.value);
    expect(rest).toContain('"lines":301');
  });

  it('that cannot be read are refused by themselves, wherever they are cut', async () => {
    const text = [
      '{',
      '[]',
      '7',
      '"text"',
      '{"said":{"of":"/at/x"}}',
      '{}',
      '{"tag":{"name":"a"},"term":{"name":"b"}}',
      '',
      ' \r',
      '{"said":{"of":"\\u0000"}}',
      '[['.repeat(200),
    ].join('\n');
    const pieces = [...encoder.encode(text)].map((byte) => Uint8Array.of(byte));
    const body = new ReadableStream<Uint8Array>({
      start(stream) {
        for (const piece of pieces) stream.enqueue(piece);
        stream.close();
      },
    });
    const answers = answersOf(await (await post(body)).text());
    expect(answers.map(({ line }) => line)).toEqual([1, 2, 3, 4, 5, 6, 7, 10, 11, undefined]);
    expect(answers.slice(0, -1).every(({ outcome, why }) => outcome === 'refused' && (why?.length ?? 0) > 10)).toBe(
      true,
    );
  });

  it('end where one is too long, and what came before it stands', async () => {
    const good = JSON.stringify({ said: { of: `/at/${SOURCE}/s/t1`, description: `Now ${Date.now()}` } });
    const answers = answersOf(await (await post(`${good}\n${'x'.repeat(5 << 20)}`)).text());
    expect(answers[0]).toMatchObject({ line: 1, outcome: 'changed' });
    expect(answers.at(-1)).toMatchObject({
      end: true,
      lines: 1,
      problem: expect.stringContaining('Line 2 is longer than 4 MB'),
    });
  });

  it('are refused as a whole where they are none, are packed, or nobody may say them', async () => {
    const status = async (headers: Record<string, string>, body: BodyInit = '{}') => (await post(body, headers)).status;
    expect(await status({ 'content-type': 'application/json' })).toBe(415);
    expect(await status({ 'content-encoding': 'gzip' })).toBe(415);
    expect(await status({}, '')).toBe(422);
    expect(await status({ authorization: 'Bearer idrel_key_none' })).toBe(401);
    expect((await post('{}', {}, '?preview=perhaps')).status).toBe(422);
  });

  it('tell in a preview what would come of them', async () => {
    const line = { said: { of: `/at/${SOURCE}/s/t2`, description: 'Perhaps' } };
    const [told] = await say([line], '?preview=true');
    expect(told?.changes).toEqual([{ field: 'description', before: '', after: 'Perhaps' }]);
    expect((await say([line], '?preview=true'))[0]?.outcome).toBe('changed');
  });

  it('of which a program went away in the middle are written in parts that are whole', async () => {
    const controller = new AbortController();
    const lines = tables(3000).map((line) => JSON.stringify({ asset: { ...line.asset, comment: 'Left' } }));
    const gone = fetch(`${ADDRESS}/api/v1/lines`, {
      method: 'POST',
      headers: { authorization: `Bearer ${key}`, 'content-type': 'application/x-ndjson' },
      body: lines.join('\n'),
      signal: controller.signal,
    });
    setTimeout(() => controller.abort(), 150);
    await gone.catch(() => undefined);
    await expect
      .poll(async () => {
        const { total } = (
          await administrator.call(
            'GET',
            `/assets?limit=1&filter=${encodeURIComponent(`source:"${SOURCE}" kind:table Left`)}`,
          )
        ).body;
        return [0, 3000].includes(total);
      })
      .toBe(true);
    // Said again, all of it stands.
    expect(answersOf(await (await post(lines.join('\n'))).text()).at(-1)).toMatchObject({ lines: 3001, refused: 0 });
  });

  it('fit the shape that the description of the API gives', () => {
    expect(Line.validate({ said: { of: '/at/a/b', description: 'x' } }).error).toBeUndefined();
    expect(Line.validate({ said: { of: 'a/b' } }).error?.message).toContain('an address as in');
  });
});
