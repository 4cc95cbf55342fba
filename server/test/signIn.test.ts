import { afterAll, beforeAll, beforeEach, describe, expect, it } from 'vitest';
import { firstWay, loadWho, type Who } from '../src/people/index.ts';
import { judgePassword } from '../src/people/judgePassword.ts';
import { cameBack, personOutside, type Refused, type Said } from '../src/people/outside.ts';
import { askLink, invite, makeLink, readLink, runMailTask, usePasswordLink } from '../src/people/passwordLinks.ts';
import { personByPassword, setPassword } from '../src/people/passwords.ts';
import { forgetSignIns, holdFor } from '../src/people/tries.ts';
import type { Config, OutsideConfig } from '../src/platform/config.ts';
import { digest, newToken } from '../src/platform/secrets.ts';
import { freshDatabase, refused, staffed } from './place.ts';

const GOOD = 'crab lantern violet tide';
const AT = 'http://idrel.example';
const outside = { issuer: 'https://pass.example', name: 'Pass', addsPeople: false } as OutsideConfig;
const config = { passwords: true, address: AT, mail: { url: 'smtp://127.0.0.1:1', from: 'x@y' }, outside } as Config;

let place: Awaited<ReturnType<typeof freshDatabase>>;
let who: Who;
let reader: Who;
beforeAll(async () => {
  place = await freshDatabase();
  ({ who, reader } = await staffed(place.db));
  await place.db.run("update person set email = 'rune@example.org' where id = $1", [reader.id]);
});
afterAll(() => place?.drop());
beforeEach(async () => {
  await place.db.run('delete from sign_in_try');
  await place.db.run('delete from password_link');
  await place.db.run('delete from outside_identity');
  await place.db.run('delete from graphile_worker._private_jobs');
  await place.db.run('update person set password_hash = null');
});

const tx = <T>(work: (tx: Parameters<Parameters<typeof place.db.transaction>[0]>[0]) => Promise<T>) =>
  place.db.transaction(work);
const known = () => ({ id: reader.id, name: reader.name, email: 'rune@example.org' });
const signIn = (password: string, email = 'rune@example.org', browser: Buffer | null = null) =>
  personByPassword(place.db, email, password, browser);
const tokenOf = (link: string) => link.split('#')[1] ?? '';
const linkFor = (why: 'forgotten' | 'invited' = 'forgotten') =>
  tx(async (held) => tokenOf(await makeLink(held, AT, reader.id, why)));
const journal = (action: string) =>
  place.db.rows<{ principal: string; after: unknown }>(
    'select coalesce(principal, (select name from person where id = person_id)) as principal, after from journal where action = $1 order by id',
    [action],
  );

describe('a password', () => {
  it.each([
    ['short', 'must be at least 12 characters long'],
    ['x'.repeat(201), 'must be at most 200 characters long'],
    ['password1234', 'is among the passwords that are tried first'],
    ['Passw0rd2026!', 'is among the passwords that are tried first'],
    ['rune.example99', 'is made from what is known of you'],
    ['111111111111111111', 'is guessed soon'],
  ])('%s is not taken: it %s', (password, wrong) => {
    expect(judgePassword(password, ['Rune', 'rune@example.org'])).toContain(wrong);
  });
  it('is taken when it is hard to guess, whatever it is made of', () => {
    for (const password of [GOOD, 'ættir og þúfur í móa', 'Vq7 zzT p0-k2m', `${GOOD} ${'and more '.repeat(15)}`])
      expect(judgePassword(password, ['Rune']), password).toBeUndefined();
  });
});

describe('tries', () => {
  it('wait after the fifth wrong one in a row, twice as long each time, an hour at most', () => {
    expect([1, 4, 5, 6, 7, 20].map(holdFor)).toEqual([0, 0, 60, 120, 240, 3600]);
  });

  it('are held back by address, whether it is anybody’s or not; the right password then counts no more than a wrong one', async () => {
    await tx((held) => setPassword(held, known(), GOOD));
    for (const email of ['rune@example.org', 'nobody@example.org']) {
      for (let at = 0; at < 5; at += 1)
        expect(await refused(signIn('wrong', email))).toMatchObject({ code: 'wrong-sign-in' });
      expect(await refused(signIn(GOOD, email.toUpperCase()))).toMatchObject({ code: 'too-many-tries', status: 429 });
    }
    await place.db.run("update sign_in_try set held_until = now() - interval '1 second'");
    expect(await signIn(GOOD)).toMatchObject({ id: reader.id });
    // What was wrong before does not count any more.
    expect(await refused(signIn('wrong'))).toMatchObject({ code: 'wrong-sign-in' });
  });

  it('of strangers do not keep somebody out who comes in a browser that they signed in with before', async () => {
    await tx((held) => setPassword(held, known(), GOOD));
    for (let at = 0; at < 6; at += 1) await refused(signIn('wrong'));
    expect(await refused(signIn(GOOD))).toMatchObject({ code: 'too-many-tries' });
    expect(await signIn(GOOD, 'rune@example.org', digest(newToken()))).toMatchObject({ id: reader.id });
  });

  it('at the same time are no more than one after the other', async () => {
    const all = await Promise.all(Array.from({ length: 40 }, () => refused(signIn('wrong'))));
    expect(all.filter((answer) => answer?.code === 'wrong-sign-in')).toHaveLength(5);
    expect(all.filter((answer) => answer?.code === 'too-many-tries')).toHaveLength(35);
  });

  it('are forgotten after two days, as are links and browsers that are past', async () => {
    await refused(signIn('wrong'));
    await linkFor();
    await place.db.run("update sign_in_try set tried_at = now() - interval '3 days'");
    await place.db.run("update password_link set expires_at = now() - interval '3 days'");
    await place.db.run('insert into known_browser values ($1, $2, now())', [digest('a'), reader.id]);
    await place.db.run("insert into known_browser values ($1, $2, now() - interval '181 days')", [
      digest('b'),
      reader.id,
    ]);
    await forgetSignIns(place.db);
    const left = await place.db.one(
      'select (select count(*)::int from sign_in_try) as tries, (select count(*)::int from password_link) as links, (select count(*)::int from known_browser) as browsers',
    );
    expect(left).toEqual({ tries: 0, links: 0, browsers: 1 });
  });
});

describe('a link', () => {
  it('is used once; what is set by it ends all sessions, and a password that is not good enough leaves it', async () => {
    const token = await linkFor();
    expect(await tx((held) => readLink(held, token))).toMatchObject({ email: 'rune@example.org', minutes: 60 });
    await place.db.run(
      "insert into session (token_hash, person_id, csrf, expires_at) values ('s', $1, 'c', now() + interval '1 day')",
      [reader.id],
    );
    expect(await refused(tx((held) => usePasswordLink(held, token, 'password1234')))).toMatchObject({
      code: 'invalid',
    });
    expect(await tx((held) => usePasswordLink(held, token, GOOD))).toMatchObject({ name: 'Rune' });
    expect(await place.db.rows('select from session where person_id = $1', [reader.id])).toEqual([]);
    expect(await signIn(GOOD)).toMatchObject({ id: reader.id });
    expect(await refused(tx((held) => usePasswordLink(held, token, GOOD)))).toMatchObject({
      code: 'link-ended',
      status: 410,
    });
    expect((await journal('set a password')).at(-1)).toEqual({ principal: 'Rune', after: { password: 'a new one' } });
  });

  it('ends by a newer one, by time, and when its person leaves', async () => {
    const [older, newer] = [await linkFor(), await linkFor('invited')];
    const read = (token: string) => refused(tx((held) => readLink(held, token)));
    expect(await read(older)).toMatchObject({ code: 'link-ended' });
    expect(await read(newer)).toBeUndefined();
    await place.db.run('update person set left_at = now() where id = $1', [reader.id]);
    expect(await read(newer)).toMatchObject({ code: 'link-ended' });
    await place.db.run('update person set left_at = null where id = $1', [reader.id]);
    await place.db.run("update password_link set expires_at = now() - interval '1 minute'");
    expect(await read(newer)).toMatchObject({ code: 'link-ended' });
  });

  it('is kept as a digest, and stands in no job', async () => {
    await askLink(place.db, config, 'rune@example.org');
    const [job] = await place.db.rows<{ payload: unknown }>('select payload from graphile_worker._private_jobs');
    expect(job?.payload).toEqual({ kind: 'link', email: 'rune@example.org', why: 'forgotten' });
    const token = await linkFor();
    expect(JSON.stringify(await place.db.rows('select * from password_link'))).not.toContain(token);
  });

  it('was never made when its mail could not be sent', async () => {
    await expect(
      runMailTask(place.db, config, { kind: 'link', email: 'rune@example.org', why: 'forgotten' }),
    ).rejects.toThrow(/ECONNREFUSED/);
    expect(await place.db.rows('select from password_link')).toEqual([]);
    // Of an address that is nobody's, nothing is sent, so nothing fails.
    await runMailTask(place.db, config, { kind: 'link', email: 'nobody@example.org', why: 'forgotten' });
  });

  it('is sent by administrators of everything, five times an hour at most, and only where mail is set up', async () => {
    expect(await refused(tx((held) => invite(held, config, reader, reader.id)))).toMatchObject({ code: 'forbidden' });
    const without = { ...config, mail: null };
    expect(await refused(tx((held) => invite(held, without, who, reader.id)))).toMatchObject({ code: 'no-mail' });
    await tx((held) => invite(held, config, who, reader.id));
    for (let at = 0; at < 5; at += 1) await linkFor('invited');
    expect(await refused(tx((held) => invite(held, config, who, reader.id)))).toMatchObject({ code: 'too-many-tries' });
    expect(await journal('invited')).toHaveLength(1);
  });

  it('made at the machine lets the first administrator in, and nobody else become one', async () => {
    await expect(tx((held) => firstWay(held, AT, 'new@example.org', ''))).rejects.toThrow('Give a name as well');
    await expect(tx((held) => firstWay(held, AT, 'no address', ''))).rejects.toThrow('no e-mail address');
    const { link, told } = await tx((held) => firstWay(held, AT, 'new@example.org', 'Nova'));
    expect(told).toBe('Nova sets a password here, within three days:');
    const { email } = await tx((held) => readLink(held, tokenOf(link)));
    expect(email).toBe('new@example.org');
    await place.db.run("update role_grant set role = 'steward' where role = 'administrator'");
    try {
      expect((await tx((held) => firstWay(held, AT, 'new@example.org', ''))).told).toContain('administers everything');
      const nova = await place.db.one<{ id: string }>("select id from person where name = 'Nova'");
      expect((await loadWho(place.db, nova?.id ?? ''))?.isEverywhere('administrator')).toBe(true);
    } finally {
      await place.db.run("delete from role_grant where person_id = (select id from person where name = 'Nova')");
      await place.db.run("update role_grant set role = 'administrator' where person_id = $1", [who.id]);
    }
  });
});

describe('whoever comes from the identity provider', () => {
  const said = (changes: Partial<Said> = {}): Said => ({
    issuer: 'https://pass.example',
    subject: 'rune-1',
    name: 'Rune R.',
    job: 'harbour',
    email: 'Rune@example.org',
    verified: true,
    groups: undefined,
    ...changes,
  });
  const come = (changes: Partial<Said> = {}, how: Partial<OutsideConfig> = {}) =>
    tx((held) => personOutside(held, { ...outside, ...how }, said(changes)));
  const why = (changes: Partial<Said> = {}, how: Partial<OutsideConfig> = {}) =>
    come(changes, how).then(
      () => 'let in',
      (error: Refused) => error.why,
    );

  it('is known by a verified address the first time, and by the provider’s own name for them from then on', async () => {
    expect(await why({ verified: false })).toBe('not-verified');
    expect(await why({ email: null })).toBe('not-verified');
    expect(await come()).toBe(reader.id);
    expect(await come({ email: 'another@example.org', verified: false })).toBe(reader.id);
    // Whoever gets the address later is not let in as somebody else.
    expect(await why({ subject: 'rune-2' })).toBe('unknown');
    expect(await why({ issuer: 'https://other.example', email: 'stranger@example.org' })).toBe('unknown');
  });

  it('is not let in when they have left', async () => {
    await come();
    await place.db.run('update person set left_at = now() where id = $1', [reader.id]);
    expect(await why()).toBe('unknown');
    expect(await why({ subject: 'rune-3' })).toBe('unknown');
    await place.db.run('update person set left_at = null where id = $1', [reader.id]);
  });

  it('becomes a person without roles where the operator wants that', async () => {
    const id = await come({ subject: 'new', email: 'fresh@example.org', name: 'Fresh' }, { addsPeople: true });
    const fresh = await loadWho(place.db, id);
    expect(fresh).toMatchObject({ name: 'Fresh', grants: [] });
    expect(fresh?.isAnywhere('reader')).toBe(false);
    expect((await journal('created')).at(-1)).toMatchObject({ principal: 'Pass' });
  });

  it('is in the groups that the provider names, of those that follow it, and is told so in the journal', async () => {
    const group = (name: string, claim: string | null) =>
      place.db.one<{ id: string }>('insert into person_group (name, claim) values ($1, $2) returning id', [
        name,
        claim,
      ]);
    await group('Fares', 'fares');
    const [crew, own] = [await group('Crew', 'crew'), await group('Own', null)];
    await place.db.run('insert into group_member (group_id, person_id) select unnest($1::uuid[]), $2', [
      [crew?.id, own?.id],
      reader.id,
    ]);
    const groups = async () =>
      (
        await place.db.rows<{ name: string }>(
          'select name from person_group g join group_member m on m.group_id = g.id where m.person_id = $1 order by name',
          [reader.id],
        )
      ).map(({ name }) => name);
    // A provider that says nothing of groups changes none.
    await come();
    expect(await groups()).toEqual(['Crew', 'Own']);
    await come({ groups: ['fares', 'something else'] });
    expect(await groups()).toEqual(['Fares', 'Own']);
    expect((await journal('groups as the provider says')).at(-1)).toMatchObject({ after: { groups: ['Fares'] } });
    const told = await journal('groups as the provider says');
    await come({ groups: ['fares'] });
    expect(await journal('groups as the provider says')).toEqual(told);
    await come({ groups: [] });
    expect(await groups()).toEqual(['Own']);
  });

  it('gets no password by a mailbox alone: that would be a way around the provider', async () => {
    await come();
    await expect(
      runMailTask(place.db, config, { kind: 'link', email: 'rune@example.org', why: 'forgotten' }),
    ).rejects.toThrow(/ECONNREFUSED/);
    expect(await place.db.rows('select from password_link')).toEqual([]);
  });

  it('is refused when they did not sign in there, or bring an answer that was not asked for', async () => {
    const leaving = { state: 's', nonce: 'n', verifier: 'v', to: '/' };
    const back = (query: string) =>
      cameBack({ ...outside, issuer: 'http://127.0.0.1:1', clientId: 'c', clientSecret: 's' }, AT, query, leaving).then(
        () => 'let in',
        (error: Refused) => error.why,
      );
    expect(await back('error=access_denied&state=s')).toBe('cancelled');
    expect(await back('code=x&state=s')).toBe('failed');
  });
});
