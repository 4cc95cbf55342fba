/** Why a statement does not pass; `code` is stable, the text is for people. */
export class RefusedStatement extends Error {
  readonly code: 'syntax' | 'statement' | 'construct' | 'function' | 'type' | 'unknown-table' | 'no-access' | 'source';
  constructor(code: RefusedStatement['code'], message: string) {
    super(message);
    this.name = 'RefusedStatement';
    this.code = code;
  }
}
