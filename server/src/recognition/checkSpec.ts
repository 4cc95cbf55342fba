import { compileName, compileTest, type DetectorSpec, failingExamples, SpecProblem } from '@idrel/core/recognition';
import type { Db } from '../platform/database.ts';
import { invalid } from '../platform/problems.ts';
import { knownClasses } from './registry.ts';

/** @throws 422 naming the field of the specification that is wrong, or the examples that come out wrong */
export function checkSpec(spec: DetectorSpec): void {
  try {
    compileName(spec.namePattern);
    compileTest(spec);
    if (spec.nameNeeded && spec.namePattern.trim() === '')
      throw new SpecProblem('namePattern', 'The name is needed, but no pattern says which.');
  } catch (error) {
    if (!(error instanceof SpecProblem)) throw error;
    throw invalid(error.message, 'Correct it, and save again. Nothing was saved.', [
      { field: `spec.${error.field}`, message: error.message },
    ]);
  }
  const { taken, notTaken } = failingExamples(spec);
  const said = [
    notTaken.length > 0 ? `it does not take ${notTaken.slice(0, 3).join(', ')}` : '',
    taken.length > 0 ? `it takes ${taken.slice(0, 3).join(', ')}` : '',
  ]
    .filter(Boolean)
    .join(', and ');
  if (said)
    throw invalid(`The detector's own examples come out wrong: ${said}.`, 'Change the rule, or the examples.', [
      ...notTaken.map((value) => ({ field: 'spec.accepts', message: `${value} is not taken` })),
      ...taken.map((value) => ({ field: 'spec.rejects', message: `${value} is taken` })),
    ]);
}

/** @throws 422 when there is no such class, or it is retired */
export async function mustHaveClass(db: Db, key: string): Promise<string> {
  const about = (await knownClasses(db)).get(key);
  if (!about || about.retired)
    throw invalid('There is no such class, or it is retired.', 'Choose another class, or make one.', [
      { field: 'classKey', message: 'is not in use' },
    ]);
  return about.label;
}

/** @throws 422 when a combination names a class that is not in use, or the detector's own */
export async function checkBeside(db: Db, classKey: string, { value }: DetectorSpec): Promise<void> {
  if (value?.kind !== 'combination') return;
  const known = await knownClasses(db);
  const wrong = value.classKeys.filter((key) => key === classKey || !known.has(key) || known.get(key)?.retired);
  if (wrong.length > 0)
    throw invalid(
      `${wrong.join(', ')} cannot stand beside it: ${wrong.includes(classKey) ? 'it is the class itself' : 'there is no such class, or it is retired'}.`,
      'Choose other classes.',
      [{ field: 'spec.value.classKeys', message: `${wrong.join(', ')} cannot stand beside it` }],
    );
}
