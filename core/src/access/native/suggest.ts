/** Somebody, or a group, that may be who comes in as a role. */
export interface Candidate {
  readonly id: string;
  readonly name: string;
  /** Of a person. */
  readonly email?: string;
}
export interface Suggestion {
  readonly id: string;
  readonly why: string;
}

/** As names are compared: letters without marks and digits, nothing between them. */
const plain = (text: string): string =>
  text
    .normalize('NFKD')
    .toLowerCase()
    .replaceAll(/[^\p{L}\p{N}]/gu, '');

/** A name of this length within another is no chance. */
const TELLING = 8;

/** The names by which a person is likely to come in. */
function loginsOf({ name, email }: Candidate): { readonly login: string; readonly why: string }[] {
  const words = name.split(/\s+/).map(plain).filter(Boolean);
  const [first = '', last = ''] = [words[0], words.at(-1)];
  const mailbox = email === undefined ? '' : plain(email.slice(0, email.lastIndexOf('@')));
  const short = words.length > 1 ? [`${first.charAt(0)}${last}`, `${last}${first.charAt(0)}`, `${last}${first}`] : [];
  return [
    { login: words.join(''), why: 'is their name' },
    ...(mailbox ? [{ login: mailbox, why: 'is their e-mail address' }] : []),
    ...short.map((login) => ({ login, why: 'is made of their name' })),
  ];
}

const singular = (word: string) => word.replace(/s$/, '');

/**
 * Who may come in as a role, by its name: a person whose name or address it is or holds, or a group of its name. The likeliest first; at most five.
 * @returns what answers for one role: names are made ready once
 */
export function suggester(
  people: readonly Candidate[],
  groups: readonly Candidate[],
): (role: string) => readonly Suggestion[] {
  const exact = new Map<string, Suggestion[]>();
  const within: { readonly part: string; readonly suggestion: Suggestion }[] = [];
  const know = (name: string, suggestion: Suggestion) => {
    const same = exact.get(name) ?? [];
    if (!same.some(({ id }) => id === suggestion.id)) exact.set(name, [...same, suggestion]);
  };
  for (const person of people)
    for (const { login, why } of loginsOf(person)) {
      if (login === '') continue;
      know(login, { id: person.id, why });
      if (login.length >= TELLING)
        within.push({ part: login, suggestion: { id: person.id, why: 'their name stands in it' } });
    }
  for (const group of groups) {
    const called = singular(plain(group.name));
    for (const name of [called, `${called}s`]) know(name, { id: group.id, why: 'is the name of the group' });
    if (called.length >= TELLING)
      within.push({ part: called, suggestion: { id: group.id, why: 'the name of the group stands in it' } });
  }
  return (role) => {
    const name = plain(role);
    const found = new Map((exact.get(name) ?? []).map((suggestion) => [suggestion.id, suggestion]));
    for (const { part, suggestion } of within)
      if (!found.has(suggestion.id) && name.includes(part)) found.set(suggestion.id, suggestion);
    return [...found.values()].slice(0, 5);
  };
}
