import type { Pace, Webhook } from '@idrel/contract/exchange';

/** How soon one is told, in words. */
export const PACE_WORDS: Readonly<Record<Pace, string>> = {
  'at once': 'at once',
  daily: 'each morning',
  weekly: 'on Mondays',
};

export const PACES = Object.keys(PACE_WORDS) as readonly Pace[];

/** What a webhook is told of, in words. */
export const toldOf = ({
  kinds,
  domainId,
  domain,
  filter,
}: Pick<Webhook, 'kinds' | 'domainId' | 'domain' | 'filter'>): string =>
  [
    kinds.length === 0 ? 'everything' : kinds.join(', '),
    ...(domainId === null ? [] : [domain === null ? 'in a domain that is gone' : `in ${domain} and below`]),
    ...(filter === null ? [] : [`of what ${filter} finds`]),
  ].join(' ');
