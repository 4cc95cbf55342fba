import type { WebDriver } from 'selenium-webdriver';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { openBrowser, PATIENCE, Person } from './browser.ts';

let driver: WebDriver;
let other: WebDriver;
let administrator: Person;
let colleague: Person;

beforeAll(async () => {
  [driver, other] = await Promise.all([openBrowser(), openBrowser()]);
  administrator = new Person(driver);
  colleague = new Person(other);
  await administrator.signInAs('Jorun Pell');
  await colleague.signInAs('Jorun Pell');
});
afterAll(() => Promise.all([driver?.quit(), other?.quit()]));

type Held = Record<string, unknown> & { id: string; version: number };
const mark = `of ${process.pid}`;
const policy = {
  effect: 'allow',
  everyone: true,
  groupIds: [],
  personIds: [],
  exceptGroupIds: [],
  assetIds: [],
  classKeys: ['email'],
  carried: false,
  columns: null,
  mask: null,
  rows: null,
  enabled: false,
};
const plan = {
  scope: { cover: 'everything', chosen: [], include: [], exclude: [] },
  options: {
    sample: true,
    rows: 500,
    method: 'random',
    detectorSetId: null,
    profile: true,
    onlyChanged: false,
    minutes: null,
    retries: 0,
    memoryMb: null,
    fileKinds: null,
  },
  schedule: null,
  enabled: true,
};
const certainty = {
  classKeys: ['email'],
  checked: true,
  named: true,
  minShare: 1,
  minConfidence: 0.999,
  minDistinct: 100_000,
};
const set = { description: '', leavesOut: [], fileKinds: null, sampling: null };
const levelRule = { classKeys: ['iban', 'imei'], level: 4, kinds: null };
const classBody = { theme: 'own', level: 1, meaning: '', legalBasis: '', synonyms: [], parentKey: null };

interface Form {
  /** Makes one. @returns where it lies in the API */
  readonly make: () => Promise<string>;
  readonly list: string;
  readonly body: object;
  readonly method: 'PUT' | 'PATCH';
  /** Where its form opens, by its id. */
  readonly page: (id: string) => string;
  readonly open?: () => Promise<void>;
  readonly field?: string;
  readonly said?: string;
}
const made = (path: string, body: object) => async () => {
  const answer = await colleague.send<{ id?: string; key?: string }>('POST', path, body);
  return answer.id ?? answer.key ?? '';
};
/** Every form in which two people can change the same thing, by a text that each has. */
const FORMS: Record<string, Form> = {
  term: {
    make: made('/terms', { name: `Term ${mark}` }),
    list: '/terms',
    body: {},
    method: 'PATCH',
    page: (id) => `/glossary?term=${id}`,
  },
  policy: {
    make: made('/policies', { ...policy, name: `Policy ${mark}` }),
    list: '/policies',
    body: policy,
    method: 'PUT',
    page: (id) => `/access?edit=${id}`,
  },
  routine: {
    make: made('/routines', {
      name: `Routine ${mark}`,
      filter: 'kind:table owner:none',
      steps: [{ do: 'act', action: { kind: 'standing', standing: 'reviewed' } }],
    }),
    list: '/routines',
    body: {
      filter: 'kind:table owner:none',
      steps: [{ do: 'act', action: { kind: 'standing', standing: 'reviewed' } }],
    },
    method: 'PUT',
    page: (id) => `/routines?routine=${id}`,
  },
  'rule of levels': {
    make: made('/level-rules', { ...levelRule, name: `Level rule ${mark}` }),
    list: '/level-rules',
    body: levelRule,
    method: 'PUT',
    page: (id) => `/recognition?show=levels&rule=${id}`,
  },
  'rule of certainty': {
    make: made('/certainty/rules', { ...certainty, name: `Certainty rule ${mark}` }),
    list: '/certainty/rules',
    body: certainty,
    method: 'PUT',
    page: (id) => `/recognition?show=certainty&rule=${id}`,
  },
  'detector set': {
    make: made('/detector-sets', { ...set, name: `Set ${mark}` }),
    list: '/detector-sets',
    body: set,
    method: 'PUT',
    page: (id) => `/recognition?show=sets&set=${id}`,
  },
  class: {
    make: made('/classes', { ...classBody, label: `Class ${mark}` }),
    list: '/classes',
    body: classBody,
    method: 'PUT',
    page: (id) => `/recognition?show=classes&class=${id}`,
    open: () => administrator.press('Edit'),
    said: 'label',
  },
};

/** Changes a thing by the API, upon its newest version, as somebody else would. */
async function change(form: Form, id: string, text: string): Promise<void> {
  const found = await held(form, id);
  await colleague.send(form.method, `${form.list}/${id}`, { ...form.body, [form.said ?? 'name']: text }, found.version);
}
async function held(form: Form, id: string): Promise<Held> {
  // Of terms there may be thousands: one is asked for.
  if (form.list === '/terms') return colleague.call<Held>(`/terms/${id}`);
  const answer = await colleague.call<Held[] | { rules: Held[] }>(
    form.list === '/certainty/rules' ? '/certainty' : form.list,
  );
  const list = Array.isArray(answer) ? answer : answer.rules;
  const found = list.find((entry) => entry.id === id || entry.key === id);
  if (!found) throw new Error(`${id} is not in ${form.list}`);
  return found;
}
const textOf = async (form: Form, id: string) => (await held(form, id))[form.said ?? 'name'];

it('takes every letter, however many are typed without a pause', async () => {
  await administrator.goTo('/sources/new');
  await administrator.choose('Kind', 'Folder of files');
  const long = Array.from({ length: 180 }, (_, at) => String.fromCharCode(97 + (at % 26))).join('');
  for (const field of ['Name', 'Folder', 'Description']) await administrator.fill(field, `/${field}/${long}`);
  await administrator.press('Discard');
});

describe('no form overwrites what somebody else saved unseen', () => {
  it.each(Object.entries(FORMS))('%s', async (_kind, form) => {
    const id = await form.make();
    const field = form.field ?? 'Name';
    await administrator.goTo(form.page(id));
    if (form.open) await form.open();
    await administrator.fill(field, `Mine ${mark}`);
    await change(form, id, `Theirs ${mark}`);

    // Left and taken up later: what was typed is there, beside what stands there now.
    await administrator.goTo('/catalog');
    await administrator.read('assets');
    await administrator.goTo(form.page(id));
    if (form.open) await form.open();
    await administrator.read('You left this unfinished');
    await administrator.read('Somebody else changed this after you opened it.');
    expect(await administrator.text()).toContain(`Theirs ${mark}`);
    expect(await textOf(form, id)).toBe(`Theirs ${mark}`);
    expect(await administrator.axe()).toEqual([]);

    await administrator.press(`Keep mine: ${field}`);
    await save();
    await driver.wait(async () => (await textOf(form, id)) === `Mine ${mark}`, PATIENCE, 'mine is not saved');
    await colleague.send('DELETE', `${form.list}/${id}${form.list === '/classes' ? '?columns=0' : ''}`, undefined);
  });

  it('a plan that is changed while its form is open: the form meets it when it is saved', async () => {
    const sources = await colleague.call<{ id: string; name: string }[]>('/sources');
    const { id } = await colleague.send<Held>(
      'POST',
      `/sources/${sources.find((entry) => entry.name === 'Booking system')?.id}/plans`,
      { ...plan, name: `Plan ${mark}` },
    );
    await administrator.goTo(`/plans/${id}`);
    await administrator.fill('Name', `My plan ${mark}`);
    await colleague.send('PATCH', `/plans/${id}`, { name: `Their plan ${mark}` }, 1);
    await administrator.press('Save plan');
    await administrator.read('As it stands now');
    await administrator.press('Take theirs: Name');
    expect((await colleague.call<Held>(`/plans/${id}`)).name).toBe(`Their plan ${mark}`);
    await colleague.send('DELETE', `/plans/${id}`, undefined);
  });

  const save = () =>
    administrator.retry(async () =>
      (await administrator.xpath('//button[starts-with(normalize-space(), "Save") and not(@disabled)]')).click(),
    );
});

describe('what one person typed', () => {
  it('is gone when they sign out, and is not there for whoever comes next', async () => {
    await administrator.goTo('/glossary?term=new');
    await administrator.fill('Name', 'Something not for others');
    await administrator.goTo('/catalog');
    await administrator.read('assets');
    await administrator.press('Jorun Pell');
    await administrator.press('Sign out');
    await administrator.read('a demo');
    expect(await driver.executeScript<string>('return JSON.stringify({ ...localStorage })')).not.toContain(
      'Something not for others',
    );
    await administrator.signInAs('Sunniva Dahlmark');
    await administrator.goTo('/glossary?term=new');
    expect(await (await administrator.field('Name')).getAttribute('value')).toBe('');
  });

  it('stays theirs on a machine that somebody else uses without their having signed out', async () => {
    await administrator.fill('Name', 'A word of Sunniva');
    await driver.manage().deleteAllCookies();
    await administrator.signInAs('Maud Ilkley');
    await administrator.goTo('/glossary?term=new');
    expect(await administrator.text()).not.toContain('A word of Sunniva');
    await driver.manage().deleteAllCookies();
    await administrator.signInAs('Sunniva Dahlmark');
    await administrator.goTo('/glossary?term=new');
    await administrator.read('You left this unfinished');
    await administrator.read('A word of Sunniva');
    await administrator.press('Begin anew');
    expect(await (await administrator.field('Name')).getAttribute('value')).toBe('');
  });
});
