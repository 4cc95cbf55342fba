import { PURPOSE_LONGEST } from '@idrel/contract/access';

/** The setting by which a client states what it reads for. */
export const PURPOSE_SETTING = 'idrel.purpose';

/** A purpose as it is noted; null for none. */
export const purposeIn = (value: string): string | null => value.trim().slice(0, PURPOSE_LONGEST) || null;

/** What a client says that it reads for when it connects: `-c idrel.purpose=…` among its options, where a backslash stands before each space. */
export function purposeStated(options: string): string | null {
  const words = options.match(/(?:\\.|[^\s\\])+/gs) ?? [];
  const said = words
    .map((word, at) => (word === '-c' ? words[at + 1] : word.replace(/^-c|^--/, '')) ?? '')
    .findLast((word) => word.toLowerCase().replaceAll('-', '_').startsWith(`${PURPOSE_SETTING}=`));
  return said ? purposeIn(said.slice(PURPOSE_SETTING.length + 1).replace(/\\(.)/gs, '$1')) : null;
}
