import type { LinkPreview } from '@idrel/contract/catalog';
import type { Who } from '../people/index.ts';
import type { Config } from '../platform/config.ts';
import type { Db } from '../platform/database.ts';
import { listLinks } from './links.ts';
import { type PageHead, pageHead } from './pageHead.ts';

/** So much of a page is read: its head stands at its beginning. */
const MOST_BYTES = 256 * 1024;
const SECONDS = 4;
const REDIRECTS = 3;
const KEPT_MS = 10 * 60_000;
const KEPT_MOST = 500;
/** Of an asset's links so many are asked for. */
const MOST_LINKS = 20;

type Looked = PageHead & { readonly problem: string | null };
const nothing = (problem: string): Looked => ({ title: null, text: null, site: null, problem });

/** What was looked at lately, by address: the same for everybody, since it was asked for as a stranger. */
const looked = new Map<string, { readonly at: number; readonly found: Promise<Looked> }>();

/** Whether pages may be asked for there: the operator names the hosts, `*.` for all below one. */
export function isNamed(hosts: readonly string[], { host, hostname, port }: URL): boolean {
  return hosts.some((named) =>
    named.startsWith('*.') ? hostname.endsWith(named.slice(1)) && port === '' : named === host,
  );
}

/**
 * What the pages say of themselves that the links of an asset lead to. Only places that the operator has named are asked, as a stranger: without a
 * name, a cookie or anything of who looks.
 */
export async function linkPreviews(
  db: Db,
  { previewHosts }: Pick<Config, 'previewHosts'>,
  who: Who,
  assetId: string,
): Promise<LinkPreview[]> {
  const links = await listLinks(db, who, assetId);
  const asked = links
    .filter(({ url }) => /^https?:/i.test(url) && isNamed(previewHosts, new URL(url)))
    .slice(0, MOST_LINKS);
  return Promise.all(asked.map(async ({ id, url }) => ({ linkId: id, ...(await lookedAt(previewHosts, url)) })));
}

function lookedAt(hosts: readonly string[], url: string): Promise<Looked> {
  const now = Date.now();
  const known = looked.get(url);
  if (known && now - known.at < KEPT_MS) return known.found;
  const found = lookAt(hosts, new URL(url)).catch((error: Error) =>
    nothing(error.name === 'TimeoutError' ? `It did not answer within ${SECONDS} seconds.` : 'It does not answer.'),
  );
  looked.delete(url);
  looked.set(url, { at: now, found });
  for (const oldest of looked.keys()) {
    if (looked.size <= KEPT_MOST) break;
    looked.delete(oldest);
  }
  return found;
}

async function lookAt(hosts: readonly string[], first: URL): Promise<Looked> {
  const signal = AbortSignal.timeout(SECONDS * 1000);
  let url = first;
  for (let steps = 0; ; steps += 1) {
    const answer = await fetch(url, {
      redirect: 'manual',
      signal,
      credentials: 'omit',
      headers: { accept: 'text/html', 'user-agent': 'Idrel' },
    });
    const on = answer.status >= 300 && answer.status < 400 ? answer.headers.get('location') : null;
    if (!on) return await toldBy(answer);
    await answer.body?.cancel();
    url = new URL(on, url);
    // Who is led elsewhere is led to where one signs in, mostly; and what was not named is not asked.
    if (steps === REDIRECTS || !isNamed(hosts, url)) return nothing('It leads elsewhere, where nothing is asked.');
  }
}

async function toldBy(answer: Response): Promise<Looked> {
  const type = answer.headers.get('content-type') ?? '';
  if (answer.ok && /^text\/html\b/i.test(type)) return { ...pageHead(await beginning(answer, type)), problem: null };
  await answer.body?.cancel();
  if (answer.status === 401 || answer.status === 403) return nothing('It asks who you are.');
  if (answer.status === 404 || answer.status === 410)
    return nothing(`The page is not there any more (${answer.status}).`);
  return nothing(answer.ok ? 'It is no page.' : `It answers with an error (${answer.status}).`);
}

/** The beginning of a page, as text in the characters that it says it is written in. */
async function beginning(answer: Response, type: string): Promise<string> {
  const decoder = decoderOf(/charset="?([\w-]+)/i.exec(type)?.[1] ?? 'utf-8');
  let text = '';
  let bytes = 0;
  for await (const chunk of answer.body ?? []) {
    text += decoder.decode(chunk as Uint8Array, { stream: true });
    bytes += (chunk as Uint8Array).length;
    if (bytes >= MOST_BYTES) break;
  }
  return text.slice(0, MOST_BYTES);
}

function decoderOf(name: string) {
  try {
    return new TextDecoder(name);
  } catch {
    return new TextDecoder();
  }
}
