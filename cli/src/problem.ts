/** A problem of what was asked for, in words: it ends the command with exit code 2. */
export class CliProblem extends Error {
  readonly mend: string;
  constructor(message: string, mend: string) {
    super(message);
    this.name = 'CliProblem';
    this.mend = mend;
  }
}
