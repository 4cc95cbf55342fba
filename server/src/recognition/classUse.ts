import type { ProblemCode } from '@idrel/contract/http';
import type { ClassCarriers } from '@idrel/contract/recognition';
import type { Db } from '../platform/database.ts';
import { type ApiProblem, conflict } from '../platform/problems.ts';

/** What names data classes: each keeper of references to them tells what of it names one, whether that is in the way of its removal, and lets go of it. */
export interface ClassUse {
  /** What names the class, to be shown with what carries it. */
  named?(db: Db, key: string): Promise<Partial<Pick<ClassCarriers, 'policies' | 'routines' | 'rules' | 'detectors'>>>;
  /** @throws 409 when what names the class has to go, or to change, before it */
  mayGo?(carriers: ClassCarriers): void;
  /** Takes away what is kept of the class when it goes. */
  forget?(tx: Db, key: string): Promise<unknown>;
}

/** What stands in the way of a class that is to go. @param verb for one, and for several */
export function inTheWay(
  code: ProblemCode,
  names: readonly string[],
  [one, several]: readonly [string, string],
  what: string,
  mend: string,
): ApiProblem {
  return conflict(code, `${names.join(', ')} ${names.length === 1 ? one : several} ${what}.`, mend);
}
