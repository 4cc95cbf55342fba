import { Readable } from 'node:stream';
import { DESCRIBED_AS, type DescribedAs } from '@idrel/contract/exchange';
import { type Quad, Store } from 'n3';
import pg from 'pg';
import CsvParser from 'rdf-parser-csvw';
import { Schema } from 'tableschema';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { amiss, canonical, jsonLd, times, turtle, undeclared } from '../openFormats.ts';
import { urlOf } from '../place.ts';
import { ADDRESS, Caller } from './caller.ts';

// The demo in open formats, read back by readers of others.
const steward = new Caller();
const reader = new Caller();
let [key, keyId] = ['', ''];
const DCAT = 'http://www.w3.org/ns/dcat#';
const TYPE = 'http://www.w3.org/1999/02/22-rdf-syntax-ns#type';

interface Found {
  readonly id: string;
  readonly path: string;
}
const found = async (filter: string): Promise<readonly Found[]> =>
  (await steward.call('GET', `/assets?limit=200&filter=${encodeURIComponent(filter)}`)).body.items;
const first = async (filter: string): Promise<Found> => {
  const [one] = await found(filter);
  if (!one) throw new Error(`nothing matches ${filter}`);
  return one;
};
const sent = (who: Caller, path: string, headers: Record<string, string> = {}) =>
  fetch(ADDRESS + path, { headers: { cookie: who.cookie, ...headers } });
const described = async (who: Caller, as: DescribedAs, address: string) =>
  sent(who, `/api/v1/described?as=${as}&address=${encodeURIComponent(address)}`);
const text = async (as: DescribedAs, id: string) => (await described(steward, as, `/assets/${id}`)).text();

const booking = new pg.Client(urlOf('booking_system'));
/** A few rows of a table of the booking system, as texts. */
async function rowsOf(path: string): Promise<{ names: readonly string[]; rows: (string | null)[][] }> {
  const [schema = '', table = ''] = path.split('.');
  const { fields, rows } = await booking.query({
    text: `select * from ${pg.escapeIdentifier(schema)}.${pg.escapeIdentifier(table)} limit 20`,
    rowMode: 'array',
    types: { getTypeParser: () => (value: string | Buffer) => value } as never,
  });
  return { names: fields.map(({ name }) => name), rows };
}

beforeAll(async () => {
  await booking.connect();
  await steward.as('Sunniva Dahlmark');
  await reader.as('Maud Ilkley');
  const made = await steward.call('POST', '/api-keys', {
    name: `Formats ${Date.now()}`,
    scopes: ['read'],
    domainIds: null,
  });
  ({ key, id: keyId } = made.body);
});
afterAll(async () => {
  await booking.end();
  await steward.call('DELETE', `/api-keys/${keyId}`);
});

describe('the whole catalog by DCAT', () => {
  let all: Quad[] = [];
  beforeAll(async () => {
    const response = await sent(steward, '/api/v1/described-many?as=ttl');
    expect([response.status, response.headers.get('content-type')]).toEqual([200, 'text/turtle; charset=utf-8']);
    all = turtle(await response.text());
  });

  it('holds every asset that may be seen, and says nothing that the shapes of DCAT-AP or the vocabularies do not know', async () => {
    const { total } = (await steward.call('GET', '/assets?limit=1')).body;
    expect(times(all, `${DCAT}dataset`) + times(all, `${DCAT}resource`)).toBe(total);
    expect(undeclared(all)).toEqual([]);
    expect(await amiss(all)).toEqual([]);
  });

  it('would be refused without a title, with a page that is none, or with a property that nobody knows', async () => {
    const title = all.find(({ predicate }) => predicate.value === 'http://purl.org/dc/terms/title');
    const page = all.find(({ object, predicate }) => predicate.value === TYPE && object.value.endsWith('/Document'));
    expect(await amiss(all.filter((quad) => quad !== title))).not.toEqual([]);
    expect(await amiss(all.filter((quad) => quad !== page))).not.toEqual([]);
    const [some] = turtle(`<urn:a> <${DCAT}datset> <urn:b> .`) as [Quad];
    expect(undeclared([...all, some])).toEqual([`${DCAT}datset`]);
  });

  it('is the same in JSON-LD, and holds for a reader only what they may see', async () => {
    const filter = encodeURIComponent('kind:table source:"Booking system"');
    const [asTurtle, asJson] = await Promise.all(
      (['ttl', 'jsonld'] as const).map(async (as) =>
        (await sent(steward, `/api/v1/described-many?as=${as}&filter=${filter}`)).text(),
      ),
    );
    const bare = (quads: Quad[]) =>
      // Each is a list of its own, written at its own moment.
      quads.filter(
        ({ subject, predicate }) => !subject.value.includes('/described-many?') && predicate.value !== `${DCAT}dataset`,
      );
    const [one, other] = [bare(turtle(asTurtle ?? '')), bare(await jsonLd(asJson ?? ''))];
    expect(one.length).toBeGreaterThan(1000);
    expect(await canonical(other)).toBe(await canonical(one));
    const theirs = turtle(await (await sent(reader, '/api/v1/described-many?as=ttl')).text());
    const { total } = (await reader.call('GET', '/assets?limit=1')).body;
    expect(times(theirs, `${DCAT}dataset`) + times(theirs, `${DCAT}resource`)).toBe(total);
    expect(total).toBeLessThan(times(all, `${DCAT}dataset`));
    const mine = new Set(
      theirs
        .filter(({ predicate }) => predicate.value === 'http://purl.org/dc/terms/identifier')
        .map(({ object }) => object.value),
    );
    for (const way of ['wasDerivedFrom', 'wasGeneratedBy', 'used', 'generated']) {
      const ends = theirs.filter(({ predicate }) => predicate.value === `http://www.w3.org/ns/prov#${way}`);
      for (const { object } of ends) expect(mine, `${way} ${object.value}`).toContain(object.value);
    }
  });

  it('tells where things come from', async () => {
    expect(times(all, 'http://www.w3.org/ns/prov#wasDerivedFrom')).toBeGreaterThan(5);
    const flow = await first('kind:flow');
    const quads = turtle(await text('ttl', flow.id));
    expect(await amiss(quads)).toEqual([]);
    expect(times(quads, TYPE, 'http://www.w3.org/ns/prov#Activity')).toBeGreaterThan(0);
    expect(
      times(quads, 'http://www.w3.org/ns/prov#used') + times(quads, 'http://www.w3.org/ns/prov#generated'),
    ).toBeGreaterThan(0);
  });

  it('is refused with words where the filter cannot be read', async () => {
    const { status, body } = await steward.call('GET', '/described-many?as=ttl&filter=colour:red');
    expect([status, body.code, body.errors ?? body.fields]).toEqual([422, 'invalid', expect.anything()]);
  });
});

describe('the columns of a table', () => {
  const tables = ['passenger', 'booking', 'booking_leg', 'payment'];
  for (const name of tables)
    it(`as CSVW: a CSV of the rows of ${name} is read by it`, async () => {
      const [table] = (await found(`kind:table source:"Booking system" name:${name}`)).filter(({ path }) =>
        path.endsWith(`.${name}`),
      );
      if (!table) throw new Error(`no ${name}`);
      const metadata = JSON.parse(await text('csvw', table.id)) as {
        tableSchema: { columns: { name: string; titles: string; datatype: string | { base: string } }[] };
      };
      const { columns } = metadata.tableSchema;
      const { names: shown, rows } = await rowsOf(table.path);
      expect(columns.map(({ titles }) => titles)).toEqual(shown);
      expect(rows.length).toBeGreaterThan(0);
      const cell = (value: string | null) => (value === null ? '' : `"${String(value).replaceAll('"', '""')}"`);
      const csv = [shown, ...rows].map((row) => row.map(cell).join(',')).join('\n');
      const parser = new CsvParser({
        metadata: new Store(await jsonLd(JSON.stringify(metadata))),
        baseIRI: 'http://example.org/',
        timezone: 'utc',
      });
      const quads: Quad[] = [];
      for await (const quad of parser.import(Readable.from([csv]))) quads.push(quad);
      // Beside the values it says of the table and of the numbers of rows.
      const values = quads.filter(({ predicate }) => predicate.value.startsWith('http://example.org/'));
      const filled = rows.flat().filter((value) => value !== null && value !== '').length;
      expect(values).toHaveLength(filled);
      for (const { name: column, datatype } of columns) {
        const base = typeof datatype === 'string' ? datatype : datatype.base;
        const read = values.filter(({ predicate }) => predicate.value.endsWith(`#${column}`));
        const types = new Set(
          read.map(({ object }) => {
            // The reader hands a type that is limited in length on as a node within a node.
            const type = (object as { datatype?: { value: string | { value: string } } }).datatype?.value ?? '';
            return (typeof type === 'string' ? type : type.value).split('#').at(-1);
          }),
        );
        if (read.length > 0) expect([...types], column).toEqual([base === 'datetime' ? 'dateTime' : base]);
      }
    });

  it('as Table Schema: it is one, and the values of the table fit it', async () => {
    let [tried, cells] = [0, 0];
    for (const { id, path } of await found('kind:table source:"Booking system"')) {
      const descriptor = JSON.parse(await text('table-schema', id)) as { fields: { name: string; type: string }[] };
      const schema = await Schema.load(descriptor, { strict: false } as never);
      expect([path, schema.valid, schema.errors]).toEqual([path, true, []]);
      const { rows } = await rowsOf(path);
      for (const row of rows)
        for (const [index, field] of schema.fields.entries()) {
          // What PostgreSQL writes of lists, of yes and no and of moments is not what JSON has: those go out as files, not as texts.
          if (['array', 'boolean', 'object', 'datetime', 'any'].includes(field.type) || row[index] === null) continue;
          expect(field.testValue(row[index], false), `${path}.${field.name} ${row[index]}`).toBe(true);
          cells += 1;
        }
      tried += 1;
    }
    expect([tried > 10, cells > 300]).toEqual([true, true]);
  });

  it('are not told of what has none', async () => {
    const { id } = await first('kind:schema');
    const { status, body } = await steward.call('GET', `/described?as=csvw&address=/assets/${id}`);
    expect([status, body.code]).toEqual([422, 'invalid']);
    expect(body.mend).toContain('Turtle');
  });
});

describe('an asset at its own address', () => {
  it('is served in the format that is asked for, to who may see it', async () => {
    const { id } = await first('kind:table name:passenger source:"Booking system"');
    const place = (await steward.call('GET', `/assets/${id}`)).body.place as string;
    for (const { type } of Object.values(DESCRIBED_AS))
      for (const address of [`/assets/${id}`, place]) {
        const response = await sent(new Caller(), address, { authorization: `Bearer ${key}`, accept: type });
        expect([address, response.status, response.headers.get('content-type')?.split(';')[0]]).toEqual([
          address,
          200,
          type,
        ]);
        expect(response.headers.get('vary')).toMatch(/accept/i);
        const said = await response.text();
        expect([said.includes(id), said.includes(place)]).toContain(true);
      }
  });

  it('is its page to a browser, which says where the others are', async () => {
    const { id } = await first('kind:table name:passenger source:"Booking system"');
    const response = await sent(new Caller(), `/assets/${id}`, { accept: 'text/html,application/xhtml+xml,*/*;q=0.8' });
    expect([response.status, response.headers.get('content-type')?.split(';')[0]]).toEqual([200, 'text/html']);
    const page = await response.text();
    for (const type of ['text/turtle', 'application/ld+json'])
      expect(page).toContain(`<link rel="alternate" type="${type}" href="/api/v1/described?`);
    const [, link = ''] = /type="text\/turtle" href="([^"]+)"/.exec(page) ?? [];
    expect((await sent(steward, link.replaceAll('&amp;', '&'))).status).toBe(200);
  });

  it('is not told of to strangers, to who may not see it, or where there is nothing', async () => {
    const { id } = await first('kind:table domain:People');
    const asked = async (who: Caller, address: string) => {
      const response = await sent(who, address, { accept: 'text/turtle' });
      return [response.status, ((await response.json()) as { code: string }).code];
    };
    expect(await asked(new Caller(), `/assets/${id}`)).toEqual([401, 'not-signed-in']);
    expect(await asked(new Caller(), '/at/Nowhere/at/all')).toEqual([401, 'not-signed-in']);
    expect(await asked(reader, `/assets/${id}`)).toEqual([404, 'not-found']);
    expect(await asked(reader, '/at/Nowhere/at/all')).toEqual([404, 'not-found']);
    expect(await asked(steward, '/assets/00000000-0000-4000-8000-000000000000')).toEqual([404, 'not-found']);
  });

  it('says which formats there are when it is asked for another', async () => {
    const { id } = await first('kind:table');
    const response = await sent(steward, `/assets/${id}`, { accept: 'application/rdf+xml' });
    const body = (await response.json()) as { code: string; mend: string };
    expect([response.status, body.code]).toEqual([406, 'other-format']);
    for (const { type } of Object.values(DESCRIBED_AS)) expect(body.mend).toContain(type);
  });
});
