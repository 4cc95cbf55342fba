/** Why a statement does not pass; `code` is stable, the text is for people. */
export class RefusedStatement extends Error {
  readonly code:
    | 'syntax'
    | 'statement'
    | 'construct'
    | 'function'
    | 'type'
    | 'unknown-table'
    | 'no-access'
    | 'together'
    | 'source';
  /** What to write instead, where that can be told of this statement. */
  readonly mend: string | undefined;
  constructor(code: RefusedStatement['code'], message: string, mend?: string) {
    super(message);
    this.name = 'RefusedStatement';
    this.code = code;
    this.mend = mend;
  }
}
