import { randomBytes } from 'node:crypto';
import type { MaskedExample } from '@idrel/contract/access';
import { appliedMask, type Mask, maskedValue } from '@idrel/core/access';
import type { Who } from '../people/index.ts';
import type { Db } from '../platform/database.ts';
import { lookingDetectors } from '../recognition/index.ts';
import { digestsFor } from './digests.ts';

/** Values as they are found in an office, all made up. */
const EXAMPLES: readonly (readonly [what: string, type: string, value: string])[] = [
  ['A name', 'text', 'Ingrid Solbakken'],
  ['An e-mail address', 'text', 'ingrid@solbakken.example'],
  ['A telephone number', 'text', '+47 900 11 223'],
  ['A postcode', 'text', 'UV12 4AB'],
  ['A date of birth', 'date', '1984-06-17'],
  ['An amount', 'numeric', '1284.50'],
  ['A number', 'integer', '48213'],
  ['A yes or no', 'boolean', 'true'],
];
const CLASSES_SHOWN = 4;
const OF_EACH = 2;

/** What a mask does to made-up values: to those of the classes named, or to some of each kind. */
export async function maskSample(db: Db, who: Who, mask: Mask, classKeys: readonly string[]): Promise<MaskedExample[]> {
  who.mustAnywhere('policy administrator');
  const detectors = classKeys.length > 0 ? await lookingDetectors(db) : [];
  const ofClasses = classKeys.slice(0, CLASSES_SHOWN).flatMap((key) => {
    const detector = detectors.find((one) => one.classKey === key && one.accepts.length > 0);
    return (detector?.accepts ?? []).slice(0, OF_EACH).map((value) => [key, typeOf(value), value] as const);
  });
  const examples = ofClasses.length > 0 ? ofClasses : EXAMPLES;
  // By the true key it would be told what readers get for a value.
  const digest = digestsFor({ digestKey: randomBytes(32) }, '');
  const today = new Date().toISOString().slice(0, 10);
  return examples.map(([what, type, value]) => {
    const applied = appliedMask(mask, { type, fewValues: false });
    const shown = maskedValue({ id: '', type, mask: applied.mask }, value, digest, today);
    return { what, type, value, shown, instead: applied.instead };
  });
}

const typeOf = (value: string): string =>
  /^\d{4}-\d\d-\d\d$/.test(value) ? 'date' : /^-?\d{1,9}$/.test(value) ? 'integer' : 'text';
