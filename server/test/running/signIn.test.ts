import type { Mail } from '@idrel/standins';
import { expect, it } from 'vitest';
import { ADDRESS, Caller } from './caller.ts';

/** A browser that follows nobody by itself: what it was sent to, and the cookies it keeps for each address. */
class Browser {
  readonly #cookies = new Map<string, string>();
  async go(url: string, form?: Record<string, string>) {
    const { origin } = new URL(url);
    const kept = [...this.#cookies].filter(([key]) => key.startsWith(`${origin} `)).map(([, pair]) => pair);
    const response = await fetch(url, {
      redirect: 'manual',
      headers: { cookie: kept.join('; ') },
      ...(form ? { method: 'POST', body: new URLSearchParams(form) } : {}),
    });
    for (const set of response.headers.getSetCookie()) {
      const pair = set.split(';')[0] ?? '';
      this.#cookies.set(`${origin} ${pair.split('=')[0]}`, pair);
    }
    const location = response.headers.get('location');
    return { status: response.status, to: location ? new URL(location, url).href : null, text: await response.text() };
  }
  /** Follows until a page comes, or an address that is not the provider's. */
  async follow(url: string | null) {
    let at = url ?? '';
    for (;;) {
      const { to } = await this.go(at);
      if (!to) return at;
      at = to;
      if (at.startsWith(ADDRESS)) return at;
    }
  }
  get session(): string {
    return this.#cookies.get(`${ADDRESS} idrel_session`) ?? '';
  }
}

const BACK = `${ADDRESS}/api/v1/sign-in/outside/back`;
async function comeAs(person: string, to = '/glossary') {
  const browser = new Browser();
  const { to: provider } = await browser.go(`${ADDRESS}/api/v1/sign-in/outside?to=${encodeURIComponent(to)}`);
  const choosing = await browser.follow(provider);
  const chosen = await browser.go(choosing, { person });
  const back = await browser.follow(chosen.to);
  return { browser, back };
}
const sessionOf = async (cookie: string) =>
  (await (await fetch(`${ADDRESS}/api/v1/session`, { headers: { cookie } })).json()) as {
    person: { name: string } | null;
    ways: { mailbox: string };
  };

it('one signs in by the identity provider, and comes back to where one wanted to go', async () => {
  const { browser, back } = await comeAs('bettina-sark', '/assets?filter=kind:table');
  expect(back.startsWith(`${BACK}?`)).toBe(true);
  const landed = await browser.go(back);
  expect(landed).toMatchObject({ status: 302, to: `${ADDRESS}/assets?filter=kind:table` });
  expect((await sessionOf(browser.session)).person?.name).toBe('Bettina Sark');
  // The same answer opens nothing a second time, nor in another browser.
  expect((await browser.go(back)).to).toBe(`${ADDRESS}/?refused=expired`);
  expect((await new Browser().go(back)).to).toBe(`${ADDRESS}/?refused=expired`);
});

it('an answer that belongs to another browser, or is not the provider’s, opens nothing', async () => {
  const victim = new Browser();
  await victim.go(`${ADDRESS}/api/v1/sign-in/outside`);
  const attacker = await comeAs('maud-ilkley');
  expect((await victim.go(attacker.back)).to).toBe(`${ADDRESS}/?refused=failed`);
  expect(victim.session).toBe('');
  const forged = new Browser();
  const { to } = await forged.go(`${ADDRESS}/api/v1/sign-in/outside`);
  const state = new URL(to ?? '').searchParams.get('state');
  expect((await forged.go(`${BACK}?code=guessed&state=${state}`)).to).toBe(`${ADDRESS}/?refused=failed`);
});

it('nobody is led elsewhere by signing in, and whoever is not known here is told so', async () => {
  for (const to of ['https://evil.example/', '//evil.example', '/\\evil.example', '/\t/evil.example', 'glossary']) {
    const { browser, back } = await comeAs('emrys-strand', to);
    expect((await browser.go(back)).to, to).toBe(`${ADDRESS}/`);
  }
  const stranger = await comeAs('ivo-lenz');
  expect((await stranger.browser.go(stranger.back)).to).toBe(`${ADDRESS}/?refused=unknown`);
  const nobody = await comeAs('');
  expect((await nobody.browser.go(nobody.back)).to).toBe(`${ADDRESS}/?refused=cancelled`);
});

it('a link is sent to who is there, and nothing tells who is; with it they set a password, and sign in by it', async () => {
  const email = `vidar.${process.pid}@tarnholm.example`;
  const head = await new Caller().as('Jorun Pell');
  const person = {
    name: `Vidar Moe ${process.pid}`,
    email,
    job: '',
    groupIds: [],
    grants: [{ role: 'reader', domainId: null }],
  };
  const { id } = (await head.call('POST', '/people', person)).body;
  expect((await head.call('POST', `/people/${id}/password-link`)).status).toBe(204);
  const { mailbox } = (await sessionOf('')).ways;
  const mails = async (to: string) =>
    (await (await fetch(`${mailbox}/messages?to=${encodeURIComponent(to)}`)).json()) as Mail[];
  await expect.poll(async () => (await mails(email)).length).toBe(1);
  const [mail] = await mails(email);
  expect(mail?.subject).toBe('Your way into Idrel');
  const token = /\/set-password#(\S+)/.exec(mail?.text ?? '')?.[1] ?? '';
  const stranger = new Caller();
  expect((await stranger.call('POST', '/password-links/read', { token })).body).toMatchObject({
    email,
    name: person.name,
  });
  const password = `harbour ${process.pid} bell lichen`;
  expect((await stranger.call('POST', '/password-links/use', { token, password: 'harbour' })).status).toBe(422);
  expect((await stranger.call('POST', '/password-links/use', { token, password })).status).toBe(200);
  expect((await stranger.call('POST', '/password-links/use', { token, password })).status).toBe(410);
  const signedIn = new Caller();
  const opened = await signedIn.call('POST', '/session', { email, password });
  expect(opened.body.person).toMatchObject({ name: person.name });
  signedIn.token = opened.body.csrf;
  expect((await signedIn.call('PUT', '/password', { now: 'wrong', password })).status).toBe(401);
  const next = { now: password, password: `${password} anew` };
  expect((await signedIn.call('PUT', '/password', next)).body).toEqual({ ended: 0 });
  expect((await new Caller().call('POST', '/session', { email, password })).status).toBe(401);

  // Whether somebody has an address or not, the answer is the same; only the mailbox knows.
  const asked = async (address: string) => {
    const { status, body } = await stranger.call('POST', '/password-links', { email: address });
    return { status, body };
  };
  expect(await asked(`nobody.${process.pid}@tarnholm.example`)).toEqual(await asked(email));
  await expect
    .poll(async () => (await mails(email)).map(({ subject }) => subject))
    .toEqual(expect.arrayContaining(['A new password for Idrel', 'Your password for Idrel was set']));
  expect(await mails(`nobody.${process.pid}@tarnholm.example`)).toEqual([]);
});
