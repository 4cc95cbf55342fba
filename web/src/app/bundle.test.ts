import { readdirSync, readFileSync } from 'node:fs';
import { fileURLToPath } from 'node:url';
import { describe, expect, it } from 'vitest';

/** What a file takes from elsewhere that is there when it runs: types are not. */
const valuesTaken = (code: string) =>
  [...code.matchAll(/^import\s+(type\s+)?(?:(\{[^}]*\})|[^'{]+)\s*from '([^']+)'/gm)].flatMap(
    ([, type, names, from = '']) => {
      const only = names
        ?.replace(/[{}]/g, '')
        .split(',')
        .map((name) => name.trim())
        .filter(Boolean)
        .every((name) => name.startsWith('type '));
      return type || only ? [] : [from];
    },
  );

/** Rooms of the contract and of core that bring a validator of schemas or a parser of SQL along, which no browser needs. */
const HEAVY = /^@idrel\/(contract\/(?!http\/address$|things$)|core\/(lineage|access|sql|recognition)$)/;

describe('what is sent to browsers', () => {
  it('tells what is taken as a value from what is taken as a type', () => {
    expect(
      valuesTaken(
        "import type { A } from 'a';\nimport { type B, type C } from 'b';\nimport { type D, e } from 'c';\nimport F from 'd';\nimport {\n  g,\n} from 'e';",
      ),
    ).toEqual(['c', 'd', 'e']);
  });

  it('holds no schemas and no parser: of the contract, types are taken alone', () => {
    const here = fileURLToPath(new URL('..', import.meta.url));
    const files = readdirSync(here, { recursive: true, encoding: 'utf8' }).filter(
      (file) => /[.]tsx?$/.test(file) && !/[.]test[.]|testing/.test(file),
    );
    expect(files.length).toBeGreaterThan(200);
    expect(
      files.flatMap((file) =>
        valuesTaken(readFileSync(here + file, 'utf8')).flatMap((from) =>
          HEAVY.test(from) ? [`${file}: ${from}`] : [],
        ),
      ),
    ).toEqual([]);
  });
});
