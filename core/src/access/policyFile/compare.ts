import { type PolicyInFile, plainly } from './types.ts';

export interface PolicyChange {
  readonly at: string;
  readonly name: string;
  readonly fields: readonly { readonly field: string; readonly before: string; readonly after: string }[];
}

/** What a file makes of the policies that there are; policies are known by their names. */
export interface PolicyComparison {
  readonly fresh: readonly { readonly at: string; readonly policy: PolicyInFile }[];
  readonly changed: readonly (PolicyChange & { readonly policy: PolicyInFile })[];
  readonly same: number;
  /** Names of those that are not in the file. */
  readonly absent: readonly string[];
}

const told = (value: unknown): string =>
  value === undefined
    ? ''
    : typeof value === 'string'
      ? value
      : Array.isArray(value) && value.every((one) => typeof one !== 'object')
        ? value.join(', ')
        : typeof value === 'object' && value !== null
          ? Object.entries(value)
              .map(([key, inner]) => `${key}: ${told(inner)}`)
              .join('; ')
          : String(value);

/** Compares what a file says with what there is. */
export function comparePolicies(
  now: readonly PolicyInFile[],
  file: readonly { readonly at: string; readonly policy: PolicyInFile }[],
): PolicyComparison {
  const known = new Map(now.map((policy) => [policy.name, plainly(policy)]));
  const named = new Set(file.map(({ policy }) => policy.name));
  const fresh: { at: string; policy: PolicyInFile }[] = [];
  const changed: (PolicyChange & { policy: PolicyInFile })[] = [];
  let same = 0;
  for (const { at, policy } of file) {
    const before = known.get(policy.name);
    const after = plainly(policy);
    if (!before) {
      fresh.push({ at, policy: after });
      continue;
    }
    const fields = [...new Set([...Object.keys(before), ...Object.keys(after)])].flatMap((field) => {
      const [was, will] = [before[field as keyof PolicyInFile], after[field as keyof PolicyInFile]];
      return JSON.stringify(was) === JSON.stringify(will)
        ? []
        : [
            {
              field,
              before: field === 'enabled' ? told(was ?? true) : told(was),
              after: field === 'enabled' ? told(will ?? true) : told(will),
            },
          ];
    });
    if (fields.length === 0) same += 1;
    else changed.push({ at, name: policy.name, fields, policy: after });
  }
  return { fresh, changed, same, absent: now.flatMap(({ name }) => (named.has(name) ? [] : [name])) };
}
