import type { DomainAnswer } from '@idrel/contract/people';
import { beforeAll, describe, expect, it } from 'vitest';
import { ADDRESS, Caller } from './caller.ts';

let head: Caller;
let id = '';
let place = '';
let domain = '';
beforeAll(async () => {
  head = await new Caller().as('Jorun Pell');
  const found = await head.call('GET', `/assets?filter=${encodeURIComponent('kind:table name:vehicle_carried')}`);
  const asset = (await head.call('GET', `/assets/${found.body.items[0].id}`)).body;
  ({ id, place, domainId: domain } = asset);
});

async function show(shown: boolean) {
  const domains = (await head.call('GET', '/domains')).body as DomainAnswer[];
  const { id, version, owner, name, purpose, parentId } = domains.find((entry) => entry.id === domain) as DomainAnswer;
  const body = { name, purpose, parentId, ownerId: owner?.id ?? null, shownOutside: shown };
  return head.call('PUT', `/domains/${id}`, body, { 'if-match': `"v${version}"` });
}
/** The page as a chat reads it, which nobody has signed in to. */
async function pasted(path: string): Promise<Map<string, string>> {
  const page = await (await fetch(ADDRESS + path, { headers: { accept: 'text/html' } })).text();
  return new Map(
    [...page.matchAll(/<meta property="(og:[a-z_]+)" content="([^"]*)" \/>/g)].map(([, name = '', text = '']) => [
      name,
      text,
    ]),
  );
}
const oembed = async (url: string, more = '') => {
  const answer = await fetch(`${ADDRESS}/api/v1/oembed?url=${encodeURIComponent(url)}${more}`);
  return { status: answer.status, body: (await answer.json()) as Record<string, unknown> };
};

describe('an address that is pasted elsewhere', () => {
  it('shows strangers nothing of what is not shown outside, and the same where nothing is', async () => {
    const closed = await pasted(`/assets/${id}`);
    expect(closed.get('og:title')).toBe('An asset in Idrel');
    const nowhere = await pasted('/assets/6e3f0b0e-0000-4000-8000-000000000000');
    closed.delete('og:url');
    nowhere.delete('og:url');
    expect(nowhere).toEqual(closed);
    expect((await oembed(`${ADDRESS}/assets/${id}`)).body).toEqual((await oembed(`${ADDRESS}/assets/x`)).body);
    expect((await oembed('no address')).body).toMatchObject({ title: 'An asset in Idrel' });
  });

  it('shows what it leads to where the domain is shown outside, escaped, by Open Graph and oEmbed', async () => {
    const { version, description } = (await head.call('GET', `/assets/${id}`)).body;
    const meaning = 'Cars & "vans" <script>alert(1)</script> $& $1';
    const edited = await head.call('PATCH', `/assets/${id}`, { description: meaning }, { 'if-match': `"v${version}"` });
    expect(edited.status).toBe(200);
    expect((await show(true)).body).toMatchObject({ shownOutside: true });
    const tags = await pasted(`/assets/${id}`);
    expect(tags.get('og:title')).toBe('booking.vehicle_carried');
    expect(tags.get('og:description')).toContain(
      'Cars &amp; &quot;vans&quot; &lt;script&gt;alert(1)&lt;/script&gt; $&amp; $1',
    );
    expect((await pasted(place)).get('og:title')).toBe('booking.vehicle_carried');
    const page = await (await fetch(`${ADDRESS}/assets/${id}`, { headers: { accept: 'text/html' } })).text();
    const [, link = ''] = /type="application\/json\+oembed" href="([^"]+)"/.exec(page) ?? [];
    const answer = await (await fetch(ADDRESS + link.replaceAll('&amp;', '&'))).json();
    expect(answer).toMatchObject({
      version: '1.0',
      type: 'link',
      title: 'booking.vehicle_carried',
      provider_name: 'Idrel',
    });
    expect((await oembed(`${ADDRESS}/assets/${id}`, '&format=xml')).status).toBe(501);
    expect((await show(false)).status).toBe(200);
    const now = (await head.call('GET', `/assets/${id}`)).body.version;
    await head.call('PATCH', `/assets/${id}`, { description }, { 'if-match': `"v${now}"` });
    expect((await pasted(`/assets/${id}`)).get('og:title')).toBe('An asset in Idrel');
  });
});
