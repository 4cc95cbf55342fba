import { accessEndpoints } from '@idrel/contract/access';
import { catalogEndpoints, searchEndpoints } from '@idrel/contract/catalog';
import {
  curationEndpoints,
  type ManyAction,
  manyEndpoints,
  noticeEndpoints,
  tagEndpoints,
} from '@idrel/contract/curation';
import { termEndpoints } from '@idrel/contract/glossary';
import type { SentBody } from '@idrel/contract/http';
import { domainEndpoints, peopleEndpoints } from '@idrel/contract/people';
import { recognitionEndpoints } from '@idrel/contract/recognition';
import { planEndpoints } from '@idrel/contract/scanning';
import { sourceEndpoints } from '@idrel/contract/sources';
import { discussionEndpoints } from '@idrel/contract/writing';
import { Client } from './client.ts';
import { OFFICES } from './offices.ts';
import { KEEPER, KEPT } from './rights.ts';
import { OFFICE_TAGS, OFFICE_TERMS } from './words.ts';

const OFFICES_ALONE = 'source:"Fleet office","Freight desk"';

/** Schemas of the offices that belong to other domains than their sources. */
const LIES_IN: readonly (readonly [filter: string, domain: string])[] = [
  ['name:maintenance,spares,docking kind:schema', 'Maintenance'],
  ['name:invoicing,ledger,budget kind:schema', 'Finance'],
];

/** Who answers for what in the offices; the rest has nobody yet. */
const OWNED: readonly (readonly [filter: string, owner: string])[] = [
  ['under:safety kind:table', 'Crewing office'],
  ['under:maintenance,spares,docking kind:table', 'Rafe Quillon'],
  ['under:freight,invoicing,ledger kind:table', 'Jorun Pell'],
  ['under:navigation kind:table', 'Rafe Quillon'],
];

/** Descriptions after a template, as somebody wrote them in an afternoon. */
const DESCRIBED: readonly (readonly [filter: string, text: string])[] = [
  ['name:*_reading kind:table', 'Readings in {in}: one row for each gauge and time, as the gauge sent it.'],
  [
    'name:*_document kind:table under:ledger,invoicing,docking',
    'Papers of {in}; the file itself lies in the paper store.',
  ],
  ['name:*_history kind:table', 'What was changed, and by whom or by which program. Nothing is taken away here.'],
  ['name:work_order*,part*,supplier* kind:table', '{name}: kept by the technical office.'],
  ['name:invoice*,journal_line*,ledger_account*,consignment* kind:table', '{name}: kept by the freight desk.'],
  ['name:cost_centre kind:column', 'The cost centre that pays.'],
  ['name:entered_at,changed_at,written_at kind:column', 'When the row was written, in UTC.'],
  ['name:entered_by kind:column', 'Initials of whoever typed it.'],
];

/** Columns that carry a term. */
const MEANT: readonly (readonly [filter: string, term: string])[] = [
  ['name:cost_centre kind:column', 'Cost centre'],
  ['name:ledger_account kind:column', 'Ledger account'],
  ['name:net_amount kind:column', 'Net amount'],
  ['name:gross_amount kind:column', 'Gross amount'],
  ['name:tax_rate kind:column', 'Tax rate'],
  ['name:severity kind:column', 'Severity'],
  ['name:vessel_id kind:column source:"Fleet office"', 'Vessel'],
  ['name:work_order* kind:table', 'Work order'],
  ['name:consignment* kind:table', 'Consignment'],
];

/** What people decided about findings in the offices: of each class the first ones still wait. */
const SETTLED: readonly (readonly [
  classKey: string,
  column: string,
  decision: 'confirmed' | 'dismissed',
  waiting: number,
  reason: string,
])[] = [
  ['currency', 'currency', 'confirmed', 8, ''],
  ['vehicle-plate', 'depends_on_no', 'dismissed', 3, 'Numbers of work orders.'],
  ['person-name', 'season', 'dismissed', 4, 'Seasons, not people.'],
];

async function settle(head: Client): Promise<void> {
  const { items } = await head.ask(recognitionEndpoints.findings, { query: { state: 'to-settle', limit: 500 } });
  for (const [classKey, column, decision, waiting, reason] of SETTLED) {
    const found = items
      .filter((finding) => finding.classKey === classKey && finding.path.endsWith(`.${column}`))
      .sort((a, b) => (a.path < b.path ? -1 : 1));
    if (found.length <= waiting) throw new Error(`The demo expects ${classKey} in columns called ${column}.`);
    await head.ask(recognitionEndpoints.decide, {
      body: { decisions: found.slice(waiting).map(({ assetId }) => ({ assetId, classKey, decision, reason })) },
    });
  }
}

/** Changes all that a filter finds, and waits until it is done. */
export async function changeMany(person: Client, filter: string, action: ManyAction): Promise<void> {
  const prepared = await person.ask(manyEndpoints.prepare, { body: { choice: { filter }, action } });
  if (prepared.changes === 0) throw new Error(`The demo expects something where ${filter}.`);
  await person.ask(manyEndpoints.start, { params: { id: prepared.id } });
  for (;;) {
    const { state } = await person.ask(manyEndpoints.one, { params: { id: prepared.id } });
    if (state === 'done') return;
    if (!['prepared', 'waiting', 'running'].includes(state))
      throw new Error(`A change of many assets ended as ${state}.`);
    await new Promise((resolve) => setTimeout(resolve, 60));
  }
}

/** Registers and scans the offices ashore, and does there what people did in three months: owners, texts, terms, tags, notices, questions, policies. */
export async function liveInOffices(
  address: string,
  database: { readonly host: string; readonly port: number },
  credentialId: string,
  keeperPassword: string,
): Promise<void> {
  const engineer = new Client(address);
  await engineer.signInAs('Rafe Quillon');
  const domains = await engineer.ask(domainEndpoints.all);
  const runs: string[] = [];
  for (const { database: name, name: called, domain, description } of OFFICES) {
    const source = await engineer.ask(sourceEndpoints.register, {
      body: {
        name: called,
        kind: 'postgresql',
        address: { ...database, database: name },
        domainId: domains.find((one) => one.name === domain)?.id ?? '',
        credentialId,
        description,
      },
    });
    const plan = await engineer.ask(planEndpoints.add, {
      params: { id: source.id },
      body: {
        name: 'Nightly',
        scope: { cover: 'everything', exclude: ['public'] },
        schedule: { rhythm: { on: 'daily' }, time: '01:30', timeZone: 'Europe/Oslo' },
      },
    });
    runs.push((await engineer.ask(planEndpoints.run, { params: { id: plan.id } })).id);
    if (KEPT[name]) {
      const keeper = await engineer.ask(sourceEndpoints.addCredential, {
        body: { name: 'Policy keeper', username: KEEPER, password: keeperPassword },
      });
      await engineer.ask(accessEndpoints.changeEnforcement, {
        params: { id: source.id },
        version: 0,
        body: { credentialId: keeper.id },
      });
    }
  }
  for (const run of runs) await engineer.runEnds(run);

  const head = new Client(address);
  await head.signInAs('Jorun Pell');
  const people = await head.ask(peopleEndpoints.people);
  const personId = (name: string) => people.find((person) => person.name === name)?.id ?? '';
  const many = (filter: string, action: ManyAction) => changeMany(head, `${filter} ${OFFICES_ALONE}`, action);
  for (const [filter, domain] of LIES_IN)
    await many(filter, { kind: 'domain', id: domains.find((one) => one.name === domain)?.id ?? '' });
  const groups = await head.ask(peopleEndpoints.groups);
  const partyId = (name: string) => groups.find((group) => group.name === name)?.id ?? personId(name);
  for (const [filter, owner] of OWNED) await many(filter, { kind: 'owner', id: partyId(owner) });
  await many('under:ledger,invoicing kind:table', { kind: 'steward', id: personId('Sunniva Dahlmark') });
  for (const [filter, text] of DESCRIBED) await many(filter, { kind: 'description', text });

  const known = await head.ask(termEndpoints.list, { query: { limit: 200 } });
  const terms = new Map(known.items.map(({ name, id }) => [name, id]));
  for (const [name, others, definition, broader] of OFFICE_TERMS) {
    const made = await head.ask(termEndpoints.create, {
      body: {
        name,
        definition,
        labels: others.map((text) => ({ kind: 'alternative' as const, language: 'en', text })),
        status: 'agreed',
        ownerId: personId('Jorun Pell'),
        broaderIds: broader ? [terms.get(broader) ?? ''] : [],
      },
    });
    terms.set(name, made.id);
  }
  for (const [filter, term] of MEANT) await many(filter, { kind: 'term', id: terms.get(term) ?? '' });
  for (const [name, description, permitted, filter, value] of OFFICE_TAGS) {
    const tag = await head.ask(tagEndpoints.create, {
      body: { name, description, permitted: permitted && [...permitted], kinds: null, groupIds: [] },
    });
    await many(filter, { kind: 'tag', id: tag.id, value });
  }
  await many('under:ledger kind:table', { kind: 'standing', standing: 'reviewed' });
  await settle(head);

  const idOf = async (path: string, where = OFFICES_ALONE): Promise<string> => {
    const { items } = await head.ask(catalogEndpoints.list, {
      query: { filter: `path:${path} kind:table,schema,column ${where}`, limit: 2 },
    });
    const [asset] = items;
    if (!asset) throw new Error(`The demo expects ${path} in the catalog.`);
    return asset.id;
  };
  const idsOf = (...paths: string[]) => Promise.all(paths.map((path) => idOf(path)));
  const inCrewing = (...paths: string[]) => Promise.all(paths.map((path) => idOf(path, 'source:Crewing')));
  const notice = async (path: string, kind: 'note' | 'caution' | 'stop', text: string) =>
    head.ask(noticeEndpoints.create, {
      params: { id: await idOf(path) },
      body: { kind, text, starts: new Date().toISOString().slice(0, 10), ends: null },
    });
  await notice(
    'spares.stock_take',
    'stop',
    'Moved to the new maintenance program in October: nothing is written here any more.',
  );
  await notice(
    'maintenance.main_engine_reading',
    'caution',
    'The hours of the second engine were reset when it was exchanged.',
  );
  await notice('invoicing.price_list', 'note', 'Prices of the new year come in December.');
  await notice('ledger.bank_statement', 'note', 'Statements of the old bank end in August.');
  for (const [path, client, text] of [
    [
      'freight.consignment',
      'Maud Ilkley',
      'Does a consignment that is split over two sailings stand here once or twice?',
    ],
    ['invoicing.invoice', 'Maud Ilkley', 'Which date decides on the period: **opened_on** or the one of the lines?'],
    ['maintenance.work_order', 'Emrys Strand', 'Who are the initials in `entered_by`? Are they needed after a year?'],
  ] as const) {
    const person = new Client(address);
    await person.signInAs(client);
    await person.ask(discussionEndpoints.begin, { params: { id: await idOf(path) }, body: { question: true, text } });
  }

  // Who may read the offices at all, and what is kept from most.
  const groupIds = (name: string) => groups.filter((group) => group.name === name).map(({ id }) => id);
  const policy = (body: SentBody<typeof accessEndpoints.create>) => head.ask(accessEndpoints.create, { body });
  await policy({
    name: 'Engineers read the fleet office',
    effect: 'allow',
    groupIds: groupIds('Data engineering'),
    passesOn: true,
    assetIds: await idsOf('maintenance', 'spares', 'docking', 'bunkering', 'navigation'),
  });
  await policy({
    name: 'Onboard analysts read freight',
    effect: 'allow',
    groupIds: groupIds('Onboard analysts'),
    assetIds: await idsOf('freight', 'depot', 'invoicing'),
  });
  await policy({
    name: 'Onboard analysts are shown contracts',
    effect: 'allow',
    opens: 'preview',
    groupIds: groupIds('Onboard analysts'),
    assetIds: await idsOf('contracts'),
  });
  await policy({
    name: 'Fares analysts know of the quotes of freight',
    effect: 'allow',
    opens: 'see',
    groupIds: groupIds('Fares analysts'),
    assetIds: await idsOf('freight.quote', 'freight.quote_line'),
  });
  await policy({
    name: 'Codes of freight are shown in part',
    effect: 'protect',
    everyone: true,
    assetIds: await idsOf('freight'),
    columns: ['code'],
    mask: { kind: 'partial', first: 3, last: 0 },
  });
  await policy({
    name: 'Tenders are read by nobody before they close',
    effect: 'deny',
    everyone: true,
    assetIds: await idsOf('contracts.tender', 'contracts.tender_line', 'docking.yard_quote'),
  });

  await policy({
    name: 'The crewing office reads the crew',
    effect: 'allow',
    groupIds: groupIds('Crewing office'),
    assetIds: await inCrewing('crew_member', 'roster', 'rest_hours', 'certificate'),
  });
  await policy({
    name: 'Where the crew is reached is shown in part',
    effect: 'protect',
    everyone: true,
    assetIds: await inCrewing('crew_member.email', 'crew_member.mobile'),
    mask: { kind: 'partial', first: 1, last: 0 },
  });
  await policy({
    name: 'Birthdays of the crew are told as an age',
    effect: 'protect',
    everyone: true,
    assetIds: await inCrewing('crew_member.born'),
    mask: { kind: 'general', to: 'age', step: 10 },
  });
  await policy({
    name: 'Privacy reads audit trails, for an audit',
    effect: 'allow',
    groupIds: groupIds('Privacy'),
    filter: 'tag:"audit trail" kind:table',
    purposes: ['Audit'],
  });
  await policy({
    name: 'Numbers of the crew stay equal, and are not told',
    effect: 'protect',
    everyone: true,
    assetIds: await inCrewing('crew_member.fodselsnummer'),
    mask: { kind: 'digest', keyed: 'installation' },
  });
  const visits = [await idOf('booking.web_visit', 'source:"Booking system"')];
  await policy({
    name: 'Fares analysts read what is visited of the web shop',
    effect: 'allow',
    groupIds: groupIds('Fares analysts'),
    assetIds: visits,
    columns: ['device', 'page', 'at'],
  });
  await policy({
    name: 'Visits of the web shop are told of ten travellers together',
    effect: 'protect',
    everyone: true,
    exceptGroupIds: groupIds('Privacy'),
    assetIds: visits,
    rows: { column: 'passenger_id', values: [], attribute: null, through: null, least: 10 },
  });

  const rafe = new Client(address);
  await rafe.signInAs('Rafe Quillon');
  await rafe.ask(accessEndpoints.give, {
    params: { id: await idOf('maintenance.work_order') },
    body: {
      personIds: people.filter(({ name }) => name === 'Emrys Strand').map(({ id }) => id),
      columns: ['code', 'entered_by', 'entered_at'],
    },
  });

  await sayWhoComesIn(head, people, groups);

  await head.ask(searchEndpoints.create, {
    body: { name: 'Freight without an owner', filter: 'source:"Freight desk" kind:table owner:none', shared: true },
  });
  await head.ask(searchEndpoints.create, {
    body: { name: 'Goes to the new program', filter: 'tag:"to be moved"', shared: true },
  });
  const retired = await idOf('spares.stock_take');
  const { version } = await head.ask(catalogEndpoints.get, { params: { id: retired } });
  await head.ask(curationEndpoints.edit, {
    params: { id: retired },
    version,
    body: { standing: 'retiring' },
  });
}

/** Who comes in at the sources as which role, as far as people have said it yet; a program is nobody. */
const COMES_IN: Record<string, Readonly<Record<string, string | null>>> = {
  'Booking system': { web_shop: null, call_centre: null, fares_desk: 'Fares analysts' },
  'Fleet office': { technical_office: null },
  'Freight desk': { freight_desk: null, accounts: null, maud_ilkley: 'Maud Ilkley' },
};

async function sayWhoComesIn(
  head: Client,
  people: readonly { readonly id: string; readonly name: string }[],
  groups: readonly { readonly id: string; readonly name: string }[],
): Promise<void> {
  for (const { id, name } of await head.ask(sourceEndpoints.list)) {
    for (const [role, who] of Object.entries(COMES_IN[name] ?? {})) {
      const ids = (list: typeof people) => list.filter((one) => one.name === who).map((one) => one.id);
      await head.ask(accessEndpoints.match, {
        params: { id },
        version: 0,
        body: { role, personIds: ids(people), groupIds: ids(groups), program: who === null },
      });
    }
  }
  const { items } = await head.ask(accessEndpoints.bypasses, { query: {} });
  for (const { sourceId, how, holder, through, schema } of items.filter((item) => item.how === 'superuser'))
    await head.ask(accessEndpoints.accept, {
      body: {
        sourceId,
        how,
        holder,
        through,
        schema,
        reason: 'Runs the databases. Its password lies in the safe, and each use is written down.',
        until: null,
      },
    });
}
