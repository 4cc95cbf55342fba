// @vitest-environment jsdom
import { beforeEach, describe, expect, it } from 'vitest';
import { forgetLately, latelyOf, looked, searched } from './lately.ts';

beforeEach(() => localStorage.clear());
const asset = (id: string, path = `quay.${id}`) => ({ id, kind: 'table', path });

describe('what was searched for and looked at lately', () => {
  it('comes the latest first, each once, and not without end', () => {
    for (const filter of ['kind:table', 'owner:none', 'kind:table', '  ']) searched('me', filter);
    expect(latelyOf('me').searches).toEqual(['kind:table', 'owner:none']);
    for (let at = 0; at < 30; at += 1) looked('me', asset(String(at)));
    looked('me', asset('20', 'quay.renamed'));
    expect(latelyOf('me').assets).toHaveLength(12);
    expect(latelyOf('me').assets[0]).toEqual(asset('20', 'quay.renamed'));
    expect(latelyOf('me').assets.filter(({ id }) => id === '20')).toHaveLength(1);
  });

  it('has a search once that was written letter by letter', () => {
    for (const filter of ['owner:none', 'pass', 'passenger', 'passenger kind:table']) searched('me', filter);
    expect(latelyOf('me').searches).toEqual(['passenger kind:table', 'owner:none']);
  });

  it('is one person’s own, and forgotten when they leave', () => {
    searched('me', 'owner:none');
    searched('other', 'kind:view');
    expect(latelyOf('other').searches).toEqual(['kind:view']);
    forgetLately('me');
    expect([latelyOf('me').searches, latelyOf('other').searches]).toEqual([[], ['kind:view']]);
  });

  it('is nothing where what is kept cannot be read', () => {
    localStorage.setItem('idrel-lately:me', '{"searches": 3');
    expect(latelyOf('me')).toEqual({ searches: [], assets: [] });
    localStorage.setItem('idrel-lately:me', '{"searches": 3, "assets": []}');
    expect(latelyOf('me')).toEqual({ searches: [], assets: [] });
    searched('me', 'kind:file');
    expect(latelyOf('me').searches).toEqual(['kind:file']);
  });
});
