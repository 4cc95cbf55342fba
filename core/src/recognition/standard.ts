import { stdnum } from 'stdnum';

const LONGEST = 40;

/**
 * Whether a value is a number of a country's standard, by the rules that the library `stdnum` collects (forms, ranges, check digits).
 *
 * @param country ISO 3166-1 alpha-2
 * @param name what the library calls the standard
 * @throws when the library does not know it
 */
export function byStandard(country: string, name: string): (value: string) => boolean {
  const check = stdnum[country]?.[name];
  if (!check) throw new Error(`There is no standard ${country}.${name}.`);
  return (value) => {
    // Numbers have digits, and no standard is longer.
    if (value.length > LONGEST || !/\d/.test(value)) return false;
    // The library says no by errors, which would each write down where they were made: that costs more than the check.
    const limit = Error.stackTraceLimit;
    Error.stackTraceLimit = 0;
    try {
      return check.validate(value).isValid;
    } finally {
      Error.stackTraceLimit = limit;
    }
  };
}
