import { randomBytes } from 'node:crypto';
import { describe, expect, it } from 'vitest';
import { Who } from '../src/people/index.ts';
import { readConfig } from '../src/platform/config.ts';
import { decrypt, encrypt, hashPassword, passwordMatches } from '../src/platform/secrets.ts';

describe('secrets', () => {
  const key = randomBytes(32);

  it('come back with the key, and with nothing else', () => {
    const sealed = encrypt(key, 'päss wörd');
    expect(decrypt(key, sealed)).toBe('päss wörd');
    expect(encrypt(key, 'päss wörd').equals(sealed)).toBe(false);
    expect(sealed.toString('latin1')).not.toContain('rd');
    expect(() => decrypt(randomBytes(32), sealed)).toThrow();
    const changed = Buffer.from(sealed);
    changed[changed.length - 1] = (changed.at(-1) ?? 0) ^ 1;
    expect(() => decrypt(key, changed)).toThrow();
  });

  it('of people are digests that only the password fits', async () => {
    const stored = await hashPassword('harbour');
    expect(stored).not.toContain('harbour');
    expect(await passwordMatches('harbour', stored)).toBe(true);
    expect(await passwordMatches('Harbour', stored)).toBe(false);
    expect(await passwordMatches('harbour', 'nonsense')).toBe(false);
  });
});

describe('roles', () => {
  const domains = [
    { id: 'top', parent_id: null },
    { id: 'mid', parent_id: 'top' },
    { id: 'leaf', parent_id: 'mid' },
    { id: 'other', parent_id: null },
  ];
  const who = (role: 'reader' | 'steward' | 'policy administrator' | 'administrator', domain_id: string | null) =>
    new Who({ id: 'p', name: 'P', job: '' }, [{ role, domain_id, domain: domain_id }], domains);

  it('are inherited by the domains below, and by no others', () => {
    expect(who('steward', 'mid').domainsAs('steward').sort()).toEqual(['leaf', 'mid']);
    expect(who('steward', 'mid').is('steward', 'top')).toBe(false);
  });

  it('include smaller ones, and not each other', () => {
    expect(who('steward', 'mid').is('editor', 'leaf')).toBe(true);
    expect(who('policy administrator', 'mid').is('editor', 'leaf')).toBe(false);
    expect(who('administrator', null).isEverywhere('policy administrator')).toBe(true);
    expect(who('administrator', 'top').isEverywhere('policy administrator')).toBe(false);
    expect(() => who('reader', 'top').must('steward', 'leaf')).toThrow('steward');
  });
});

describe('settings', () => {
  it('name what is missing or wrong', () => {
    expect(() => readConfig({})).toThrow('DATABASE_URL is not set');
    expect(() => readConfig({ DATABASE_URL: 'postgres://x', IDREL_KEY: 'c2hvcnQ=' })).toThrow('32 bytes');
    expect(
      readConfig({
        DATABASE_URL: 'postgres://x',
        IDREL_KEY: randomBytes(32).toString('base64'),
        IDREL_FOLDER_ROOTS: '/a:/b/',
      }),
    ).toMatchObject({
      port: 4780,
      demo: false,
      folderRoots: ['/a', '/b'],
    });
    const own = { DATABASE_URL: 'postgres://x@h:1/idrel', IDREL_KEY: randomBytes(32).toString('base64') };
    const work = (url: string) => readConfig({ ...own, IDREL_WORK_DATABASE_URL: url }).workUrl;
    expect(() => work('h:1/work')).toThrow('no address of a database');
    expect(() => work('postgres://other@h:1/idrel')).toThrow("Idrel's own database");
    expect([work('postgres://w@h:1/work'), work('')]).toEqual(['postgres://w@h:1/work', null]);
  });
});
