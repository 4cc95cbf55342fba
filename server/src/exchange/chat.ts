import { randomUUID } from 'node:crypto';
import type { RequestAnswer } from '@idrel/contract/access';
import type { ChatMessage, ChatReply } from '@idrel/contract/exchange';
import { onOneLine, shortened } from '@idrel/core/text';
import { cardAt, type FinderClient, findAssets } from '../catalog/index.ts';
import { loadWho, type Who } from '../people/index.ts';
import { onlyWith } from '../platform/bearer.ts';
import type { Config } from '../platform/config.ts';
import type { Database, Db } from '../platform/database.ts';
import type { Posted } from '../platform/post.ts';
import { ApiProblem } from '../platform/problems.ts';
import { ANSWERING_HELP, commandIn, requestInWords } from './chatAnswers.ts';
import { assetBehind } from './chatAssets.ts';
import { send } from './signed.ts';

/** So many assets a search in the chat tells; so many addresses of a message are looked at; of a meaning so many letters. */
const [FOUND, ADDRESSES, LETTERS] = [5, 3, 300];
/** The operator named where the chat is: no network is closed to it. */
const ANYWHERE = { callNetworks: ['0.0.0.0/0', '::/0'] };

/** What somebody is told in the chat, to them alone: signed as webhooks are. */
export function tellInChat(
  { chat }: Pick<Config, 'chat'>,
  message: { readonly to: string; readonly text: string },
): Promise<Posted> {
  if (!chat) throw new Error('IDREL_CHAT_URL is not set: nobody can be told in a chat.');
  return send(ANYWHERE, chat.url, [chat.secret], { id: `chat-${randomUUID()}`, ...message });
}

/** Tells somebody in the chat of a request for access that waits for them. @throws when it is not taken */
export async function tellOfWaiting(config: Pick<Config, 'chat'>, to: string, request: RequestAnswer): Promise<void> {
  const { problem } = await tellInChat(config, { to, text: requestInWords(request) });
  if (problem !== null) throw new Error(`The chat did not take it. ${problem}`);
}

/** Lets nobody past but the chat that the operator named. */
export const chatOnly = ({ config: { chat } }: { readonly config: Pick<Config, 'chat'> }) =>
  onlyWith(
    chat?.secret,
    'unknown-chat',
    'The secret is not that of the chat that this server speaks with.',
    'Send IDREL_CHAT_SECRET as a bearer token.',
  );

/** As keys do, the chat acts for people: the journal calls it so. */
const BY_CHAT = { id: 'chat', name: 'the chat' };

const alone = (text: string, link: string | null = null): ChatReply => ({ text, link, only: true });
const short = (text: string | null): string => shortened(onOneLine(text ?? ''), LETTERS);

/** What a search finds, as whoever asks may see it. */
async function found(db: Db, finder: FinderClient, who: Who, address: string, filter: string): Promise<ChatReply[]> {
  const { items, total } = await findAssets(db, finder, who, {
    filter,
    sort: 'relevance',
    descending: false,
    limit: FOUND,
    offset: 0,
  });
  const all = `${address}/catalog?filter=${encodeURIComponent(filter)}`;
  if (items.length === 0) return [alone(`Nothing that you may see is found by ${filter}`, all)];
  const lines = items.map(({ id, path, kind, source, description }) => {
    const meaning = short(description);
    return `${path} (${kind} in ${source})${meaning ? `: ${meaning}` : ''}\n  ${address}/assets/${id}`;
  });
  const more = total > items.length ? [`${total - items.length} more: ${all}`] : [];
  return [alone([...lines, ...more].join('\n'), all)];
}

/** What an address leads to: for everybody what is shown to strangers; for whoever asks what they may see. */
async function unfolded(db: Db, who: Who, link: string): Promise<ChatReply[]> {
  const { pathname } = new URL(link);
  const card = await cardAt(db, pathname);
  const open: ChatReply[] =
    card.standing === null ? [] : [{ text: `${card.title}\n${card.description}`, link, only: false }];
  const asset = await assetBehind(db, who, pathname);
  if (!asset) return open.length > 0 ? open : [alone('There is nothing at this address that you may see.', link)];
  const facts = [
    `${asset.kind} in ${asset.source}, ${asset.domain}`,
    asset.standing,
    asset.owners.length > 0 ? `owner: ${asset.owners.map(({ name }) => name).join(', ')}` : 'no owner',
    ...(asset.level === null ? [] : [`level ${asset.level}`]),
    ...(asset.gone ? ['gone from its source'] : []),
  ].join(' · ');
  const notices = asset.notices.map(({ kind, text }) => `${kind}: ${text}`);
  return [
    ...open,
    alone([asset.path, facts, short(asset.description) || 'not described yet', ...notices].join('\n'), link),
  ];
}

/** Addresses of this server within a text: of assets, in the order in which they stand, each once. */
export function addressesIn(text: string, address: string): string[] {
  const links = text.split(/[\s<>"]+/).filter((word) => word.startsWith(`${address}/`));
  const plain = links.map((link) => link.replace(/[),.;:!?]+$/, ''));
  return [...new Set(plain)].filter((link) => URL.canParse(link) && /^\/(assets|at)\//.test(new URL(link).pathname));
}

/** What is said to what somebody wrote in the chat. The chat says who wrote: their address is who they are here. */
export async function repliesTo(
  db: Database,
  finder: FinderClient,
  config: Pick<Config, 'address'> & { readonly chat: Pick<NonNullable<Config['chat']>, 'answers'> | null },
  { from, text }: ChatMessage,
): Promise<ChatReply[]> {
  const address = config.address ?? '';
  const asked = /^\s*find\s+(\S[\s\S]*)$/i.exec(text)?.[1]?.trim();
  const links = addressesIn(text, address).slice(0, ADDRESSES);
  const command = commandIn(text);
  const helps = /^\s*(help|find)\s*$/i.test(text);
  if (asked === undefined && links.length === 0 && !helps && !command) return [];
  const person = await db.one<{ id: string }>(
    'select id from person where lower(email) = lower($1) and left_at is null and partner_id is null',
    [from],
  );
  const who = person && (await loadWho(db, person.id));
  if (!who) return [alone(`Nobody here has the address ${from}. Ask an administrator to add you.`, address)];
  if (helps)
    return [
      alone(
        `Write “find” and a search (find passenger email, find class:email level>=2), or an address of an asset.${config.chat?.answers ? ` ${ANSWERING_HELP}` : ''}`,
        address,
      ),
    ];
  try {
    if (command) {
      if (!config.chat?.answers)
        return [alone('Requests and suggestions are not answered in this chat: do it there.', address)];
      // The journal says that it was done by way of the chat.
      return await command({ db, who: who.byKey(BY_CHAT, null), address });
    }
    if (asked !== undefined) return await found(db, finder, who, address, asked);
    return (await Promise.all(links.map((link) => unfolded(db, who, link)))).flat();
  } catch (error) {
    if (!(error instanceof ApiProblem)) throw error;
    return [alone([error.message, error.more.mend].filter(Boolean).join(' '))];
  }
}
