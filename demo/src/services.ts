import { randomBytes, randomUUID } from 'node:crypto';
import { existsSync, readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { daysBefore } from './random.ts';
import { standInsFolder } from './shoreStore.ts';

type Service = 'reports' | 'flows';
const fileOf = (folder: string, service: Service) => join(standInsFolder(folder), `${service}.json`);

/** The token with which a service is read; made once. */
export function serviceToken(folder: string, service: Service): string {
  const path = fileOf(folder, service);
  const known = existsSync(path)
    ? (JSON.parse(readFileSync(path, 'utf8')) as { tokens: { token: string }[] }).tokens[0]?.token
    : undefined;
  return known ?? randomBytes(24).toString('base64url');
}

const from = (dataset: string, column: string, how: 'copied' | 'transformed' | 'aggregated' = 'copied') => ({
  dataset,
  column,
  how,
});
const field = (name: string, type: string, ...sources: object[]) => ({ name, type, from: sources });

/** Writes what the report server (Wheelhouse) and the orchestrator (Night crew) show: fields over the Warehouse, and the runs of the nights before. */
export function writeServices(folder: string, server: { host: string; port: number }, today: Date): void {
  const warehouse = { kind: 'postgresql', ...server, database: 'warehouse' };
  const datasets = [
    { id: 'fare_sales', connection: warehouse, table: ['mart', 'fare_sales'] },
    { id: 'contact', connection: warehouse, table: ['mart', 'traveller_contact'] },
    { id: 'contact_masked', connection: warehouse, table: ['mart', 'traveller_contact_masked'] },
    { id: 'onboard', connection: warehouse, table: ['mart', 'onboard_sales'] },
    { id: 'old', connection: warehouse, table: ['mart', 'fare_history'] },
    { id: 'consignment', connection: { ...warehouse, database: 'freight_desk' }, table: ['freight', 'consignment'] },
  ];
  const opened = (times: number, people: number, back: number) => ({
    times,
    people,
    last: daysBefore(today, back).toISOString(),
  });
  writeFileSync(
    fileOf(folder, 'reports'),
    JSON.stringify({
      name: 'Wheelhouse',
      tokens: [{ token: serviceToken(folder, 'reports'), name: 'idrel', sees: ['fares', 'onboard', 'freight'] }],
      workspaces: [
        {
          id: 'fares',
          name: 'Fares and routes',
          description: 'What is sold on which route',
          datasets,
          documents: [
            {
              id: 'r-revenue',
              name: 'Revenue by route',
              kind: 'report',
              description: 'Month by month; cancelled bookings are left out.',
              author: 'Bettina Sark',
              changedAt: daysBefore(today, 40).toISOString(),
              query: 'select route, month, sum(revenue) from mart.fare_sales group by route, month',
              fields: [
                field('route', 'text', from('fare_sales', 'route')),
                field('month', 'date', from('fare_sales', 'month')),
                field('revenue', 'number', from('fare_sales', 'revenue', 'aggregated')),
              ],
              opened: opened(214, 9, 1),
              image: {
                title: 'Revenue by route, thousands of euros',
                over: ['June', 'July', 'August', 'September', 'October', 'November'],
                series: [
                  { name: 'Tarnholm to Ulvey', as: 'line', values: [812, 1204, 1130, 760, 541, 498] },
                  { name: 'Tarnholm to Kessgar', as: 'line', values: [420, 688, 702, 415, 300, 271] },
                ],
              },
            },
            {
              id: 'r-price',
              name: 'Prices then and now',
              kind: 'report',
              description: 'Still read, although its first half is retired.',
              author: 'Bettina Sark',
              changedAt: daysBefore(today, 500).toISOString(),
              fields: [field('band', 'text', from('old', 'band')), field('price', 'number', from('old', 'price'))],
              opened: opened(2, 1, 96),
            },
            {
              id: 'd-board',
              name: 'Fares at a glance',
              kind: 'dashboard',
              description: 'For the weekly meeting.',
              author: 'Bettina Sark',
              changedAt: daysBefore(today, 12).toISOString(),
              fields: [
                field('revenue this month', 'number', { document: 'r-revenue', field: 'revenue', how: 'aggregated' }),
                field('travellers who can be reached', 'number', from('contact', 'email', 'aggregated')),
                field('newest address', 'text', from('contact', 'email')),
              ],
              opened: opened(391, 14, 0),
            },
          ],
        },
        {
          id: 'onboard',
          name: 'On board',
          description: 'Café and shop',
          datasets,
          documents: [
            {
              id: 'r-till',
              name: 'Sales by vessel',
              kind: 'report',
              description: '',
              author: 'Maud Ilkley',
              changedAt: daysBefore(today, 5).toISOString(),
              fields: [
                field('vessel', 'text', from('onboard', 'vessel_name')),
                field('product', 'text', from('onboard', 'product')),
                field('revenue', 'number', from('onboard', 'revenue', 'aggregated')),
              ],
              opened: opened(67, 4, 2),
            },
          ],
        },
        {
          id: 'freight',
          name: 'Freight desk',
          description: 'What is carried, and what it costs',
          datasets,
          documents: [
            {
              id: 'd-consignments',
              name: 'Consignments by office',
              kind: 'dashboard',
              description: 'What was estimated and what was spent, by the office that took the order.',
              author: 'Maud Ilkley',
              changedAt: daysBefore(today, 21).toISOString(),
              query: 'select office, sum(estimate), sum(spent) from freight.consignment group by office',
              fields: [
                field('office', 'text', from('consignment', 'office')),
                field('estimated', 'number', from('consignment', 'estimate', 'aggregated')),
                field('spent', 'number', from('consignment', 'spent', 'aggregated')),
              ],
              opened: opened(143, 7, 1),
              image: {
                title: 'Consignments by office, thousands of euros',
                over: ['Tarnholm', 'Ulvey', 'Kessgar'],
                series: [
                  { name: 'estimated', as: 'bar', values: [402, 377, 391] },
                  { name: 'spent', as: 'bar', values: [418, 352, 396] },
                ],
              },
            },
          ],
        },
      ],
    }),
    { mode: 0o600 },
  );

  const namespace = `postgres://${server.host}:${server.port}`;
  const column = (table: string, name: string, subtype: string, masking = false) => ({
    namespace,
    name: `warehouse.${table}`,
    field: name,
    transformations: [{ type: 'DIRECT', subtype, masking }],
  });
  const tills = ['cafe', 'shop'].map((till) => ({
    namespace: 's3://tarnholm-shore',
    name: `tills/day=*/${till}.ndjson.gz`,
  }));
  const JOBS = [
    {
      name: 'load tills',
      description: 'Takes the exports of the tills into the Warehouse.',
      query: 'insert into core.till_sale select … from the tills of the day',
      inputs: tills,
      output: 'core.till_sale',
      fields: Object.fromEntries(
        ['product', 'amount'].map((name) => [
          name,
          {
            inputFields: tills.map((till) => ({
              ...till,
              field: name,
              transformations: [{ type: 'DIRECT', subtype: 'IDENTITY' }],
            })),
          },
        ]),
      ),
    },
    {
      name: 'refresh old sales',
      description: 'Nobody remembers what reads its result.',
      query: 'insert into mart.snapshot_sales_old select route, month, bookings from mart.fare_sales',
      inputs: [{ namespace, name: 'warehouse.mart.fare_sales' }],
      output: 'mart.snapshot_sales_old',
      fields: Object.fromEntries(
        ['route', 'month', 'bookings'].map((name) => [
          name,
          { inputFields: [column('mart.fare_sales', name, 'IDENTITY')] },
        ]),
      ),
    },
  ];
  const events = Array.from({ length: 14 }, (_, back) =>
    JOBS.map((job, index) => {
      const at = daysBefore(
        new Date(Date.UTC(today.getUTCFullYear(), today.getUTCMonth(), today.getUTCDate(), 2, 10 * index)),
        back,
      );
      const failed = index === 1 && back === 0;
      return {
        eventType: failed ? 'FAIL' : 'COMPLETE',
        eventTime: at.toISOString(),
        producer: 'https://tarnholm.example/night-crew',
        schemaURL: 'https://openlineage.io/spec/2-0-2/OpenLineage.json#/$defs/RunEvent',
        run: {
          runId: randomUUID(),
          ...(failed
            ? {
                facets: {
                  errorMessage: {
                    message: 'permission denied for table snapshot_sales_old',
                    programmingLanguage: 'SQL',
                  },
                },
              }
            : {}),
        },
        job: {
          namespace: 'night',
          name: job.name,
          facets: { documentation: { description: job.description }, sql: { query: job.query } },
        },
        inputs: job.inputs,
        outputs: failed
          ? []
          : [{ namespace, name: `warehouse.${job.output}`, facets: { columnLineage: { fields: job.fields } } }],
      };
    }),
  )
    .flat()
    .sort((a, b) => (a.eventTime < b.eventTime ? -1 : 1));
  writeFileSync(
    fileOf(folder, 'flows'),
    JSON.stringify({
      name: 'Night crew',
      tokens: [{ token: serviceToken(folder, 'flows'), name: 'idrel', sees: ['*'] }],
      events,
    }),
    { mode: 0o600 },
  );
}
