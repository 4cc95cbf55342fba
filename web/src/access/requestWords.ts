import type { GrantBody, RequestAnswer } from '@idrel/contract/access';
import { maskInWords } from '@idrel/core/access/masks';
import { plural } from '../marks/index.tsx';
import { lastDay } from './Conditions.tsx';

/** What a request is for, shortly: its first asset, and how many more. */
export function whatFor({ assets, hidden }: Pick<RequestAnswer, 'assets' | 'hidden'>): string {
  const [first] = assets;
  const more = assets.length - 1 + hidden;
  if (!first) return hidden > 0 ? plural(hidden, 'asset') : 'what is not in the catalog any more';
  return more > 0 ? `${first.path} and ${plural(more, 'more asset')}` : first.path;
}

/** How a request stands, in a word or two: what was granted only in part says so. */
export function stateWords(request: Pick<RequestAnswer, 'state' | 'granted' | 'assets' | 'columns'>): string {
  const { state, granted, assets, columns } = request;
  if (state !== 'granted' || !granted) return state;
  const wholly =
    granted.assetIds.length >= assets.length &&
    (granted.columns === null || (!granted.columnsBut && granted.columns.length === columns?.length)) &&
    granted.masked === null;
  return wholly ? 'granted' : granted.masked ? 'granted, masked' : 'granted in part';
}

/** What was granted, as parts of a sentence. */
export function grantWords({ columns, columnsBut, until, stated, masked }: GrantBody, purpose: string): string[] {
  return [
    columns ? `${columnsBut ? 'all columns but' : 'only'} ${columns.join(', ')}` : 'all columns',
    ...(masked
      ? [
          `${masked.columns ? `${masked.columnsBut ? 'all but ' : ''}${masked.columns.join(', ')}` : 'all of it'} shown as ${maskInWords(masked.mask)}`,
        ]
      : []),
    ...(stated ? [`for who states “${purpose}”`] : []),
    until ? `until the end of ${lastDay(until)}` : 'without an end',
  ];
}

/** Who answers a request, as a sentence. */
export const answersWords = (answerers: RequestAnswer['answerers']): string =>
  answerers.length === 0
    ? 'A policy administrator of its domain answers.'
    : `${answerers.map(({ name, deputy }) => (deputy ? `${deputy} answers for ${name}, who is away` : `${name} answers`)).join('; ')}.`;

/** Who answers a request, with who stands in. */
export const answererWords = (answerers: RequestAnswer['answerers']): string =>
  answerers.length === 0
    ? 'a policy administrator of its domain'
    : answerers.map(({ name, deputy }) => (deputy ? `${deputy}, for ${name}, who is away` : name)).join(', ');
