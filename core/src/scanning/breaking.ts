/**
 * Whether a change at a source can break what is made from it: what is gone, another type, another kind, values that may now be missing.
 * @param what what changed, as comparisons say it: `type: integer → text`
 * @returns in words, or undefined when nothing breaks
 */
export function breaking(change: 'changed' | 'gone', what: readonly string[]): string | undefined {
  if (change === 'gone') return 'gone';
  const parts = what.filter((entry) => /^(type|kind): /.test(entry) || entry === 'nullable: false → true');
  return parts.length > 0 ? parts.join(', ') : undefined;
}
