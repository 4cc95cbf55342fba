import { cutWord, fold, nameWords, romanised } from '../text/index.ts';
import type { Called } from './pattern.ts';

/** Standings, in the order in which an asset usually passes through them. */
export const STANDINGS = ['unreviewed', 'reviewed', 'trusted', 'retiring'] as const;
/** Kinds of notice, the gravest last. */
export const NOTICE_KINDS = ['note', 'caution', 'stop'] as const;
export type NoticeKind = (typeof NOTICE_KINDS)[number];
/** How much something matters; its place in this list is its grade. */
export const PRIORITIES = ['ordinary', 'important', 'critical'] as const;
export type Priority = (typeof PRIORITIES)[number];
/** What a link of an asset leads to. */
export const LINK_KINDS = ['document', 'ticket', 'query', 'repository', 'chat', 'other'] as const;
export type LinkKind = (typeof LINK_KINDS)[number];
/** By what lists of assets are sorted. */
export const SORTS = [
  'relevance',
  'name',
  'kind',
  'source',
  'standing',
  'level',
  'priority',
  'urgency',
  'use',
  'size',
  'path',
] as const;
export type Sort = (typeof SORTS)[number];
export type Standing = (typeof STANDINGS)[number];

/** What a filter can see of an asset. */
export interface AssetFacts {
  readonly kind: string;
  readonly source: string;
  /** Its own domain and those above it. */
  readonly domains: readonly string[];
  /** Confirmed or still open classes, dismissed ones not; keys. */
  readonly classes: readonly string[];
  /** Those of them that came along lineage. */
  readonly arrived: readonly string[];
  readonly owners: readonly string[];
  readonly stewards: readonly string[];
  readonly custodians: readonly string[];
  readonly experts: readonly string[];
  readonly terms: readonly string[];
  /** Keys of tags, and of those with a value also both, as `key/value`. */
  readonly tags: readonly string[];
  /** Those of them that came along lineage. */
  readonly came: readonly string[];
  /** 1 to 4, or null. */
  readonly level: number | null;
  /** The grade of its priority: its own, or what it inherits, whichever is higher. */
  readonly priority: number;
  readonly standing: Standing;
  /** Kinds of its notices that hold today. */
  readonly notices: readonly string[];
  readonly described: boolean;
  readonly gone: boolean;
  readonly name: string;
  /** Its type at the source, or null. */
  readonly type: string | null;
  /** How often it was asked for at its source, and whether that source tells what is asked of it at all. */
  readonly uses: number;
  readonly usesTold: boolean;
  /** How much room it takes at its source, in bytes; null where that does not say. */
  readonly bytes: number | null;
  /** When it was last asked for, when it was first seen; milliseconds since 1970. */
  readonly asked: number | null;
  readonly created: number;
  /** When somebody, or a scan, last changed it; as it was first seen where nobody did. */
  readonly changed: number;
  /** When it was certified, if it is trusted by that; when its source was last read. */
  readonly certified: number | null;
  readonly read: number | null;
  /** Its names from the top on, as lists join them. */
  readonly path: string;
  /** What it lies in, all the way up. */
  readonly above: readonly Called[];
  /** What is made from it at any number of steps, with what that lies in; and what it is made from. */
  readonly upstreamOf: readonly Called[];
  readonly downstreamOf: readonly Called[];
  /** Whether it is made from something, and something from it, in one step, of what whoever asks may see. */
  readonly isMade: boolean;
  readonly makesOthers: boolean;
  /** Words it is found by, made by {@link searchWords}: of itself, and of the labels of the terms and the keys and values of the tags that it carries. */
  readonly words: readonly string[];
  readonly wordsCarried: readonly string[];
}

/** An asset of which nothing is known: what is known of one is told beside it. */
export const NO_FACTS: AssetFacts = {
  kind: '',
  source: '',
  domains: [],
  classes: [],
  arrived: [],
  owners: [],
  stewards: [],
  custodians: [],
  experts: [],
  terms: [],
  tags: [],
  came: [],
  level: null,
  priority: 0,
  standing: 'unreviewed',
  notices: [],
  described: false,
  gone: false,
  name: '',
  type: null,
  uses: 0,
  usesTold: false,
  bytes: null,
  asked: null,
  created: 0,
  changed: 0,
  certified: null,
  read: null,
  path: '',
  above: [],
  upstreamOf: [],
  downstreamOf: [],
  isMade: false,
  makesOthers: false,
  words: [],
  wordsCarried: [],
};

/** Of a longer text the first words count: an index has room for so many. */
const MOST_WORDS = 4000;

/** The words under which an asset is found: those of its names, then those of texts about it. Folded, without repetition. */
export function searchWords(
  names: readonly string[],
  texts: readonly (string | null | undefined)[],
): { names: string[]; texts: string[] } {
  const fromNames = new Set<string>();
  for (const name of names) {
    for (const word of nameWords(name)) for (const spelled of romanised(word)) fromNames.add(spelled);
    const whole = fold(name).replace(/[^\p{L}\p{N}]/gu, '');
    if (whole) for (const spelled of romanised(cutWord(whole))) fromNames.add(spelled);
  }
  const fromTexts = new Set<string>();
  for (const text of texts)
    for (const word of nameWords(text ?? ''))
      for (const spelled of romanised(word))
        if (!fromNames.has(spelled) && fromTexts.size < MOST_WORDS) fromTexts.add(spelled);
  return { names: [...fromNames], texts: [...fromTexts] };
}

/** What a word of a filter asks for: each of these must be there. */
export const wantedWords = (text: string): readonly string[] => nameWords(text);
