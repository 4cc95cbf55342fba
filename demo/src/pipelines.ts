import { randomUUID } from 'node:crypto';
import type { RunEvent } from '@idrel/contract/lineage';
import { runEventEndpoints } from '@idrel/contract/scanning';
import { sourceEndpoints } from '@idrel/contract/sources';
import type { Client } from './client.ts';
import { daysBefore } from './random.ts';

const DAYS = 14;

const minutesAfter = (at: Date, minutes: number) => new Date(at.getTime() + minutes * 60_000).toISOString();
const taken = (dataset: { namespace: string; name: string }, field: string, subtype = 'IDENTITY') => ({
  ...dataset,
  field,
  transformations: [{ type: 'DIRECT', subtype }],
});

interface Told {
  readonly job: RunEvent['job'];
  readonly inputs: NonNullable<RunEvent['inputs']>;
  readonly outputs: NonNullable<RunEvent['outputs']>;
  /** Minutes after midnight, and how long it takes. */
  readonly at: number;
  readonly takes: number;
}

/** What two pipelines of the freight desk tell of themselves: one reads a stream that no connector knows, the other writes for the bank. */
function pipelines(server: { host: string; port: number }): Told[] {
  const desk = (name: string) => ({
    namespace: `postgres://${server.host}:${server.port}`,
    name: `freight_desk.${name}`,
  });
  const gate = { namespace: 'kafka://yard.tarnholm.example:9092', name: 'weighbridge.readings' };
  const bank = { namespace: 'sftp://bank.tarnholm.example', name: '/out/invoices.csv' };
  const invoice = desk('invoicing.invoice');
  return [
    {
      job: {
        namespace: 'freight',
        name: 'weigh trailers',
        facets: {
          documentation: { description: 'Takes what the weighbridges measure into the freight desk, once a minute.' },
          sourceCode: {
            language: 'python',
            sourceCode:
              'for reading in yard.subscribe("weighbridge.readings"):\n    desk.insert("depot.weighbridge_reading", reading)',
          },
          sourceCodeLocation: { url: 'https://code.tarnholm.example/freight/pipelines/weigh.py' },
        },
      },
      inputs: [
        {
          ...gate,
          facets: {
            documentation: { description: 'One message for each axle that crosses a weighbridge.' },
            schema: {
              fields: [
                { name: 'at', type: 'timestamp', description: 'When it was measured' },
                { name: 'kilograms', type: 'double' },
                { name: 'bridge', type: 'string', description: 'Serial number of the bridge' },
              ],
            },
          },
          inputFacets: {
            dataQualityAssertions: {
              assertions: [
                { assertion: 'not_null', success: true, column: 'bridge' },
                { assertion: 'not_negative', success: true, column: 'kilograms' },
              ],
            },
          },
        },
      ],
      outputs: [
        {
          ...desk('depot.weighbridge_reading'),
          facets: {
            columnLineage: {
              fields: {
                read_at: { inputFields: [taken(gate, 'at')] },
                value: { inputFields: [taken(gate, 'kilograms', 'TRANSFORMATION')] },
                sensor_serial: { inputFields: [taken(gate, 'bridge')] },
              },
            },
          },
          outputFacets: { outputStatistics: { rowCount: 1380 } },
        },
      ],
      at: 15,
      takes: 4,
    },
    {
      job: {
        namespace: 'freight',
        name: 'invoices to the bank',
        facets: {
          documentation: { description: 'Writes the open invoices where the bank fetches them.' },
          sql: { query: "select code, estimate, opened_on from invoicing.invoice where state = 'open'" },
        },
      },
      inputs: [invoice],
      outputs: [
        {
          ...bank,
          facets: {
            columnLineage: {
              fields: {
                number: { inputFields: [taken(invoice, 'code')] },
                amount: { inputFields: [taken(invoice, 'estimate')] },
                day: { inputFields: [taken(invoice, 'opened_on')] },
              },
            },
          },
          outputFacets: { outputStatistics: { rowCount: 212 } },
        },
      ],
      at: 240,
      takes: 1,
    },
  ];
}

/** Registers the freight desk's pipelines as a source and sends their events of two weeks, as the pipelines themselves would: with the source's key. */
export async function sendEvents(
  address: string,
  engineer: Client,
  domainId: string,
  server: { host: string; port: number },
): Promise<void> {
  const { id } = await engineer.ask(sourceEndpoints.register, {
    body: {
      name: 'Freight pipelines',
      kind: 'events',
      address: { system: 'the freight desk' },
      domainId,
      description: 'What brings data to the freight desk, and takes it elsewhere; it tells so itself.',
    },
  });
  const { key } = await engineer.ask(runEventEndpoints.makeKey, { params: { id } });
  const send = async (event: RunEvent): Promise<void> => {
    const response = await fetch(`${address}/api/v1/lineage`, {
      method: 'POST',
      headers: { authorization: `Bearer ${key}`, 'content-type': 'application/json' },
      body: JSON.stringify(event),
    });
    if (!response.ok) throw new Error(`An event was answered ${response.status}: ${await response.text()}`);
  };
  const midnight = new Date();
  midnight.setUTCHours(0, 0, 0, 0);
  for (let back = DAYS - 1; back >= 0; back -= 1)
    for (const { job, inputs, outputs, at, takes } of pipelines(server)) {
      const began = new Date(daysBefore(midnight, back).getTime() + at * 60_000);
      if (began.getTime() > Date.now()) continue;
      const runId = randomUUID();
      await send({ eventType: 'START', eventTime: began.toISOString(), run: { runId }, job });
      const failed = job.name === 'invoices to the bank' && [0, 1, 9].includes(back);
      await send(
        failed
          ? {
              eventType: 'FAIL',
              eventTime: minutesAfter(began, takes),
              run: { runId, facets: { errorMessage: { message: 'The bank refuses the connection.' } } },
              job,
            }
          : { eventType: 'COMPLETE', eventTime: minutesAfter(began, takes), run: { runId }, job, inputs, outputs },
      );
    }
  // They are put together soon after.
  for (let tries = 0; tries < 100; tries += 1) {
    const { waiting, jobs } = await engineer.ask(runEventEndpoints.events, { params: { id } });
    if (waiting === 0 && jobs === 2) return;
    await new Promise((resolve) => setTimeout(resolve, 200));
  }
  throw new Error('The events of the freight pipelines were not put together.');
}
