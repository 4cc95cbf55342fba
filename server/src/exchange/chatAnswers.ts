import { createHash } from 'node:crypto';
import { type GrantBody, type GrantEffect, type RequestAnswer, SAID_LONGEST } from '@idrel/contract/access';
import type { SuggestionAnswer } from '@idrel/contract/curation';
import type { ChatReply } from '@idrel/contract/exchange';
import { onOneLine, shortened } from '@idrel/core/text';
import { answerRequest, grantEffect, listRequests, readRequest } from '../access/index.ts';
import { listSuggestions, refuseSuggestions, takeSuggestions } from '../curation/index.ts';
import type { Who } from '../people/index.ts';
import type { Database } from '../platform/database.ts';
import { ApiProblem, notFound } from '../platform/problems.ts';
import { assetBehind } from './chatAssets.ts';

/** So many requests and suggestions are told at once; of tables so many by name; of a text so many letters. */
const [REQUESTS, SUGGESTIONS, TABLES, LETTERS] = [10, 8, 5, 200];
/** So many requests that wait are looked through for those that somebody may answer. */
const WAITING = 200;

/** Who writes, and where what they do is shown. */
interface Writing {
  readonly db: Database;
  readonly who: Who;
  readonly address: string;
}
type Replies = Promise<ChatReply[]>;

const short = (text: string): string => shortened(onOneLine(text), LETTERS);
const alone = (lines: readonly string[], link: string | null = null): ChatReply[] => [
  { text: lines.join('\n'), link, only: true },
];
const day = (moment: string) =>
  new Date(moment).toLocaleDateString('en-GB', { day: 'numeric', month: 'long', year: 'numeric' });

/** A few letters that stand for something as it is now: whoever writes them has seen it so. */
const printOf = (seen: unknown): string => createHash('sha256').update(JSON.stringify(seen)).digest('hex').slice(0, 6);

/** What the lines that can be written do, for who asks for help. */
export const ANSWERING_HELP =
  '“requests” tells which requests for access wait for you, “suggestions” and an address of an asset what could be said of it.';

type Command = readonly [pattern: RegExp, act: (writing: Writing, words: readonly string[]) => Replies];
const COMMANDS: readonly Command[] = [
  [/^\s*requests\s*$/i, (writing) => waiting(writing)],
  [
    /^\s*grant\s+(\d{1,9})(?:\s+([0-9a-f]{6}))?\s*$/i,
    (writing, [number, print]) => grant(writing, Number(number), print),
  ],
  [/^\s*refuse\s+(\d{1,9})(?:\s+([\s\S]*\S))?\s*$/i, (writing, [number, why]) => refuse(writing, Number(number), why)],
  [/^\s*suggestions\s+(\S+)\s*$/i, (writing, [link = '']) => suggestions(writing, link)],
  [/^\s*take\s+([0-9a-f]{6})\s+(\S+)\s*$/i, (writing, [print = '', link = '']) => settle(writing, print, link, true)],
  [/^\s*leave\s+([0-9a-f]{6})\s+(\S+)\s*$/i, (writing, [print = '', link = '']) => settle(writing, print, link, false)],
];

/** What a text asks to be done, if it does: requests and suggestions that are told, and answered. */
export function commandIn(text: string): ((writing: Writing) => Replies) | undefined {
  for (const [pattern, act] of COMMANDS) {
    const [, ...words] = pattern.exec(text) ?? [];
    if (pattern.test(text)) return (writing) => act(writing, words);
  }
  return undefined;
}

const pathsOf = ({ assets, hidden }: RequestAnswer): string => {
  const [first, ...more] = assets;
  const others = more.length + hidden;
  return `${first?.path ?? 'something you may not see'}${others > 0 ? ` and ${others} more` : ''}`;
};

/** What somebody asks for, and how it is answered. */
export const requestInWords = (request: RequestAnswer): string =>
  [
    `${request.number}: ${request.person.name} asks to read ${pathsOf(request)} for “${short(request.purpose)}”${request.until ? `, until ${day(request.until)}` : ''}.`,
    ...(request.note ? [`  ${short(request.note)}`] : []),
    `  grant ${request.number} (says what it would open) · refuse ${request.number} and why`,
  ].join('\n');

async function waiting({ db, who, address }: Writing): Replies {
  const { items, total } = await listRequests(db, who, { which: 'waiting', limit: WAITING });
  const mine = items.filter(({ mayAnswer }) => mayAnswer);
  const link = `${address}/access?show=requests`;
  if (mine.length === 0) return alone(['No request for access waits for you.'], link);
  const more = mine.length > REQUESTS || total > items.length ? [`And more: ${link}`] : [];
  return alone([...mine.slice(0, REQUESTS).map(requestInWords), ...more], link);
}

/** The request of a number that waits for an answer. @throws 404 when none does that they may answer */
async function requestOf({ db, who }: Writing, number: number): Promise<RequestAnswer> {
  // The first behind the number before it.
  const { items } = await listRequests(db, who, { which: 'waiting', below: number - 1, limit: 1 });
  const found = items.find((one) => one.number === number && one.mayAnswer);
  if (!found) throw notFound(`A request ${number} that waits for your answer`);
  return readRequest(db, who, found.id);
}

/** As it was asked for: nothing more, and nothing masked that policies do not mask. */
const asAsked = ({ assets, columns, until }: RequestAnswer): GrantBody => ({
  assetIds: assets.map(({ id }) => id),
  columns,
  columnsBut: false,
  until,
  stated: false,
  masked: null,
});

function effectInWords({ tables, total, gains, sensitive, kept }: GrantEffect): string[] {
  const many = (count: number, one: string) => `${count} ${one}${count === 1 ? '' : 's'}`;
  const told = tables.slice(0, TABLES).map(({ table, before, after, sensitive: guarded, limited }) => {
    const more = after.plain + after.masked - before.plain - before.masked;
    return `  ${table}: ${many(more, 'column')} more, ${after.masked} masked${guarded > 0 ? `, ${guarded} guarded or sealed as they are` : ''}${limited ? ', not all rows' : ''}`;
  });
  return [
    `${many(gains, 'column')} of ${many(total, 'table')} more than now, ${sensitive} of them guarded or sealed.`,
    ...told,
    ...(total > told.length ? [`  and ${total - told.length} more tables`] : []),
    ...kept.map(({ policy, columns }) => `  Kept all the same by “${policy}”: ${many(columns, 'column')}`),
  ];
}

/** Tells what granting would open; and grants, once that was seen. What would open something else by now is told anew. */
async function grant(writing: Writing, number: number, print: string | undefined): Replies {
  const { db, who, address } = writing;
  const request = await requestOf(writing, number);
  const link = `${address}/access?show=requests&request=${request.id}`;
  const body = asAsked(request);
  const effect = await grantEffect(db, who, request.id, body);
  const seen = printOf([request.version, body, effect]);
  if (print?.toLowerCase() !== seen)
    return alone(
      [
        ...(print === undefined ? [] : ['It would open something else by now.']),
        `Granting request ${number} lets ${request.person.name} read ${pathsOf(request)}${request.until ? ` until ${day(request.until)}` : ', without an end'}:`,
        ...effectInWords(effect),
        `To grant it so: grant ${number} ${seen}`,
        'To mask some of it, or let it end, answer it there.',
      ],
      link,
    );
  await db.transaction((tx) =>
    answerRequest(tx, who, request.id, request.version, { decision: 'granted', text: '', grant: body }),
  );
  return alone([`Request ${number} is granted: ${request.person.name} may read ${pathsOf(request)}.`], link);
}

async function refuse(writing: Writing, number: number, why: string | undefined): Replies {
  const { db, who, address } = writing;
  const request = await requestOf(writing, number);
  const link = `${address}/access?show=requests&request=${request.id}`;
  if (why === undefined)
    return alone([`A refusal says why: ${request.person.name} reads it.`, `refuse ${number} and a sentence`], link);
  // Nothing is cut off of what somebody wrote.
  if (why.length > SAID_LONGEST)
    return alone(
      [`That is longer than ${SAID_LONGEST.toLocaleString('en')} letters: say it shorter. Nothing was answered.`],
      link,
    );
  await db.transaction((tx) =>
    answerRequest(tx, who, request.id, request.version, { decision: 'refused', text: why, grant: null }),
  );
  return alone([`Request ${number} is refused, and ${request.person.name} is told why.`], link);
}

/** The asset at an address of this server, with what could be said of it. @throws 404, 422 */
async function suggestedAt({ db, who, address }: Writing, link: string) {
  const path = link.startsWith(`${address}/`) ? link.slice(address.length) : link;
  const asset = path.startsWith('/') ? await assetBehind(db, who, path) : undefined;
  if (!asset) throw notFound('An asset at this address');
  return { asset, all: await listSuggestions(db, who, asset.id) };
}

const printOfSuggestion = ({ asset, field, value }: SuggestionAnswer): string => printOf([asset.id, field, value]);

async function suggestions(writing: Writing, link: string): Replies {
  const { asset, all } = await suggestedAt(writing, link);
  const at = `${writing.address}/assets/${asset.id}`;
  if (all.length === 0) return alone([`Nothing is suggested for ${asset.path}.`], at);
  const lines = all.slice(0, SUGGESTIONS).map((one) => {
    const clue = one.clues[0];
    const because = clue ? ` (${clue.kind}${clue.of > 1 ? `, ${clue.say} of ${clue.of}` : ''})` : '';
    return `${one.asset.name}, ${one.field}: ${short(one.label)}${because}\n  take ${printOfSuggestion(one)} ${at}`;
  });
  const more = all.length > SUGGESTIONS ? [`And ${all.length - SUGGESTIONS} more: ${at}`] : [];
  return alone([...lines, ...more, '“leave” in place of “take”: it does not come back.'], at);
}

async function settle(writing: Writing, print: string, link: string, taken: boolean): Replies {
  const { asset, all } = await suggestedAt(writing, link);
  const at = `${writing.address}/assets/${asset.id}`;
  const one = all.find((suggested) => printOfSuggestion(suggested) === print.toLowerCase());
  if (!one)
    throw new ApiProblem('not-found', `${print} is no suggestion for ${asset.path}, or not any more.`, {
      mend: `Write “suggestions ${at}” for those that there are.`,
    });
  const item = { assetId: one.asset.id, field: one.field, value: one.value };
  if (!taken) {
    await writing.db.transaction((tx) => refuseSuggestions(tx, writing.who, [item], true));
    return alone([`It is left, and does not come back: ${one.asset.name}, ${one.field}.`], at);
  }
  const { passedOver } = await writing.db.transaction((tx) => takeSuggestions(tx, writing.who, [item], true));
  return alone(
    passedOver.length > 0
      ? [`It was not taken: ${passedOver[0]?.why}.`]
      : [`Taken: ${one.asset.name}, ${one.field}: ${short(one.label)}`],
    at,
  );
}
