import { coverageEndpoints } from '@idrel/contract/coverage';
import { domainEndpoints } from '@idrel/contract/people';
import { Client } from './client.ts';

const inDays = (days: number): string => new Date(Date.now() + days * 86_400_000).toISOString().slice(0, 10);

/** What domains mean to reach, what room costs (aboard, where every copy goes by satellite), and the figures of today. */
export async function setTargets(address: string): Promise<void> {
  const administrator = new Client(address);
  const steward = new Client(address);
  await administrator.signInAs('Jorun Pell');
  await steward.signInAs('Sunniva Dahlmark');
  const domains = await steward.ask(domainEndpoints.all);
  const idOf = (name: string) => domains.find((domain) => domain.name === name)?.id ?? '';
  for (const [domain, measure, share, days] of [
    ['Travel', 'described', 0.95, 61],
    ['Travel', 'certified', 0.3, 122],
    ['Fleet', 'owned', 0.8, 92],
    ['Fleet', 'relied', 0.5, 31],
    ['Freight', 'described', 0.6, 61],
    ['Onboard sales', 'owned', 0.9, 122],
  ] as const)
    if (idOf(domain))
      await steward.ask(coverageEndpoints.addTarget, {
        body: { domainId: idOf(domain), measure, share, byDay: inDays(days), since: inDays(-60) },
      });
  const { version } = await administrator.ask(coverageEndpoints.price);
  await administrator.ask(coverageEndpoints.setPrice, { version, body: { price: 120, currency: 'EUR' } });
  await administrator.ask(coverageEndpoints.keep);
}
