import { addressEndpoints, catalogEndpoints, searchEndpoints } from '@idrel/contract/catalog';
import { curationEndpoints, priorityEndpoints, tagEndpoints } from '@idrel/contract/curation';
import { manageEndpoints, peopleEndpoints } from '@idrel/contract/people';
import { discussionEndpoints, guideEndpoints } from '@idrel/contract/writing';
import { mentionText } from '@idrel/core/writing/mentions';
import { Client } from './client.ts';

/** What people of the company have written about their data since the first scan: guides, questions and answers, links, tags; and who has left. */
export async function liveIn(address: string, standIns: string, termOf: (name: string) => string): Promise<void> {
  const as = async (name: string) => {
    const client = new Client(address);
    await client.signInAs(name);
    return client;
  };
  const [steward, owner, analyst, head] = [
    await as('Sunniva Dahlmark'),
    await as('Tobias Marrow'),
    await as('Bettina Sark'),
    await as('Jorun Pell'),
  ];
  const people = await steward.ask(peopleEndpoints.people);
  const personId = (name: string) => people.find((person) => person.name === name)?.id ?? '';
  const named = (name: string) => mentionText('person', personId(name), name);
  const found = await head.ask(catalogEndpoints.list, {
    query: { filter: 'kind:table,view,report,dashboard,flow,file,"file set"', limit: 200 },
  });
  const asset = (path: string) => {
    const item = found.items.find((entry) => entry.path === path);
    if (!item) throw new Error(`The demo expects ${path} in the catalog.`);
    return item;
  };
  const idOf = (path: string) => asset(path).id;

  const write = (client: Client, path: string, text: string) =>
    client.ask(guideEndpoints.save, { params: { id: idOf(path) }, version: 0, body: { text } });
  await write(
    owner,
    'booking.passenger',
    `## What one row is

A person who was named in a booking: once for each booking, so a regular guest stands here many times. ${mentionText('term', termOf('Traveller'), 'Traveller')} says whom we count.

## What to look out for

- \`ref_2\` holds the national identifier of Norwegian guests. Nobody should need it: ask ${named('Emrys Strand')} before you do.
- Addresses are as they were typed. About one in forty has no postcode.
- \`created_at\` is when the row was written, not when the person travelled; for that see ${mentionText('asset', idOf('booking.booking_leg'), 'booking.booking_leg')}.

## Questions it answers

| question | how |
| --- | --- |
| How many people travelled? | count legs, not passengers |
| Who travels again? | group by e-mail, where there is one |

\`\`\`sql
select count(distinct email)
from booking.passenger
where email is not null;
\`\`\``,
  );
  await write(
    steward,
    'ref.fare_band',
    `## What one row is

A price, as it was agreed for a timetable. Bands that ended stay: ${mentionText('asset', idOf('booking.booking'), 'booking.booking')} names them for as long as we keep bookings.

## What to look out for

A band that has no last day is in force. There are two of each name when a timetable changes.`,
  );

  const ask = (client: Client, path: string, text: string) =>
    client.ask(discussionEndpoints.begin, { params: { id: idOf(path) }, body: { question: true, text } });
  const children = await ask(analyst, 'booking.passenger', 'Are **children** in it, and can one tell them apart?');
  const answered = await owner.ask(discussionEndpoints.remark, {
    params: { id: children.id },
    body: {
      text: `Yes, by \`date_of_birth\`. Where it is missing they were booked as adults, ${named('Bettina Sark')}.`,
    },
  });
  const answer = answered.remarks.at(-1)?.id;
  await owner.ask(discussionEndpoints.settle, {
    params: { id: children.id },
    version: answered.version,
    body: { settled: true, ...(answer ? { answerId: answer } : {}) },
  });
  await ask(
    analyst,
    'booking.booking',
    'Does the state change when **we** cancel a sailing, or only when the guest does?',
  );

  const link = (path: string, kind: 'document' | 'ticket' | 'query' | 'repository', title: string, url: string) =>
    steward.ask(addressEndpoints.addLink, { params: { id: idOf(path) }, body: { kind, title, url } });
  await link(
    'booking.passenger',
    'document',
    'What the counters ask for',
    `${standIns}/documents/counters/what-we-ask`,
  );
  await link('booking.passenger', 'ticket', 'Two rows for one guest', `${standIns}/documents/tickets/4711`);
  await link('ref.fare_band', 'document', 'Timetable and prices', `${standIns}/documents/fares/timetable`);
  // What links lead to does not always stay.
  await link('booking.passenger', 'document', 'Plan of the old counters', `${standIns}/documents/counters/plan-2019`);

  const tag = async (
    name: string,
    description: string,
    permitted: string[] | null,
    travels: ('copied' | 'transformed')[] = [],
  ) =>
    (
      await steward.ask(tagEndpoints.create, {
        body: { name, description, permitted, kinds: null, groupIds: [], travels },
      })
    ).id;
  // Copies are kept as long as what they are copies of.
  const keptFor = await tag(
    'kept for',
    'How long rows are kept, by the schedule of records.',
    ['3 months', '2 years', '7 years'],
    ['copied', 'transformed'],
  );
  const annual = await tag('annual report', 'Figures of the annual report come from here.', null);
  const give = async (path: string, tags: { id: string; value: string }[]) => {
    const { id } = asset(path);
    const { version } = await steward.ask(catalogEndpoints.get, { params: { id } });
    await steward.ask(curationEndpoints.edit, { params: { id }, version, body: { tags } });
  };
  await give('booking.payment', [
    { id: keptFor, value: '7 years' },
    { id: annual, value: '' },
  ]);
  await give('booking.web_visit', [{ id: keptFor, value: '3 months' }]);
  await give('booking.booking', [
    { id: keptFor, value: '7 years' },
    { id: annual, value: '' },
  ]);
  await steward.ask(searchEndpoints.create, {
    body: { name: 'Figures of the annual report', filter: 'tag:"annual report"', shared: true },
  });

  // What matters most: by facts, and by what is made of it.
  const matters = (name: string, filter: string, priority: number) =>
    head.ask(priorityEndpoints.create, { body: { name, filter, priority, enabled: true } });
  await matters('Figures of the annual report', 'tag:"annual report"', 2);
  await matters('Dashboards of the management', 'kind:dashboard', 2);
  await matters('Asked for most', 'used>=50 kind:table,view', 1);

  // A colleague who is gone and still answers for what nobody else has taken over.
  const gone = await head.ask(manageEndpoints.addPerson, {
    body: {
      name: 'Hedda Brandt',
      email: 'hedda.brandt@tarnholm.example',
      job: 'reports, until September',
      groupIds: [],
      grants: [],
    },
  });
  for (const { id, kind, source } of found.items) {
    if (!['report', 'flow'].includes(kind) && !(kind.startsWith('file') && source === 'Shore store')) continue;
    const { version } = await steward.ask(catalogEndpoints.get, { params: { id } });
    await steward.ask(curationEndpoints.edit, { params: { id }, version, body: { ownerIds: [gone.id] } });
  }
}
