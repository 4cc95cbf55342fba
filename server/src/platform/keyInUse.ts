import { type Endpoint, type Scope, scopeOf } from '@idrel/contract/http';
import { ApiProblem } from './problems.ts';

/** How far the key goes by which a program calls. */
export interface KeyInUse {
  readonly scopes: readonly Scope[];
  /** It holds wherever its person has rights. */
  readonly everywhere: boolean;
}

/** Whether a key opens an operation. What is for anybody takes none. @throws 403 */
export function admitKey(endpoint: Endpoint, { scopes, everywhere }: KeyInUse): void {
  const refuse = (detail: string, mend: string) => new ApiProblem('key-scope', detail, { mend });
  const needs = scopeOf(endpoint);
  if (endpoint.may === 'anybody' && endpoint.method === 'get') return;
  if (!needs || endpoint.may === 'anybody')
    throw refuse('No key of a program opens this.', 'Sign in: it is about your own sessions, keys or routines.');
  if (!scopes.includes(needs.scope))
    throw refuse(
      `The key does not reach so far: this takes the scope “${needs.scope}”.`,
      'Make a key with that scope under Settings → Keys for programs.',
    );
  if (needs.whole && !everywhere)
    throw refuse(
      'The key holds for some domains only, and this reaches beyond them.',
      'Make a key that holds wherever you have rights.',
    );
}
