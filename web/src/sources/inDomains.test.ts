import { describe, expect, it } from 'vitest';
import { ordered } from './inDomains.ts';

const domain = (id: string, parentId: string | null) => ({ id, parentId, name: id });
const source = (name: string, domainId: string) => ({ name, domainId });
const told = (lines: ReturnType<typeof ordered<ReturnType<typeof source>>>) =>
  lines.map((line) => `${'  '.repeat(line.depth)}${'heading' in line ? line.heading : line.source.name}`);

describe('sources in their domains', () => {
  const sources = [source('Booking', 'bookings'), source('Crew', 'people'), source('Tills', 'travel')];

  it('stand below them, domains by name, empty ones left out', () => {
    const domains = [
      domain('travel', null),
      domain('people', null),
      domain('vessels', null),
      domain('bookings', 'travel'),
      domain('fleet', 'vessels'),
    ];
    expect(told(ordered(sources, domains))).toEqual([
      'people',
      '  Crew',
      'travel',
      '  Tills',
      '  bookings',
      '    Booking',
    ]);
  });

  it('stand at the top where the domain above may not be seen', () => {
    expect(told(ordered(sources, [domain('bookings', 'travel')]))).toEqual(['bookings', '  Booking']);
  });

  it('are a plain list without domains', () => {
    expect(told(ordered(sources, undefined))).toEqual(['Booking', 'Crew', 'Tills']);
  });
});
