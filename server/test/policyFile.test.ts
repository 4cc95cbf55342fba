import type { PolicyFilePlan } from '@idrel/contract/access';
import { fromOdrl, type PolicyInFile, plainly, toOdrl } from '@idrel/core/access';
import fc from 'fast-check';
import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import { listPolicies } from '../src/access/policies.ts';
import { exportPolicies, importPolicies } from '../src/access/policyFile.ts';
import { expandJsonLd } from '../src/platform/jsonld.ts';
import { addPolicy, personWith, refused } from './place.ts';
import { day, salesPlace } from './sales.ts';

let place: Awaited<ReturnType<typeof salesPlace>>;
beforeEach(async () => {
  place = await salesPlace();
});
afterEach(() => place.drop());

const textOf = async (format: 'yaml' | 'odrl', who = place.petra) =>
  Buffer.from((await exportPolicies(place.db, who, format)).content, 'base64').toString();
const take = (
  text: string,
  {
    preview = false,
    name = 'policies.yaml',
    who = place.petra,
    ...more
  }: {
    preview?: boolean;
    name?: string;
    who?: typeof place.petra;
    leave?: string[];
    removeAbsent?: boolean;
    seen?: string;
  } = {},
): Promise<PolicyFilePlan> =>
  importPolicies(
    place.db,
    who,
    { name, content: Buffer.from(text).toString('base64'), leave: [], removeAbsent: false, ...more },
    preview,
  );
const file = (...policies: string[]) => `format: idrel-policies/1\npolicies:\n${policies.join('\n')}\n`;
const READS = `  - name: Olav reads guests
    effect: allow
    for: { people: [olav@example.org] }
    on: { assets: ["Test source/sales/guest"] }`;
const BLANK = `  - name: Mails are blank
    effect: protect
    for: { everyone: true }
    on: { assets: ["Test source/sales/guest"], columns: [email] }
    mask: { kind: blank }`;

describe('policies as a file', () => {
  it('are planned with what would change for whom, applied, and then the same', async () => {
    const { petra, olav } = place;
    const plan = await take(file(READS, BLANK), { preview: true });
    expect(plan).toMatchObject({
      fresh: [
        { at: 'line 3', name: 'Olav reads guests', effect: 'allow' },
        { at: 'line 7', name: 'Mails are blank', effect: 'protect' },
      ],
      changed: [],
      flaws: [],
      written: false,
      reach: { people: 1, tables: 1, columns: 3, gains: 3, losses: 0, masked: 1 },
    });
    expect(
      plan.reach.rows.map(({ person, column, before, after }) => `${person} ${column}: ${before} → ${after}`).sort(),
    ).toEqual(['Olav email: refused → masked', 'Olav guest_id: refused → plain', 'Olav port: refused → plain']);
    // A plan writes nothing.
    expect(await listPolicies(place.db, petra)).toEqual([]);
    expect(await take(file(READS, BLANK), { seen: plan.seen })).toMatchObject({ written: true });
    expect(await place.reads(olav, 'guest')).toEqual({ guest_id: 'plain', email: 'masked', port: 'plain' });

    const whole = await textOf('yaml');
    expect(whole).toContain('- name: Olav reads guests');
    expect(await take(whole, { preview: true, removeAbsent: true })).toMatchObject({
      fresh: [],
      changed: [],
      same: 2,
      absent: [],
      removed: 0,
      reach: { people: 0 },
    });
    expect(await take(await textOf('odrl'), { preview: true, name: 'policies.jsonld' })).toMatchObject({
      same: 2,
      changed: [],
      flaws: [],
    });
  });

  it('let be seen, which is planned with who comes to see what, and goes out and comes in as it was said', async () => {
    const SEES = `  - name: Sten sees guests
    effect: allow
    opens: see
    for: { people: [sten@example.org] }
    on: { assets: ["Test source/sales/guest"] }`;
    const plan = await take(file(SEES), { preview: true });
    expect(plan).toMatchObject({ flaws: [], reach: { people: 0, sight: { gains: 1, losses: 0, assets: 4 } } });
    expect(plan.reach.sight.rows).toMatchObject([{ person: 'Sten', path: 'sales.guest', comes: true }]);
    expect(await take(file(SEES), { seen: plan.seen })).toMatchObject({ written: true });
    for (const [name, text] of [
      ['policies.yaml', await textOf('yaml')],
      ['policies.jsonld', await textOf('odrl')],
    ] as const)
      expect([name, await take(text, { preview: true, name })]).toMatchObject([
        name,
        { same: 1, changed: [], flaws: [], reach: { sight: { rows: [] } } },
      ]);
    const flawed = await take(file(`${SEES}\n    purposes: [audit]`), { preview: true });
    expect(flawed.flaws).toMatchObject([{ what: expect.stringContaining('no purpose') }]);
    expect(await take(file(SEES.replace('see\n', 'read\n')), { preview: true })).toMatchObject({
      reach: { gains: 3, sight: { gains: 0, losses: 1 } },
    });
  });

  it('change what is otherwise, and remove what is not there where that is said', async () => {
    await take(file(READS, BLANK));
    const other = file(READS.replace('olav@', 'rune@'));
    const plan = await take(other, { preview: true, removeAbsent: true });
    expect(plan).toMatchObject({
      fresh: [],
      changed: [
        {
          name: 'Olav reads guests',
          fields: [{ field: 'for', before: 'people: olav@example.org', after: 'people: rune@example.org' }],
        },
      ],
      absent: ['Mails are blank'],
      removed: 1,
      reach: { people: 2, gains: 3, losses: 3, masked: 0 },
    });
    // Left out, it stays.
    await take(other);
    expect((await listPolicies(place.db, place.petra)).map(({ name }) => name)).toEqual([
      'Mails are blank',
      'Olav reads guests',
    ]);
    // What was seen is not what would come of it now.
    expect(await refused(take(other, { seen: plan.seen, removeAbsent: true }))).toMatchObject({
      status: 409,
      code: 'differs-now',
    });
    await take(other, { removeAbsent: true });
    expect((await listPolicies(place.db, place.petra)).map(({ name }) => name)).toEqual(['Olav reads guests']);
    const journal = await place.db.rows<{ action: string }>(
      "select action from journal where subject_kind = 'policy' order by id",
    );
    expect(journal.map(({ action }) => action)).toEqual(['created', 'created', 'edited', 'removed']);
  });

  it('say what is wrong, where, and what mends it; the rest can be taken', async () => {
    const flawsOf = async (text: string, name?: string) =>
      (await take(text, { preview: true, ...(name ? { name } : {}) })).flaws.map(({ at, what }) => `${at}: ${what}`);
    expect(await flawsOf('policies: [')).toEqual([expect.stringMatching(/^line 1: The file is no YAML/)]);
    expect(await flawsOf('policies: []')).toEqual(['line 1: The file does not say its format.']);
    expect(await flawsOf('format: idrel-policies/9\npolicies: []')).toEqual([
      'line 1: The file is of the format idrel-policies/9.',
    ]);
    expect(await flawsOf(`${file(READS)}extra: 1\n`)).toEqual([
      'line 7: “extra” is nothing that a file of policies says.',
    ]);
    const wrong = file(
      READS,
      READS,
      `  - name: Nobody
    effect: allow
    for: { groups: [No such group], people: [nobody@example.org] }
    on: { assets: ["Test source/sales/nothing"] }`,
      `  - name: Half
    effect: protect
    for: { everyone: true }
    on: { classes: [email] }`,
      `  - name: Unknown word
    effect: permit
    for: { everyone: true }
    on: { assets: ["Test source/sales"] }
    colour: green`,
    );
    expect(await flawsOf(wrong)).toEqual([
      'line 7: “Olav reads guests” is in the file already (line 3).',
      'line 19: effect does not fit: effect must be one of [allow, protect, deny].',
      'line 19: colour does not fit: colour is not allowed.',
      'line 11: “Nobody”: Nothing is called so here: group “No such group”, person “nobody@example.org”, asset “Test source/sales/nothing”.',
      expect.stringMatching(/^line 15: “Half”: The policy does not say how values are masked or rows limited/),
    ]);
    expect(
      await flawsOf(
        file(`  - name: Both ways
    effect: protect
    for: { everyone: true }
    on: { assets: ["Test source/sales/guest"], columns: [email], allBut: [port] }
    mask: { kind: blank }`),
      ),
    ).toEqual([expect.stringContaining('both which columns it is about and which it is not')]);
    // What cannot be read may be what seems not to be there: nothing is removed by such a file.
    await addPolicy(place.db, { name: 'Half', assetIds: [place.id('sales')], everyone: true });
    expect(await take(wrong, { removeAbsent: true })).toMatchObject({
      fresh: [{ name: 'Olav reads guests' }],
      removed: 0,
      written: true,
    });
    expect((await listPolicies(place.db, place.petra)).map(({ name }) => name)).toEqual(['Half', 'Olav reads guests']);
    // A few lines that would stand for a million.
    const bomb = `format: idrel-policies/1\nx: &a [1,1,1,1,1,1,1,1,1,1]\npolicies: [${'*a, '.repeat(20)}*a]`;
    expect(await flawsOf(bomb)).toEqual([expect.stringContaining('“x” is nothing')]);
    expect(await refused(take('x', { name: 'policies.txt', preview: true }))).toMatchObject({ status: 422 });
  });

  it('hold what somebody may change, and change nothing else', async () => {
    const { db, id, elsewhere, rune } = place;
    await addPolicy(db, { name: 'All read sales', assetIds: [id('sales')], everyone: true });
    const crew = await personWith(db, 'Crew officer', 'policy administrator', elsewhere);
    expect(await textOf('yaml', crew)).toContain('policies: []');
    const stolen = file(READS.replace('Olav reads guests', 'All read sales'));
    // The name is taken; that it lies in a domain of others is not told.
    const plan = await take(stolen, { who: crew, preview: true });
    expect(plan.flaws.map(({ what }) => what)).toEqual([expect.stringContaining('asset “Test source/sales/guest”')]);
    expect(plan.fresh).toEqual([]);
    expect(await refused(take(stolen, { who: rune, preview: true }))).toMatchObject({ status: 403 });
  });
});

/** Whatever a policy can say. */
const policy = fc.record(
  {
    name: fc.string({ minLength: 1, maxLength: 30 }).map((name) => `P ${name.trim()}`),
    effect: fc.constantFrom('allow', 'deny', 'protect'),
    enabled: fc.boolean(),
    for: fc.record({
      everyone: fc.boolean(),
      groups: fc.uniqueArray(fc.string({ minLength: 1, maxLength: 8 }), { maxLength: 2 }),
      people: fc.uniqueArray(fc.emailAddress(), { minLength: 1, maxLength: 2 }),
      exceptGroups: fc.uniqueArray(fc.string({ minLength: 1, maxLength: 8 }), { maxLength: 2 }),
    }),
    on: fc.record(
      {
        assets: fc.uniqueArray(fc.constantFrom('A/b/c', 'Ö source/x%2Fy', 'a'), { maxLength: 3 }),
        classes: fc.uniqueArray(fc.constantFrom('email', 'iban'), { maxLength: 2 }),
        filter: fc.constantFrom('tag:open', 'level>=guarded or name:"a b"'),
        columns: fc.uniqueArray(fc.string({ minLength: 1, maxLength: 5 }), { maxLength: 2 }),
        carried: fc.boolean(),
      },
      { requiredKeys: ['assets'] },
    ),
    mask: fc.constantFrom(
      { kind: 'partial', first: 1, last: 0 } as const,
      { kind: 'general', to: 'age', step: 10 } as const,
    ),
    rows: fc.constantFrom(
      { column: 'port', values: ['a', 'b'] },
      { column: 'x', through: { table: 'A/b', column: 'c', reader: 'r', by: 'email' } },
      { column: 'x', least: 7 },
    ),
    until: fc.constant(day(3)),
    hours: fc.constant({ days: [1, 2], from: '08:00', to: '17:00', zone: 'Europe/Oslo' }),
    purposes: fc.uniqueArray(fc.string({ minLength: 1, maxLength: 8 }), { maxLength: 2 }),
    opens: fc.constantFrom('read', 'preview', 'see'),
    passesOn: fc.boolean(),
  },
  { requiredKeys: ['name', 'effect', 'for', 'on'] },
);

it('a policy put down in ODRL is the same when it is read again', async () => {
  await fc.assert(
    fc.asyncProperty(policy, async ({ mask, rows, opens, passesOn, ...said }) => {
      // Only what protects masks values or limits rows; only what allows opens something, and is given on.
      const one = {
        ...said,
        ...(said.effect === 'protect' ? { ...(mask ? { mask } : {}), ...(rows ? { rows } : {}) } : {}),
        ...(said.effect === 'allow' ? { ...(opens ? { opens } : {}), ...(passesOn ? { passesOn } : {}) } : {}),
      } as PolicyInFile;
      const { entries, flaws } = fromOdrl(await expandJsonLd(toOdrl([one])));
      expect(flaws).toEqual([]);
      expect(plainly(entries[0]?.policy as PolicyInFile)).toEqual(plainly(one));
    }),
    { numRuns: 60 },
  );
});

it('ODRL of others is read as far as it can be meant here, and the rest is told', async () => {
  const set = (rule: object, kind = 'permission') => ({
    '@context': { odrl: 'http://www.w3.org/ns/odrl/2/', dct: 'http://purl.org/dc/terms/' },
    '@type': 'odrl:Set',
    'dct:title': 'From elsewhere',
    [`odrl:${kind}`]: rule,
  });
  const read = async (json: object) => {
    const { entries, flaws } = fromOdrl(await expandJsonLd(JSON.stringify(json)));
    return entries.length > 0 ? plainly(entries[0]?.policy as PolicyInFile) : flaws.map(({ what }) => what);
  };
  const rule = {
    'odrl:assignee': { '@id': 'mailto:a@b.org' },
    'odrl:target': { '@id': 'urn:idrel:asset:A%2Fb' },
    'odrl:action': { '@id': 'odrl:use' },
  };
  expect(await read(set(rule))).toEqual({
    name: 'From elsewhere',
    effect: 'allow',
    for: { people: ['a@b.org'] },
    on: { assets: ['A/b'] },
  });
  expect(await read(set(rule, 'prohibition'))).toMatchObject({ effect: 'deny' });
  expect(await read(set({ ...rule, 'odrl:action': { '@id': 'odrl:print' } }))).toEqual([
    expect.stringContaining('its action is http://www.w3.org/ns/odrl/2/print'),
  ]);
  const acts = (...actions: string[]) =>
    read(set({ ...rule, 'odrl:action': actions.map((action) => ({ '@id': action })) }));
  expect(await acts('odrl:read', 'odrl:grantUse')).toMatchObject({ passesOn: true });
  expect(await acts('urn:idrel:odrl:preview')).toMatchObject({ opens: 'preview' });
  expect(await acts('urn:idrel:odrl:see')).toMatchObject({ opens: 'see' });
  // Of two, neither is passed over.
  for (const more of ['odrl:print', 'odrl:use', 'urn:idrel:odrl:preview'])
    expect([more, await acts('odrl:read', more)]).toEqual([more, [expect.stringContaining(' and ')]]);
  expect(await acts('odrl:grantUse')).toEqual([expect.stringContaining('its action is not said')]);
  expect(await read(set({ ...rule, 'odrl:assignee': { '@id': 'http://people.example/1' } }))).toEqual([
    expect.stringContaining('is nobody that is known here'),
  ]);
  expect(
    await read(
      set({
        ...rule,
        'odrl:constraint': {
          'odrl:leftOperand': { '@id': 'odrl:spatial' },
          'odrl:operator': { '@id': 'odrl:eq' },
          'odrl:rightOperand': 'NO',
        },
      }),
    ),
  ).toEqual([expect.stringContaining('a constraint by http://www.w3.org/ns/odrl/2/spatial eq')]);
  const target = (...targets: object[]) => read(set({ ...rule, 'odrl:target': targets }));
  // Less would be said of it than it says, and more be opened.
  expect(await target({ '@id': 'http://elsewhere.example/a' }, { '@id': 'urn:idrel:asset:A' })).toEqual([
    expect.stringContaining('http://elsewhere.example/a is nothing that is known here'),
  ]);
  expect(
    await target(
      { '@id': 'urn:idrel:asset:A' },
      { 'odrl:refinement': [], 'odrl:source': { '@id': 'urn:idrel:asset:B' } },
    ),
  ).toEqual([expect.stringContaining('refined in different ways')]);
  expect(await target({ '@id': 'urn:idrel:asset:%E0%A4%A' })).toEqual([expect.stringContaining('cannot be read')]);
  expect(await target()).toEqual([expect.stringContaining('it is about nothing')]);
  expect(await read({ ...set(rule), 'odrl:inheritFrom': { '@id': 'urn:other' } })).toEqual([
    expect.stringContaining('the set says http://www.w3.org/ns/odrl/2/inheritFrom'),
  ]);
  const purpose = (text: string) => ({
    'odrl:leftOperand': { '@id': 'odrl:purpose' },
    'odrl:operator': { '@id': 'odrl:eq' },
    'odrl:rightOperand': text,
  });
  expect(await read(set({ ...rule, 'odrl:constraint': [purpose('a')] }))).toMatchObject({ purposes: ['a'] });
  expect(await read(set({ ...rule, 'odrl:constraint': [purpose('a'), purpose('b')] }))).toEqual([
    expect.stringContaining('two constraints of one kind'),
  ]);
  expect(await read({ '@context': {}, '@id': 'x' })).toEqual(['There is no policy of ODRL in it.']);
});
