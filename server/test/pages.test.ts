import { existsSync } from 'node:fs';
import { readFile } from 'node:fs/promises';
import { fileURLToPath } from 'node:url';
import { describe, expect, it } from 'vitest';
import { filesOf, pageFor } from '../src/pages.ts';

const WEB = fileURLToPath(new URL('../../web/dist/', import.meta.url));

describe('the page that is sent for an address', () => {
  it('names the files of the view there, which are there, and none twice', async () => {
    for (const [path, view] of [
      ['/', 'Worklist'],
      ['/worklist', 'Worklist'],
      ['/catalog', 'Catalog'],
      ['/sources', 'Sources'],
      ['/recognition', 'Recognition'],
      ['/glossary', 'Glossary'],
      ['/lineage', 'Lineage'],
      ['/access', 'Access'],
      ['/routines', 'Routines'],
      ['/coverage', 'Coverage'],
      ['/settings', 'Settings'],
      ['/assets/01a22066-4f03-7000-8000-1c809d750ce3', 'AssetPage'],
    ] as const) {
      const named = [...(await pageFor(WEB, path)).matchAll(/(?:href|src)="\/(assets\/[^"]+)"/g)].map(
        ([, file = '']) => file,
      );
      expect(
        named.filter((file) => !existsSync(`${WEB}${file}`)),
        path,
      ).toEqual([]);
      expect(new Set(named).size, path).toBe(named.length);
      expect(
        named.some((file) => file.startsWith(`assets/${view}-`)),
        path,
      ).toBe(true);
    }
  });

  it('is the plain page where it is not known which view that is', async () => {
    const plain = await readFile(`${WEB}index.html`, 'utf8');
    for (const path of ['/nowhere', '/catalog/many', '/sources/x/plans/new', '/__proto__', '/constructor'])
      expect(await pageFor(WEB, path)).toBe(plain);
    expect(filesOf({}, '/catalog')).toEqual([]);
  });
});
