import { newsEndpoints } from '@idrel/contract/exchange';
import { domainEndpoints } from '@idrel/contract/people';
import { Client } from './client.ts';

/** What people have themselves told of. */
export async function follow(address: string): Promise<void> {
  const steward = new Client(address);
  await steward.signInAs('Sunniva Dahlmark');
  const domains = await steward.ask(domainEndpoints.all);
  const travel = domains.find(({ name }) => name === 'Travel')?.id ?? '';
  const how = { subjectId: null, filter: null, below: true, mail: false, chat: false } as const;
  await steward.ask(newsEndpoints.subscribe, {
    body: { ...how, what: 'domain', subjectId: travel, pace: 'at once' },
  });
  await steward.ask(newsEndpoints.subscribe, {
    body: { ...how, what: 'search', filter: 'class:email level>=2', pace: 'weekly', mail: true },
  });
}
