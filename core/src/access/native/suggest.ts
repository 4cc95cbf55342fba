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
 */
export function suggestFor(role: string, people: readonly Candidate[], groups: readonly Candidate[]): Suggestion[] {
  const name = plain(role);
  if (name === '') return [];
  const exact: Suggestion[] = [];
  const within: Suggestion[] = [];
  for (const person of people) {
    const logins = loginsOf(person);
    const same = logins.find(({ login }) => login === name);
    if (same) exact.push({ id: person.id, why: same.why });
    else if (logins.some(({ login }) => login.length >= TELLING && name.includes(login)))
      within.push({ id: person.id, why: 'their name stands in it' });
  }
  for (const group of groups) {
    const called = plain(group.name);
    if (singular(called) === singular(name)) exact.push({ id: group.id, why: 'is the name of the group' });
    else if (called.length >= TELLING && name.includes(singular(called)))
      within.push({ id: group.id, why: 'the name of the group stands in it' });
  }
  return [...exact, ...within].slice(0, 5);
}
